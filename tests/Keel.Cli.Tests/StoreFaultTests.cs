namespace Keel.Cli.Tests;

/// <summary>Faults of the store as a whole.</summary>
public sealed class StoreFaultTests
{
    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults("store-");

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
