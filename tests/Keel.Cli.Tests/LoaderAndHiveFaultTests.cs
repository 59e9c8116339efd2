namespace Keel.Cli.Tests;

/// <summary>Faults of the loader, the SYSTEM hive and the kernel, and of a disk in another machine.</summary>
public sealed class LoaderAndHiveFaultTests
{
    internal static readonly string[] Beginnings = ["loader-", "system-hive-", "control-", "kernel-", "layout-"];

    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults(Beginnings);

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
