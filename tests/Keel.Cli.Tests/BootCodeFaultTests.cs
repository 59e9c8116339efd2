namespace Keel.Cli.Tests;

/// <summary>Faults of the first four links, and the sound disk.</summary>
public sealed class BootCodeFaultTests
{
    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() =>
        FaultMatrix.Faults("none", "mbr-", "table-", "foreign-", "sector-");

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
