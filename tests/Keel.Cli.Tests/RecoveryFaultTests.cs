namespace Keel.Cli.Tests;

/// <summary>Faults of the recovery environment.</summary>
public sealed class RecoveryFaultTests
{
    internal static readonly string[] Beginnings = ["recovery-"];

    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults(Beginnings);

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
