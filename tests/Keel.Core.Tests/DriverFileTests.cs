using Keel.Core.Chain;
using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Tests;

/// <summary>A driver's file that is missing or spoiled is told with the driver, and with whether the start needs it.</summary>
public sealed class DriverFileTests
{
    private const string Drivers = @"\Windows\System32\drivers";

    [Theory]
    [InlineData("beep", "gone", "driver-file-odd", true)]
    [InlineData("null", "short", "driver-file-odd", true)]
    [InlineData("disk", "gone", "driver-missing", false)]
    [InlineData("storahci", "short", "driver-damaged", false)]
    [InlineData("ntfs", "zeros", "driver-damaged", false)]
    [InlineData("volmgr", "altered", "driver-altered", false)]
    public void The_driver_is_named(string driver, string how, string expected, bool mayFail)
    {
        using var practice = new Practice();
        var path = $@"{Drivers}\{driver}.sys";
        practice.Edit(files =>
        {
            if (mayFail) LetFail(files, driver);
            Spoil(files, path, how);
        });
        var finding = Walk.Of(practice.Machine).Findings.ShouldHaveSingleItem();
        finding.Seen.Facts.Get(Fact.Driver).ShouldBe(driver);
        finding.Seen.Facts.Get(Fact.MayFail).ShouldBe(mayFail);
        finding.Seen.Facts.Get(Fact.Path).ShouldBe(path);
        finding.Id.ShouldBe(expected);
        finding.Kind.Severity.ShouldBe(mayFail ? Severity.Note : Severity.Error);
    }

    [Fact]
    public void Several_are_told_one_by_one()
    {
        using var practice = new Practice();
        practice.Edit(files =>
        {
            foreach (var driver in (string[])["disk", "ntfs", "beep"])
                files.Delete($@"{Drivers}\{driver}.sys");
        });
        Walk.Of(practice.Machine).Findings
            .Select(finding => finding.Seen.Facts.Get(Fact.Driver))
            .ShouldBe(["disk", "ntfs", "beep"], ignoreOrder: true);
    }

    /// <summary>Says in the SYSTEM hive that Windows starts without the driver too: ErrorControl 1.</summary>
    private static void LetFail(IVolume files, string driver)
    {
        const string path = @"\Windows\System32\config\SYSTEM";
        var root = Hive.Open(files.OpenFile(path).ReadBytesOf(int.MaxValue)).ReadTree();
        root.Child("ControlSet001")!.Child("Services")!.Child(driver)!.Set(HiveValue.OfNumber("ErrorControl", 1));
        files.WriteFile(path, HiveWriter.Write(root, minor: 5));
    }

    private static void Spoil(IVolume files, string path, string how)
    {
        var bytes = files.OpenFile(path).ReadBytesOf(int.MaxValue);
        switch (how)
        {
            case "gone":
                files.Delete(path);
                break;
            case "short":
                files.WriteFile(path, bytes[..^512]);
                break;
            case "zeros":
                files.WriteFile(path, new byte[bytes.Length]);
                break;
            default:
                bytes[^20] ^= 0x55;
                files.WriteFile(path, bytes);
                break;
        }
    }
}
