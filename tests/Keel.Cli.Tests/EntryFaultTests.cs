namespace Keel.Cli.Tests;

/// <summary>Faults of single entries.</summary>
public sealed class EntryFaultTests
{
    private static readonly string[] Beginnings =
        ["entry-", "order-", "preferred-", "manager-entry-", "wait-", "device-", "once-"];

    public static Task<IEnumerable<TheoryDataRow<string, string>>> Faults() => FaultMatrix.Faults(Beginnings);

    [Theory, MemberData(nameof(Faults))]
    public Task A_fault_is_found_mended_started_and_undone(string fault, string firmware) => FaultMatrix.Holds(fault, firmware);

    [Fact]
    public async Task Every_fault_belongs_to_a_test()
    {
        var all = (await FaultMatrix.Faults("")).Count();
        var tested = (await FaultMatrix.Faults([
            .. Beginnings,
            "none",
            "mbr-",
            "table-",
            "foreign-",
            "sector-",
            "store-",
            .. LoaderAndHiveFaultTests.Beginnings,
            .. DriverAndVolumeFaultTests.Beginnings,
            .. BootFileFaultTests.Beginnings,
            .. EfiVolumeFaultTests.Beginnings,
            .. TableFaultTests.Beginnings,
            .. InsideFaultTests.Beginnings,
            .. RecoveryFaultTests.Beginnings,
            .. Nt5FaultTests.Beginnings,
            .. LogonFaultTests.Beginnings,
            .. SessionFaultTests.Beginnings,
            .. EncryptionFaultTests.Beginnings
        ])).Count();
        tested.ShouldBe(all);
    }
}
