namespace Keel.Cli.Tests;

/// <summary>Faults of the start drivers, and of the Windows volume as a whole.</summary>
public sealed class DriverAndVolumeFaultTests
{
    internal static readonly string[] Beginnings =
        ["driver-", "controller-", "storage-", "volume-", "mft-", "system-volume-", "clone-", "update-"];

    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults(Beginnings);

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
