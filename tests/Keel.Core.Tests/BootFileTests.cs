using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;
using Keel.Core.Windows;
using Keel.Tests;
using Processor = System.Reflection.PortableExecutable.Machine;
using Subsystem = System.Reflection.PortableExecutable.Subsystem;

namespace Keel.Core.Tests;

/// <summary>Where boot files come from and go to, spare copies, attributes, new file systems.</summary>
public sealed class BootFileTests
{
    [Fact]
    public void An_installation_gives_each_firmware_its_files()
    {
        using var scratch = new Scratch();
        Write(
            scratch,
            "Windows/Boot/PCAT/bootmgr",
            "Windows/Boot/PCAT/bootnxt",
            "Windows/Boot/PCAT/memtest.exe",
            "Windows/Boot/PCAT/de-DE/bootmgr.exe.mui",
            "Windows/Boot/EFI/bootmgfw.efi",
            "Windows/Boot/EFI/de-DE/bootmgfw.efi.mui",
            "Windows/Boot/Fonts/a.ttf",
            "Windows/Boot/Resources/de-DE/b.dll.mui");
        var source = BootFileSource.TryOf(new FolderTree(scratch.Folder))!;
        source
            .FilesFor(BootFiles.Bios, null)
            .Select(copy => copy.Target)
            .Order()
            .ShouldBe(
                [
                    @"\Boot\de-DE\bootmgr.exe.mui",
                    @"\Boot\Fonts\a.ttf",
                    @"\Boot\memtest.exe",
                    @"\bootmgr",
                    @"\bootnxt",
                    @"\Boot\Resources\de-DE\b.dll.mui"
                ],
                ignoreOrder: true);
        source.FilesFor(BootFiles.Uefi, Processor.Arm64).Select(copy => copy.Target).ShouldBe(
            [
                @"\EFI\Microsoft\Boot\bootmgfw.efi",
                @"\EFI\Microsoft\Boot\de-DE\bootmgfw.efi.mui",
                @"\EFI\Microsoft\Boot\Fonts\a.ttf",
                @"\EFI\Microsoft\Boot\Resources\de-DE\b.dll.mui",
                @"\EFI\Boot\bootaa64.efi"
            ],
            ignoreOrder: true);
    }

    [Fact]
    public void A_medium_gives_what_belongs_to_systems_and_keeps_its_own()
    {
        using var scratch = new Scratch();
        Write(
            scratch,
            "bootmgr",
            "boot/bcd",
            "boot/boot.sdi",
            "boot/memtest.exe",
            "boot/fonts/a.ttf",
            "EFI/BOOT/BOOTX64.EFI",
            "EFI/microsoft/boot/bcd",
            "EFI/microsoft/boot/memtest.efi",
            "EFI/microsoft/boot/fonts/a.ttf",
            "sources/install.wim");
        var source = BootFileSource.TryOf(new FolderTree(scratch.Folder))!;
        source.Has(BootFiles.Bios).ShouldBeTrue();
        source
            .FilesFor(BootFiles.Bios, null)
            .Select(copy => copy.Target)
            .ShouldBe([@"\bootmgr", @"\Boot\memtest.exe", @"\Boot\fonts\a.ttf"], ignoreOrder: true);
        source
            .FilesFor(BootFiles.Uefi, null)
            .Select(copy => copy.Target)
            .ShouldBe(
                [
                    BootFiles.Uefi.ManagerPath,
                    @"\EFI\Boot\bootx64.efi",
                    @"\EFI\Microsoft\Boot\memtest.efi",
                    @"\EFI\Microsoft\Boot\fonts\a.ttf"
                ],
                ignoreOrder: true);
    }

    [Fact]
    public void A_folder_without_boot_files_is_no_source()
    {
        using var scratch = new Scratch();
        Write(scratch, "Timetables/summer.txt");
        BootFileSource.TryOf(new FolderTree(scratch.Folder)).ShouldBeNull();
        Should.Throw<UnreadableException>(() => new FolderTree(scratch["gone"]));
    }

    [Theory]
    [InlineData(@"\bootmgr", false, FileMarks.ReadOnly | FileMarks.Hidden | FileMarks.System | FileMarks.Archive)]
    [InlineData(@"\BOOTNXT", false, FileMarks.Hidden | FileMarks.System | FileMarks.Archive)]
    [InlineData(@"\Boot", true, FileMarks.Hidden | FileMarks.System)]
    [InlineData(@"\Boot\BCD", false, FileMarks.Archive)]
    [InlineData(@"\ntldr", false, FileMarks.ReadOnly | FileMarks.Hidden | FileMarks.System)]
    [InlineData(@"\EFI", true, FileMarks.None)]
    public void Boot_files_have_their_usual_attributes(string path, bool isFolder, FileMarks marks) =>
        UsualMarks.Of(path, isFolder).ShouldBe(marks);

    [Theory]
    [InlineData(1, FileSystemKind.Fat12)]
    [InlineData(3, FileSystemKind.Fat16)]
    [InlineData(20, FileSystemKind.Fat16)]
    [InlineData(32, FileSystemKind.Fat16)]
    [InlineData(36, FileSystemKind.Fat32)]
    [InlineData(100, FileSystemKind.Fat32)]
    [InlineData(260, FileSystemKind.Fat32)]
    [InlineData(1000, FileSystemKind.Fat32)]
    [InlineData(9000, FileSystemKind.Fat32)]
    public async Task A_new_file_system_suits_its_size_and_is_clean(int sizeMiB, FileSystemKind kind)
    {
        using var scratch = new Scratch();
        using (var file = File.Create(scratch["image"])) file.SetLength(sizeMiB * 1024L * 1024);
        using (var image = DiskFile.OpenForWriting(scratch["image"]))
            FatFormat.Format(image, "boot", 0x12345678, 2048).ShouldBe(kind);
        await Tool.MustAgree("fsck.fat", "-n", scratch["image"]);
        (await Tool.MustAgree("mlabel", "-s", "-i", scratch["image"], "::")).ShouldContain("BOOT");
    }

    [Fact]
    public void Large_sectors_make_large_clusters()
    {
        var image = new MemoryBlocks(new byte[300 * 1024 * 1024], sectorBytes: 4096);
        FatFormat.Format(image, "", 1, 0).ShouldBe(FileSystemKind.Fat32);
        FatBootSector.TryRead(image.ReadBytes(0, 512))!.ClusterBytes.ShouldBe(4096);
        using var volume = FatVolume.Open(image, "it", forWriting: true);
        volume.CreateFolder(@"\EFI\Boot");
        volume.WriteFile(@"\EFI\Boot\bootx64.efi", new byte[70_000]);
        volume.ReadFile(@"\EFI\Boot\bootx64.efi").Length.ShouldBe(70_000);
    }

    [Theory]
    [InlineData("10.0.19045.1", Processor.Amd64, true)]
    [InlineData("10.0.20000.7", Processor.Amd64, true)]
    [InlineData("10.0.17763.1", Processor.Amd64, false)]
    [InlineData("10.0.19045.1", Processor.I386, false)]
    public void Only_a_spare_copy_of_the_same_or_a_newer_version_and_processor_is_taken(
        string version,
        Processor processor,
        bool isTaken)
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find("loader-altered"));
        PracticeDisk.Change(scratch["disk"], machine => machine.Installations[0].Volume.Edit(files =>
            files.WriteFile(
                @"\Windows\System32\Boot\winload.exe",
                StandInProgram.Make("winload.exe", version, Subsystem.WindowsBootApplication, processor))));
        using var mended = Machine.Open(scratch["disk"]);
        var plan = Plan.For(mended, RepairTerms.Usual);
        (plan.After.Verdict == Verdict.Sound).ShouldBe(isTaken);
        if (!isTaken) plan.Refused.Single().Why.Facts.Get(Fact.Build).ShouldBe(19045);
    }

    [Theory]
    [InlineData(0, true)]
    [InlineData(5, false)]
    public void A_damaged_hive_without_logs_comes_from_the_backup_unless_that_is_empty(int backupBytes, bool isEmpty)
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find("system-hive-damaged"));
        PracticeDisk.Change(
            scratch["disk"],
            machine =>
                machine.Installations[0].Volume.Edit(files =>
                    files.WriteFile(@"\Windows\System32\config\RegBack\SYSTEM", new byte[backupBytes])));
        using var machine = Machine.Open(scratch["disk"]);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.ShouldBeEmpty();
        plan.Refused.Single().Why.Id.ShouldBe(isEmpty ? "left.hive-backup-empty" : "left.hive-backup-unusable");
    }

    [Theory]
    [InlineData(0, true, false)]
    [InlineData(1, false, true)]
    public void Either_side_of_the_mirror_mends_the_other(int side, bool mftIsGood, bool mirrorIsGood)
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find("none"));
        using var machine = Machine.Open(scratch["disk"]);
        var blocks = machine.Volumes.Last().Blocks;
        var boot = NtfsBootSector.TryRead(blocks.ReadBytes(0, NtfsBootSector.Size))!;
        var good = blocks.ReadBytes(boot.MftCluster * boot.ClusterBytes, 4096);
        blocks.Write((side == 0 ? boot.MftMirrorCluster : boot.MftCluster) * boot.ClusterBytes, new byte[64]);
        var mirror = NtfsMirror.Of(blocks).ShouldNotBeNull();
        (
            mirror.FirstDifferent,
            mirror.MftIsGood,
            mirror.MirrorIsGood,
            mirror.PointersContradict).ShouldBe((0, mftIsGood, mirrorIsGood, false));
        NtfsMirror.Mend(blocks).ShouldBeTrue();
        NtfsMirror.Of(blocks)!.FirstDifferent.ShouldBeNull();
        blocks.ReadBytes(boot.MftCluster * boot.ClusterBytes, 4096).ShouldBe(good);
    }

    private static void Write(Scratch scratch, params string[] paths)
    {
        foreach (var path in paths)
        {
            Directory.CreateDirectory(Path.GetDirectoryName(scratch[path])!);
            File.WriteAllText(scratch[path], path);
        }
    }
}
