namespace Keel.Cli.Tests;

/// <summary>Faults between the kernel and the desktop, and of drivers by what they do.</summary>
public sealed class SessionFaultTests
{
    internal static readonly string[] Beginnings =
        ["session-", "sign-in-", "debugger-", "setup-", "profile-", "class-", "input-", "manager-older-"];

    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults(Beginnings);

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);
}
