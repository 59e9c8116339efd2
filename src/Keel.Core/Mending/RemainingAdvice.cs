using Keel.Core.Chain;
using Keel.Core.Chain.Checks;

namespace Keel.Core.Mending;

/// <summary>What remains to be done that keel can't do, only where what was found points there.</summary>
internal static class RemainingAdvice
{
    private const int ManyFiles = 3;

    private static readonly FindingKind[] Altered = [
        LoaderFileCheck.Altered,
        KernelFilesCheck.Altered,
        StartDriversCheck.Altered
    ];

    private static readonly FindingKind[] Broken =
    [
        LoaderFileCheck.CutShort,
        LoaderFileCheck.ZeroFilled,
        LoaderFileCheck.NotProgram,
        KernelFilesCheck.Damaged,
        StartDriversCheck.Damaged,
        SystemHiveCheck.Damaged,
        SystemVolumeCheck.Damaged,
        LoaderFileCheck.Unreadable, WindowsVolumeHealth.MirrorDiffers, WindowsVolumeHealth.Unreadable, WindowsVolumeHealth.Unclean
    ];

    /// <summary>The advice, the least costly first.</summary>
    public static IReadOnlyList<string> For(IReadOnlyList<Finding> findings, IReadOnlyList<Refusal> refused)
    {
        var advice = new List<string>();
        var altered = findings.Count(finding => Altered.Contains(finding.Kind));
        var broken = findings.Count(finding => Broken.Contains(finding.Kind));
        if (altered > 0) advice.Add("Let a memory test run: a file that changed by itself points to the memory or the disk.");
        if (altered + broken > 0)
        {
            advice.Add("Ask the disk for its own health report: damage that nobody did may come from a failing disk. Make an "
                + "image first if it is.");
        }

        if (broken > 0) advice.Add("When Windows starts again, have it check the whole file system, and its own files.");
        if (refused.Any(refusal =>
            refusal.Link == Link.SystemHive && !refusal.FindingId.StartsWith("software-", StringComparison.Ordinal)))
            advice.Add("A restore point or a backup of this machine has the SYSTEM hive that is missing here.");
        if (refused.Count(refusal => refusal.Link is Link.KernelFiles or Link.StartDrivers or Link.LoaderFile) >= ManyFiles)
        {
            advice.Add("Several files of Windows are damaged without a spare copy: a repair installation over it, keeping "
                + "files, is the surer way.");
        }

        return advice;
    }
}
