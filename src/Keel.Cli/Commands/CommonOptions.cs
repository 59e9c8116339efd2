using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Core.Keys;
using Keel.Core.Logbook;
using Keel.Core.Machines;

namespace Keel.Cli.Commands;

/// <summary>Options and arguments that several commands share, each made once.</summary>
internal sealed class CommonOptions : IDisposable
{
    private Output? output;

    public Option<string> Format { get; } = new("--format")
    {
        Description = "text, or json for one document on standard output",
        Recursive = true,
        DefaultValueFactory = _ => "text"
    };

    public Option<bool> Plain { get; } = new("--plain") { Description = "no colour, ASCII only", Recursive = true };

    public Option<string> Color { get; } = new("--color")
    {
        Description = "auto, always or never",
        HelpName = "WHEN",
        Recursive = true,
        DefaultValueFactory = _ => "auto"
    };

    public Option<bool> Verbose { get; } = new("--verbose", "-v") { Description = "say how much was read", Recursive = true };

    public Option<string?> Logbook { get; } = new("--logbook")
    {
        Description = "the folder of the logbook",
        HelpName = "DIR",
        Recursive = true
    };

    public Option<bool> Pager { get; } = new("--pager")
    {
        Description = "page by page, with the program that PAGER names",
        Recursive = true
    };

    public CommonOptions()
    {
        Format.TakesOneOf("text", "json");
        Color.TakesOneOf("auto", "always", "never");
    }

    public void AddTo(Command root)
    {
        root.Options.Add(Format);
        root.Options.Add(Plain);
        root.Options.Add(Color);
        root.Options.Add(Pager);
        root.Options.Add(Logbook);
        root.Options.Add(Verbose);
    }

    public static Argument<string> Disk() => new("DISK") { Description = "a block device such as /dev/sda, or an image file" };

    /// <summary>The disk, which may be left out where nothing else follows it: then it is those of this computer.</summary>
    public static Argument<string?> MayBeLeftOut(bool isNeeded = false) => new("DISK")
    {
        Description = "a block device such as /dev/sda, or an image file" + (isNeeded ? "" : "; else the disks built in here"),
        Arity = isNeeded ? ArgumentArity.ExactlyOne : ArgumentArity.ZeroOrOne
    };

    public static Option<bool> Removable() =>
        new("--removable") { Description = "where no disk is named: removable ones too" };

    public static Option<int?> Sector()
    {
        var option = new Option<int?>("--sector")
        {
            Description = "the sector size of an image, 512 or 4096; else as its table shows",
            HelpName = "BYTES"
        };
        option.TakesOneOf("512", "4096");
        return option;
    }

    public static Option<string[]> With() =>
        new("--with")
        {
            Description = "another disk of the same machine (repeatable)",
            HelpName = "OTHER-DISK",
            DefaultValueFactory = _ => []
        };

    public static Option<string?> Code() =>
        new("--code") { Description = "the code or message on the screen", HelpName = "CODE" };

    public static Option<int?> Volume(string description) =>
        new Option<int?>("--volume") { Description = description, HelpName = "N" }.CompletesVolumes();

    public static Option<bool> Yes() => new("--yes", "-y") { Description = "agree beforehand" };

    public static Option<bool> Preview() => new("--preview") { Description = "stop after the plan; write nothing" };

    public static Option<bool> ReplaceForeign() =>
        new("--replace-foreign") { Description = "write over another system's boot code" };

    public static Option<bool> All(string description) => new("--all") { Description = description };

    public static Option<string?> Variables() =>
        new("--variables") { Description = "the folder with the firmware's variable files", HelpName = "FOLDER" };

    public static Option<string?> Firmware(string description = "how the machine starts, where you know it: bios or uefi")
    {
        var option = new Option<string?>("--firmware") { Description = description, HelpName = "KIND" };
        option.TakesOneOf("bios", "uefi");
        return option;
    }

    public static FirmwareKind? FirmwareKindOf(string? word) =>
        word switch { "bios" => FirmwareKind.Bios, "uefi" => FirmwareKind.Uefi, _ => null };

    /// <summary>Where this run prints.</summary>
    public Output OutputOf(ParseResult parsed) =>
        output ??= new Output(
            parsed.GetValue(Plain),
            IsJson(parsed),
            parsed.GetValue(Color)!,
            parsed.GetValue(Logbook));

    /// <summary>The keys of this run.</summary>
    public KeyRing Keys { get; } = new();

    /// <summary>The keys that this run was given.</summary>
    public KeyRing KeysOf(UnlockOptions options, ParseResult parsed)
    {
        options.Fill(Keys, parsed, OutputOf(parsed));
        return Keys;
    }

    /// <summary>Clears the keys.</summary>
    public void Dispose() => Keys.Dispose();

    public RepairLogbook OpenLogbook(ParseResult parsed) => LogbookIn(parsed.GetValue(Logbook) ?? RepairLogbook.UsualFolder());

    /// <summary>The logbook in a folder; what seals its records is always kept in the usual one.</summary>
    public static RepairLogbook LogbookIn(string folder) => new(folder, storage: null, RepairLogbook.UsualFolder());

    /// <summary>With --verbose: how much was read from each disk.</summary>
    public void TellReads(ParseResult parsed, Machine machine)
    {
        if (!parsed.GetValue(Verbose)) return;
        foreach (var disk in machine.Disks.Where(disk => disk.Counters is not null))
            OutputOf(parsed).Message($"{disk.Path}: {disk.Counters!.Reads} reads, {disk.Counters.BytesRead} bytes");
    }

    public bool IsJson(ParseResult parsed) => parsed.GetValue(Format) == "json";
}
