namespace Keel.Cli.Tests;

/// <summary>Faults of boot files, and of the firmware's entries.</summary>
public sealed class BootFileFaultTests
{
    internal static readonly string[] Beginnings = [
        "manager-missing",
        "manager-empty",
        "manager-cut",
        "manager-compressed",
        "manager-wrong",
        "files-",
        "firmware-"
    ];

    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults(Beginnings);

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
