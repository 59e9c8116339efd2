namespace Keel.Cli.Tests;

/// <summary>Faults of lost tables, and of what stands at the new links behind them.</summary>
public sealed class TableFaultTests
{
    internal static readonly string[] Beginnings =
        ["partition-", "windows-", "software-", "start-driver-", "manager-altered", "manager-damaged"];

    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults(Beginnings);

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
