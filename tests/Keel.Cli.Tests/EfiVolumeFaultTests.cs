namespace Keel.Cli.Tests;

/// <summary>Faults of the EFI system partition, of its fallback file, and of a GPT.</summary>
public sealed class EfiVolumeFaultTests
{
    internal static readonly string[] Beginnings = ["fallback-", "esp-", "gpt-"];

    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults(Beginnings);

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
