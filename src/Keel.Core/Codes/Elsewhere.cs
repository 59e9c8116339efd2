namespace Keel.Core.Codes;

/// <summary>Where else to look when nothing on the disks leads to a reported error.</summary>
public static class Elsewhere
{
    private static readonly (string[] Links, string Advice)[] ByLink =
    [
        (
            ["disk-layout", "active-mark", "mbr-code", "firmware-entry"],
            "the firmware's settings: start order, the way of starting (UEFI or legacy), whether the disk is listed at all"),
        (
            ["disk-layout", "windows-entry", "loader-file"],
            "cable, power and controller of the disk, and what the disk says of its own health"),
        (["start-drivers"], "the controller's mode in the firmware's settings (AHCI or RAID): it may have been changed"),
        (
            ["store", "manager-entry", "windows-entry", "manager-file", "boot-sector"],
            "another disk of the machine that the firmware starts instead: add it with --with"),
        (["kernel-files", "loader-file", "system-hive"], "the memory: let a memory test run for some hours")
    ];

    private static readonly string[] PastTheChain = [
        "what was installed or updated last: a restore point, or the removal of that update, comes before anything else",
        "the memory: let a memory test run for some hours"
    ];

    /// <summary>What to check, the likeliest first.</summary>
    public static IReadOnlyList<string> For(StartupError error) =>
        error.Links.Count == 0
            ? PastTheChain
            : [.. ByLink.Where(entry => entry.Links.Any(error.Links.Contains)).Select(entry => entry.Advice)];
}
