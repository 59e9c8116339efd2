namespace Keel.Cli.Tests;

/// <summary>Faults on machines whose Windows volume is encrypted, with the key at hand or without.</summary>
public sealed class EncryptionFaultTests
{
    internal static readonly string[] Beginnings = ["encrypted-", "encryption-"];

    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults(Beginnings);

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
