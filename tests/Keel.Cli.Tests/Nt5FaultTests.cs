namespace Keel.Cli.Tests;

/// <summary>Faults of machines of NT 5.</summary>
public sealed class Nt5FaultTests
{
    internal static readonly string[] Beginnings = ["ntldr-", "detect-", "boot-list-", "boot-line-", "nt5-"];

    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults(Beginnings);

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
