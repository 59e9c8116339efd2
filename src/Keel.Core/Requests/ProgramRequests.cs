using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Chain.Checks.Session;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>Programs that start by themselves, switched off and on offline.</summary>
public static class ProgramRequests
{
    private const uint TypeMask = 0xFFFF;

    /// <summary>Those of the Windows that is started.</summary>
    /// <exception cref="UnreadableException">No Windows is reached.</exception>
    public static IReadOnlyList<StartupProgram> List(Machine machine)
    {
        var windows = Reached(machine);
        var system = machine.SystemHive ?? SystemHive.Read(windows.Files, windows.SystemHivePath);
        return new StartupPrograms(LogonCheck.PathsOf(machine, windows)).Find(system);
    }

    /// <summary>The one that a number of the list or a name means.</summary>
    /// <exception cref="WrongUsageException">None or several are meant.</exception>
    public static StartupProgram Pick(IReadOnlyList<StartupProgram> programs, string words)
    {
        if (int.TryParse(words, out var number) && number >= 1 && number <= programs.Count) return programs[number - 1];
        var fitting = programs.Where(program => program.Name.Equals(words, StringComparison.OrdinalIgnoreCase)).ToList();
        if (fitting.Count == 0)
            fitting = [.. programs.Where(program => program.Name.StartsWith(words, StringComparison.OrdinalIgnoreCase))];
        return fitting is [var only]
            ? only
            : throw new WrongUsageException(
                fitting.Count == 0
                    ? $"There is no program or service \"{words}\"."
                    : $"\"{words}\" fits {fitting.Count} of them.",
                fitting.Count == 0
                    ? $"{programs.Count} start by themselves."
                    : $"They are {string.Join(", ", fitting.Take(6).Select(one => one.Name))}.",
                "Name one by its number: 'keel programs list' shows them.");
    }

    /// <summary>Switches one on or off.</summary>
    public static Plan Change(Machine machine, string words, bool on)
    {
        var program = Pick(List(machine), words);
        return Plan.ForRequest(machine, id => new Step(
            Link.StartDrivers,
            id,
            Remark.Of(on ? "step.program-on" : "step.program-off", Fact.Title.Is(program.Name)),
            Set(machine, [program], on)));
    }

    /// <summary>Switches these on and those off, in one step.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="off">The ones to switch off.</param>
    /// <param name="on">The ones to switch on.</param>
    /// <param name="summary">What that does.</param>
    public static Plan Change(
        Machine machine,
        IReadOnlyList<StartupProgram> off,
        IReadOnlyList<StartupProgram> on,
        Remark summary) =>
        Plan.ForRequest(machine, id => new Step(
            Link.StartDrivers,
            id,
            summary,
            [.. Set(machine, off, on: false), .. Set(machine, on, on: true)]));

    private static List<Remark> Set(Machine machine, IReadOnlyList<StartupProgram> programs, bool on)
    {
        var lines = new List<Remark>();
        foreach (var program in programs.Where(program => program.IsOn != on))
        {
            var windows = Reached(machine);         // anew each time: a change gives the volume's files up
            switch (program.Place)
            {
                case StartupPlace.Service:
                    lines.AddRange(ServiceRequests.Set(
                        machine,
                        program.Name,
                        on ? ServiceStart.Automatic : ServiceStart.Disabled));
                    continue;
                case StartupPlace.Folder: Move(windows, program, on); break;
                default: Mark(windows, program, on); break;
            }

            lines.Add(Remark.Of(
                on ? "line.program-on" : "line.program-off",
                Fact.Title.Is(program.Name),
                Fact.Path.Is(program.Source.Container)));
        }

        return lines;
    }

    /// <summary>Between its startup folder and the one beside it.</summary>
    private static void Move(StartedWindows windows, StartupProgram program, bool on)
    {
        const int mostBytes = 64 * 1024 * 1024;
        var home = program.Source.Container;
        var aside = $@"{VolumeExtensions.FolderOf(home)}\{StartupPrograms.OffFolder}";
        var (from, to) = on ? (aside, home) : (home, aside);
        var target = $@"{to}\{program.Name}";
        if (windows.Files.Find(target) is not null)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"{target} is already there.",
                "Rename one of the two first: keel files rename");
        }

        var bytes = windows.Files.ReadFile($@"{from}\{program.Name}", mostBytes);
        var written = windows.Files.WrittenAt($@"{from}\{program.Name}");
        windows.Volume.Edit(files =>
        {
            files.CreateFolder(to);
            files.WriteFile(target, bytes);
            if (written is { } time) files.SetWritten(target, time);
            files.Delete($@"{from}\{program.Name}");
        });
    }

    /// <summary>By the type of its value, and where Windows notes it as off, there too.</summary>
    private static void Mark(StartedWindows windows, StartupProgram program, bool on)
    {
        var source = program.Source;
        if (RegistryChanges.WhyNot(windows.Files, source.Container) is { } why)
        {
            throw new UnreadableException(
                "That can't be changed.",
                "",
                "Mend what is wrong with the hive, and run the same command again.")
            { Reason = why };
        }

        var value = InstallationFinder.TryKey(windows.Files, source.Container, source.Key)?.Value(program.Name)
            ?? throw new UnreadableException(
                "That can't be changed.",
                $"{program.Name} is not in the hive.",
                "'keel programs list' shows what is.");
        var type = (uint)value.Type;
        var isMarked = (type & ~TypeMask) == StartupPrograms.OffMark;
        windows.Volume.Edit(files =>
        {
            if (isMarked == on)
            {
                var wanted = on ? type & TypeMask : StartupPrograms.OffMark | (type & TypeMask);
                RegistryChanges.SetType(files, source.Container, source.Key, program.Name, wanted);
            }

            if (on && program.IsOffByWindows) Approve(files, program);
        });
    }

    private static void Approve(IVolume files, StartupProgram program)
    {
        const byte on = 2;
        var source = program.Source;
        if (source.Approved is not { } key
            || InstallationFinder.TryKey(files, source.Container, key)?.Value(program.Name) is not { } value
            || value.Data.Length <= sizeof(uint))
        {
            return;
        }

        RegistryChanges.SetData(files, source.Container, key, program.Name, [on, .. value.Data.AsSpan(1)]);
    }

    /// <summary>The Windows that is started; where nothing says which, the only one that there is.</summary>
    private static StartedWindows Reached(Machine machine)
    {
        var (windows, why) = StartedWindows.Of(machine);
        if (windows is null && machine.Installations is [{ Volume: { Files: { } files } volume } only])
            windows = new StartedWindows(volume, files, only.Folder);
        return windows ?? throw new UnreadableException(
            "The programs can't be read.",
            "",
            Locks.TodoOr(machine, "Run 'keel diagnose' on the disk first."))
        { Reason = why };
    }
}
