using System.Text;
using Keel.Core.Windows.Drivers;
using Processor = System.Reflection.PortableExecutable.Machine;

namespace Keel.Core.Tests;

/// <summary>INFs as makers write them: decorated sections, quoted fields, continued lines, encodings; and nonsense.</summary>
public sealed class DriverPackageTests
{
    private const string Usual = """
        [Version]                              ; of the line
        Class=SCSIAdapter
        ClassGuid={4D36E97B-E325-11CE-BFC1-08002BE10318}
        Provider=%Maker%
        CatalogFile.NTamd64=quay64.cat
        CatalogFile=quay.cat
        DriverVer=03/14/2025, 3.1.0.12

        [Manufacturer]
        %Maker%=Quay,NTx86,NTamd64.6.1,NTarm64

        [Quay.NTamd64.6.1]
        "Quay ""RAID"", second" = QuayInst, PCI\VEN_B4AC&DEV_0042, \
            PCI\VEN_B4AC&CC_0104
        [Quay.NTx86]
        %Maker% = QuayOld, PCI\VEN_B4AC&DEV_0001

        [QuayInst.NTamd64]
        CopyFiles=@quayraid.sys
        [QuayInst.NTamd64.Services]
        AddService=filterdog,0x0,Filter
        addservice=%Service%,%Flags%,QuayService
        [QuayOld]
        [QuayOld.Services]
        AddService=quayold,2,OldService

        [Filter]
        ServiceBinary=%12%\filterdog.sys
        [QuayService]
        ServiceType=%Kernel%
        StartType=0
        ErrorControl=0x3
        ServiceBinary=%12%\quayraid.sys
        LoadOrderGroup=SCSI Miniport
        AddReg=QuayReg,MoreReg
        [OldService]
        ServiceBinary=%12%\quayold.sys
        [QuayReg]
        HKR,"Parameters\PnpInterface","5",0x00010001,0x01
        HKLM,"Software\Elsewhere","Never",,gone
        [MoreReg]
        HKR,Parameters,Names,0x00010000,"one","two; not a comment"
        HKR,Parameters,Title,,"%Maker% at 100% speed"

        [Strings]
        Maker="Brackwater Instruments"
        Service=quayraid
        Flags=2
        """;

    [Fact]
    public void The_section_of_the_processor_is_followed_to_its_service()
    {
        var package = Of(Encoding.Latin1.GetBytes(Usual), Processor.Amd64).ShouldNotBeNull();
        (package.Class, package.Provider, package.Catalog, package.Version)
            .ShouldBe(("SCSIAdapter", "Brackwater Instruments", "quay64.cat", "3.1.0.12"));
        package.IsForController.ShouldBeTrue();
        package.Devices.ShouldBe([@"PCI\VEN_B4AC&DEV_0042", @"PCI\VEN_B4AC&CC_0104"]);
        var service = package.Service;
        (service.Name, service.FileName, service.Start, service.ErrorControl, service.Group)
            .ShouldBe(("quayraid", "quayraid.sys", 0u, 3u, "SCSI Miniport"));
        service.Values.Select(value => $@"{value.Key}\{value.Value.Name}")
            .ShouldBe([@"Parameters\PnpInterface\5", @"Parameters\Names", @"Parameters\Title"]);
        service.Values[0].Value.AsNumber().ShouldBe(1u);
        service.Values[1].Value.AsTextList().ShouldBe(["one", "two; not a comment"]);
        service.Values[2].Value.AsText().ShouldBe("Brackwater Instruments at 100% speed");
    }

    [Fact]
    public void Another_processor_has_a_section_of_its_own_or_none()
    {
        var bytes = Encoding.Latin1.GetBytes(Usual);
        Of(bytes, Processor.I386)!.Service.Name.ShouldBe("quayold");
        Of(bytes, Processor.I386)!.Catalog.ShouldBe("quay.cat");
        Of(bytes, Processor.Arm64).ShouldBeNull();
    }

    [Fact]
    public void Every_encoding_of_them_is_read()
    {
        byte[][] forms =
        [
            Encoding.Latin1.GetBytes(Usual.ReplaceLineEndings("\r\n")),
            [0xFF, 0xFE, .. Encoding.Unicode.GetBytes(Usual)],
            [0xFE, 0xFF, .. Encoding.BigEndianUnicode.GetBytes(Usual)],
            [0xEF, 0xBB, 0xBF, .. Encoding.UTF8.GetBytes(Usual)]
        ];
        foreach (var form in forms) Of(form, Processor.Amd64)!.Service.Name.ShouldBe("quayraid");
    }

    [Theory]
    [InlineData("AddService=filterdog,0x0,Filter\naddservice=%Service%,%Flags%,QuayService", "")]
    [InlineData("Flags=2", "Flags=0")]
    [InlineData("Service=quayraid", @"Service=..\quayraid")]
    [InlineData(@"ServiceBinary=%12%\quayraid.sys", @"ServiceBinary=%11%\quayraid.exe")]
    [InlineData("[Manufacturer]", "[Nobody]")]
    public void What_installs_no_driver_of_its_own_is_none(string text, string other) =>
        Of(Changed(text, other), Processor.Amd64).ShouldBeNull();

    [Fact]
    public void Changed_bytes_and_ends_are_survived()
    {
        var random = new Random(20261202);
        var whole = Encoding.Latin1.GetBytes(Usual);
        for (var count = 0; count < 2_000; count++)
        {
            var bytes = whole[..random.Next(whole.Length)];
            for (var changes = random.Next(8); changes > 0 && bytes.Length > 0; changes--)
                bytes[random.Next(bytes.Length)] = (byte)random.Next(256);
            if (Of(bytes, Processor.Amd64) is { } package) package.Service.Name.ShouldNotContain("\\");
        }
    }

    private static byte[] Changed(string text, string other) =>
        Encoding.Latin1.GetBytes(Usual.ReplaceLineEndings("\n").Replace(text, other, StringComparison.Ordinal));

    private static DriverPackage? Of(byte[] bytes, Processor processor) =>
        DriverPackage.Of("quay.inf", InfFile.Read(bytes), processor);
}
