using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks;

/// <summary>The file that UEFI firmware starts where no entry leads anywhere.</summary>
internal sealed class FallbackFileCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "fallback-missing",
        Link.FallbackFile,
        Severity.Warning,
        "The fallback file is missing: a firmware that forgets its entries finds nothing to start.",
        StartupScreens.NoBootDevice);

    public static readonly FindingKind Damaged = new(
        "fallback-damaged",
        Link.FallbackFile,
        Severity.Warning,
        "The fallback file is not a program for this machine.",
        StartupScreens.NoBootDevice);

    public Link Link => Link.FallbackFile;

    public IReadOnlyList<FindingKind> Kinds => [Missing, Damaged];

    public LinkReport Check(Machine machine)
    {
        if (SystemFiles.WhyNot(machine, out var volume, out var files) is { } why) return LinkReport.Unreached(why);
        var state = ProgramState.Of(volume, files, FallbackFile.PathFor(machine.Processor), machine.Processor, whole: true);
        return state.Condition switch
        {
            ProgramCondition.Sound or ProgramCondition.NotCheckable => LinkReport.Sound(state.Seen),
            ProgramCondition.Missing => LinkReport.Wrong(Missing, state.Seen),
            _ => LinkReport.Wrong(Damaged, state.Seen)
        };
    }
}
