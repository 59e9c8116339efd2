namespace Keel.Cli.Tests;

/// <summary>Faults of a Windows that starts from a virtual disk file.</summary>
public sealed class InsideFaultTests
{
    internal static readonly string[] Beginnings = ["inside-"];

    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults(Beginnings);

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
