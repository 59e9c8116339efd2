namespace Keel.Cli.Tests;

/// <summary>Faults between the kernel and the desktop.</summary>
public sealed class LogonFaultTests
{
    internal static readonly string[] Beginnings = ["logon-", "userinit-", "boot-execute-"];

    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults(Beginnings);

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
