using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Store;

namespace Keel.Cli.Commands;

/// <summary>The store that a command works on: inside a disk, the first word; or a file by itself, with --file.</summary>
internal sealed class StoreTarget
{
    private readonly Argument<string[]> words;
    private readonly bool hasVolume;
    private readonly bool isDiskFirst;

    private readonly Option<string?> file = new("--file")
    {
        Description = "a store file by itself, instead of DISK",
        HelpName = "PATH"
    };

    private readonly Option<int?> volume = CommonOptions.Volume("the volume whose store it is; else the system volume");

    private readonly Option<string[]> with = CommonOptions.With();
    private readonly Option<bool> removable = CommonOptions.Removable();
    private readonly UnlockOptions unlocking = new();
    private readonly Option<bool> yes = CommonOptions.Yes();
    private readonly Option<bool> preview = CommonOptions.Preview();

    /// <param name="rest">What follows the disk, for the help.</param>
    /// <param name="hasVolume">Whether --volume picks the store; where the command gives it another meaning, the system
    ///     volume's is taken.</param>
    public StoreTarget(
        string rest = "",
        string description = "the disk whose store it is; left out with --file",
        bool hasVolume = true)
    {
        this.hasVolume = hasVolume;
        isDiskFirst = rest.Length == 0;
        words = new Argument<string[]>("DISK" + (rest.Length > 0 ? " " + rest : ""))
        {
            Description = description,
            Arity = ArgumentArity.ZeroOrMore
        };
        if (!isDiskFirst) words.CompletionSources.Add(context => EntriesOf(context.ParseResult));
    }

    public void AddTo(Command command, bool writes)
    {
        command.Arguments.Add(words);
        command.Options.Add(file);
        if (hasVolume) command.Options.Add(volume);
        command.Options.Add(with);
        command.Options.Add(removable);
        unlocking.AddTo(command);
        if (!writes) return;
        command.Options.Add(yes);
        command.Options.Add(preview);
    }

    /// <summary>The words behind the disk.</summary>
    public string[] Rest(ParseResult parsed) =>
        parsed.GetValue(file) is null && IsDiskNamed(parsed) ? [.. parsed.GetValue(words)!.Skip(1)] : parsed.GetValue(words)!;

    /// <summary>The entries that may be meant, for the shell: titles of the store on the disk that was typed.</summary>
    private IEnumerable<string> EntriesOf(ParseResult parsed)
    {
        var disk = parsed.GetValue(words)?.FirstOrDefault(File.Exists);
        if (disk is null && parsed.GetValue(file) is null) return [];
        try
        {
            using var machine = disk is null ? null : Machine.Open(disk);
            var store = machine is null ? StoreFile.Read(parsed.GetValue(file)!) : machine.Store.Store;
            return store is null ? [] : [.. EntryPicker.Listed(store).Select(entry => entry.Title).OfType<string>()];
        }
        catch (KeelException)
        {
            return [];
        }
    }

    public int Look(ParseResult parsed, CommonOptions common, Action<BootStore, IDeviceNames, Machine?> look)
    {
        if (parsed.GetValue(file) is { } path)
        {
            look(StoreFile.Read(path), new UnknownDevices(), null);
            return 0;
        }

        using var machine = Open(parsed, common);
        look(StoreRequests.Open(machine, Volume(parsed)), new MachineDevices(machine), machine);
        return 0;
    }

    /// <summary>
    /// What is wrong with the store: inside a disk, all that the chain's links after the boot manager say; by itself, what it
    /// says of itself.
    /// </summary>
    public IReadOnlyList<Finding> Check(ParseResult parsed, CommonOptions common)
    {
        if (parsed.GetValue(file) is { } path) return StoreHealth.Of(StoreFile.ReadBytes(path));
        using var machine = Open(parsed, common);
        return StoreHealth.Of(machine);
    }

    /// <summary>Changes the store, after plan and consent.</summary>
    /// <param name="change">Changes it, and says what that does.</param>
    public int Change(ParseResult parsed, CommonOptions common, Func<BootStore, IDeviceNames, Machine?, Remark> change)
    {
        if (parsed.GetValue(file) is { } path)
        {
            var store = StoreFile.Read(path);
            var summary = change(store, new UnknownDevices(), null);
            return WriteFile(parsed, common, path, store.ToBytes(), store, summary);
        }

        return Run(
            parsed,
            common,
            machine => StoreRequests.Change(
                machine,
                Volume(parsed),
                store => change(store, new MachineDevices(machine), machine)));
    }

    /// <summary>Puts another store in the place of the one there, after plan and consent.</summary>
    public int Replace(ParseResult parsed, CommonOptions common, Remark summary, byte[] bytes, BootStore store) =>
        parsed.GetValue(file) is { } path
            ? WriteFile(parsed, common, path, bytes, store, summary)
            : Run(parsed, common, machine => StoreRequests.Replace(machine, Volume(parsed), bytes, store, summary));

    /// <summary>The same for a store that is made for the machine; null where it is a file by itself.</summary>
    public int Replace(ParseResult parsed, CommonOptions common, Remark summary, Func<Machine?, BootStore> make)
    {
        if (parsed.GetValue(file) is { } path)
        {
            var alone = make(null);
            return WriteFile(parsed, common, path, alone.ToBytes(), alone, summary);
        }

        return Run(parsed, common, machine =>
        {
            var store = make(machine);
            return StoreRequests.Replace(machine, Volume(parsed), store.ToBytes(), store, summary);
        });
    }

    /// <summary>Carries out a plan on the disk.</summary>
    public int Run(ParseResult parsed, CommonOptions common, Func<Machine, Plan> request)
    {
        using var machine = Open(parsed, common);
        var output = common.OutputOf(parsed);
        var diagnosis = output.Working("making the plan", () => Diagnosis.OfRequest(machine, request(machine)));
        return new Repair(output, common.OpenLogbook(parsed)) { Yes = parsed.GetValue(yes), Preview = parsed.GetValue(preview) }
            .Run(machine, diagnosis, RepairTerms.Usual, new MendView(output));
    }

    public int? Volume(ParseResult parsed) => hasVolume ? parsed.GetValue(volume) : null;

    public bool Yes(ParseResult parsed) => parsed.GetValue(yes);

    private Machine Open(ParseResult parsed, CommonOptions common) => new MachineOpening(common.OutputOf(parsed))
    {
        WithRemovable = parsed.GetValue(removable),
        Terms = DiskTerms.Usual with
        {
            SpillFolder = common.OpenLogbook(parsed).Path,
            Keys = common.KeysOf(unlocking, parsed)
        }
    }.Open(IsDiskNamed(parsed) ? parsed.GetValue(words)![0] : null, parsed.GetValue(with)!);

    /// <summary>The first word is a disk where it is a path, or names something that is there.</summary>
    private bool IsDiskNamed(ParseResult parsed) => parsed.GetValue(words) is [var first, ..]
        && (isDiskFirst || first.Contains('/', StringComparison.Ordinal) || Path.Exists(first));

    private int WriteFile(
        ParseResult parsed,
        CommonOptions common,
        string path,
        byte[] bytes,
        BootStore store,
        Remark summary)
    {
        var output = common.OutputOf(parsed);
        output.Message($"{Words.Of(summary)} ({path})");
        foreach (var line in new StoreDifference(new UnknownDevices()).Between(Before(path), store))
            output.Message($"  {Words.Of(line)}");
        if (parsed.GetValue(preview)) return 0;
        new Consent(
            output,
            parsed.GetValue(
                yes)).Agree(
                    "Write it?",
                    () => output.Message($"{path}: {bytes.Length} bytes; what is there now is kept beside it"));
        var aside = StoreFile.Write(path, bytes);
        output.Paragraph(
            aside is null ? $"Written: {path}." : $"Written: {path}. What was there before is kept as {aside}.",
            style: "green");
        return 0;
    }

    /// <summary>The store that a file holds now; an empty one where it holds none.</summary>
    private static BootStore Before(string path)
    {
        try
        {
            if (File.Exists(path)) return StoreFile.Read(path);
        }
        catch (UnreadableException)
        {
            // A file that can't be read is a reason to write another.
        }

        return BootStore.Empty(DateTimeOffset.UnixEpoch);
    }
}
