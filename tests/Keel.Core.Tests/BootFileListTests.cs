using Keel.Core.Chain;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Tests;

/// <summary>The list of boot files says what is wrong with each, and counts those that are sound.</summary>
public sealed class BootFileListTests
{
    private const string Manager = @"\bootmgr";

    [Theory]
    [InlineData(FirmwareKind.Bios)]
    [InlineData(FirmwareKind.Uefi)]
    public void A_sound_machine_has_all_files_and_nothing_wrong(FirmwareKind firmware)
    {
        using var practice = new Practice(firmware: firmware);
        var list = BootFileList.Of(practice.Machine, all: false);
        list.Lines.SelectMany(line => line.Problems).ShouldBeEmpty();
        list.OthersSound.ShouldBeGreaterThan(2);
        list.Lines.Where(line => line.IsNeeded).ShouldAllBe(line => line.File != null);
        var all = BootFileList.Of(practice.Machine, all: true);
        (all.Lines.Count - list.Lines.Count, all.OthersSound).ShouldBe((list.OthersSound, 0));
    }

    [Theory]
    [InlineData("missing", "boot-file.missing")]
    [InlineData("empty", "boot-file.empty")]
    [InlineData("folder", "boot-file.folder")]
    public void What_is_wrong_with_the_manager_is_said(string how, string expected)
    {
        using var practice = new Practice();
        practice.System.Edit(files =>
        {
            files.SetMarks(Manager, FileMarks.None);
            files.Delete(Manager);
            if (how == "empty") files.WriteFile(Manager, []);
            if (how == "folder") files.CreateFolder(Manager);
        });
        LineOf(practice, Manager).Problems.ShouldContain(problem => problem.Id == expected);
    }

    [Theory]
    [InlineData("zeros", "boot-file.zeros")]
    [InlineData("text", "boot-file.no-program")]
    [InlineData("short", "boot-file.cut-short")]
    public void What_is_wrong_with_a_program_is_said(string how, string expected)
    {
        using var practice = new Practice();
        const string loader = @"\Windows\System32\winload.exe";
        var bytes = practice.Windows.Files!.OpenFile(loader).ReadBytesOf(int.MaxValue);
        practice.Edit(files => files.WriteFile(loader, how switch
        {
            "zeros" => new byte[bytes.Length],
            "text" => Enumerable.Repeat((byte)'q', 5000).ToArray(),
            _ => bytes[..^512]
        }));
        LineOf(practice, loader).Problems.ShouldHaveSingleItem().Id.ShouldBe(expected);
    }

    [Fact]
    public void A_shorter_file_than_the_installation_has_is_told()
    {
        using var practice = new Practice();
        const string font = @"\Boot\Fonts\wgl4_boot.ttf";
        var whole = practice.System.Files!.Find(font)!.SizeBytes;
        practice.System.Edit(files => files.WriteFile(font, "half a font"u8));
        var problem = LineOf(practice, font).Problems.ShouldHaveSingleItem();
        problem.Id.ShouldBe("boot-file.shorter");
        problem.Facts.Get(Fact.SizeBytes).ShouldBe(whole);
    }

    [Fact]
    public void Attributes_that_hinder_are_told_with_their_names()
    {
        using var practice = new Practice();
        var store = practice.Machine.BootFiles.StorePath;
        practice.System.Edit(files => files.SetMarks(store, FileMarks.ReadOnly | FileMarks.Archive));
        var problem = LineOf(practice, store).Problems.ShouldHaveSingleItem();
        problem.Id.ShouldBe("boot-file.attributes");
        problem.Facts.Get(Fact.Attributes).ShouldBe("readonly");
    }

    [Fact]
    public void The_loader_of_every_installation_is_looked_at()
    {
        using var practice = new Practice();
        practice.Edit(files =>
        {
            files.CreateFolder(@"\Windows.old\System32\config");
            files.WriteFile(@"\Windows.old\System32\config\SYSTEM", [1]);
            files.WriteFile(@"\Windows.old\System32\ntoskrnl.exe", [1]);
        });
        var lines = BootFileList.Of(practice.Machine, all: false).Lines.Where(line => line.Role == "Windows loader").ToList();
        lines.Select(line => line.Path)
            .ShouldBe([@"\Windows\System32\winload.exe", @"\Windows.old\System32\winload.exe"]);
        lines[0].Problems.ShouldBeEmpty();
        lines[1].Problems.ShouldHaveSingleItem().Id.ShouldBe("boot-file.missing");
    }

    private static BootFileLine LineOf(Practice practice, string path) =>
        BootFileList.Of(practice.Machine, all: false).Lines.Single(line => line.Path == path);
}
