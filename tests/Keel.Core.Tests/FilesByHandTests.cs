using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Requests;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Tests;

/// <summary>Single files looked at, taken out, put in, renamed and dropped.</summary>
public sealed class FilesByHandTests
{
    private const string Notes = @"\notes of the purser.bin";
    private static readonly DateTimeOffset Written = new(2024, 5, 6, 7, 8, 9, TimeSpan.Zero);

    [Theory]
    [InlineData("summer.txt", null)]
    [InlineData("Ä b.c", null)]
    [InlineData(".hidden", null)]
    [InlineData("", "has to have a name")]
    [InlineData("..", "stands for a folder")]
    [InlineData("a/b", "None of")]
    [InlineData("a:b", "None of")]
    [InlineData("a\tb", "control character")]
    [InlineData("end.", "end in a dot")]
    [InlineData("end ", "end in a dot")]
    [InlineData("con", "device")]
    [InlineData("Com1.txt", "device")]
    [InlineData("console", null)]
    public void A_name_is_one_that_Windows_can_open(string name, string? why)
    {
        if (why is null) WindowsNames.WhyNot(name).ShouldBeNull();
        else WindowsNames.WhyNot(name).ShouldNotBeNull().ShouldContain(why);
    }

    [Fact]
    public void A_name_has_an_end() => WindowsNames.WhyNot(new string('a', 256)).ShouldNotBeNull();

    /// <summary>On NTFS and on FAT: what is put in is what is taken out, with its time; the old one stays beside it.</summary>
    [Theory]
    [InlineData(FirmwareKind.Bios)]
    [InlineData(FirmwareKind.Uefi)]
    public void What_is_put_in_comes_out_again(FirmwareKind firmware)
    {
        using var practice = new Practice(firmware: firmware);
        var bytes = new byte[70_001];
        new Random(5).NextBytes(bytes);
        FilesByHand.Put(practice.Machine, practice.System, Notes, new MemoryBlocks(bytes), Written)
            .After.Verdict.ShouldBe(Verdict.Sound);
        practice.System.Files!.Find($"{Notes}.aside1").ShouldBeNull("nothing was there before");
        practice.ChangeSystem(files => files.WriteFile(Notes, [9]));
        FilesByHand.Put(practice.Machine, practice.System, Notes, new MemoryBlocks(bytes), Written);
        practice.System.Files!.ReadFile($"{Notes}.aside1").ShouldBe([9]);

        var target = Path.Combine(practice.Folder, "out");
        new FileTaking(practice.System.Files!, (_, _) => { }).Take(Notes, target);
        File.ReadAllBytes(target).ShouldHold(bytes);
        File.GetLastWriteTimeUtc(target).ShouldBe(Written.UtcDateTime, TimeSpan.FromSeconds(2));
    }

    [Fact]
    public void A_folder_is_taken_with_all_in_it_and_nothing_of_the_file_system()
    {
        using var practice = new Practice();
        var target = Path.Combine(practice.Folder, "all");
        var taking = new FileTaking(practice.Windows.Files!, (_, _) => { });
        taking.Take("", target);
        taking.Problems.ShouldBeEmpty();
        File.ReadAllText(Path.Combine(
            target,
            "Users",
            "purser",
            "Documents",
            "Timetables",
            "summer.txt")).ShouldStartWith("07:15");
        Directory.GetFileSystemEntries(target).Select(Path.GetFileName).ShouldBe(
            ["Recovery", "Users", "Windows"],
            ignoreOrder: true);
        taking.FileCount.ShouldBe(Directory.GetFiles(target, "*", SearchOption.AllDirectories).Length);
        Should.Throw<WrongUsageException>(() => taking.Take("", target));
    }

    /// <summary>Names are text from a disk: none leads out of the folder that was named.</summary>
    [Fact]
    public void A_hostile_name_stays_in_the_folder()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files => files.WriteFile(@"\Users\..%2f..", [1]));
        var names = new HostileVolume(practice.Windows.Files!);
        var target = Path.Combine(practice.Folder, "in", "side");
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        var taking = new FileTaking(names, (_, _) => { });
        taking.Take(@"\x", target);
        Directory.GetFileSystemEntries(Path.Combine(practice.Folder, "in")).ShouldBe([target]);
        Directory.GetFiles(target).Select(Path.GetFileName).ShouldBe(["_", ".._.._etc_passwd"], ignoreOrder: true);
    }

    [Fact]
    public void What_can_not_be_read_is_told_and_the_rest_is_taken()
    {
        using var practice = new Practice();
        var taking = new FileTaking(new HostileVolume(practice.Windows.Files!) { FailsAt = ".." }, (_, _) => { });
        var target = Path.Combine(practice.Folder, "out");
        taking.Take(@"\x", target);
        taking.Problems.ShouldBe([@"\x\..: It is torn."]);
        Directory.GetFiles(target).Length.ShouldBe(2);
        taking.FileCount.ShouldBe(2);
    }

    [Theory]
    [InlineData(@"\bootmgr", "files renew")]
    [InlineData(@"\Boot\BCD", "store load")]
    [InlineData(@"\boot.ini", "bootini")]
    [InlineData(@"\NTLDR", "files renew")]
    [InlineData(@"\nowhere\x", "files look")]
    [InlineData(@"\$MFT", "files look")]
    public void What_another_command_does_better_is_refused(string path, string command)
    {
        using var practice = new Practice();
        var error = Should.Throw<RefusedException>(() =>
            FilesByHand.Put(practice.Machine, practice.System, path, new MemoryBlocks([1]), Written));
        error.Todo.ShouldContain(command);
    }

    [Theory]
    [InlineData("")]
    [InlineData(@"\")]
    [InlineData(@"\$MFT")]
    [InlineData(@"\$extend\$Quota")]
    public void The_file_system_itself_is_not_touched(string path)
    {
        using var practice = new Practice();
        Should.Throw<RefusedException>(() => FilesByHand.Drop(practice.Machine, practice.Windows, path, erase: true));
        Should.Throw<RefusedException>(() => FilesByHand.Rename(practice.Machine, practice.Windows, path, "x"));
    }

    [Fact]
    public void A_file_too_large_for_the_volume_is_refused()
    {
        using var practice = new Practice();
        var bytes = new byte[practice.System.Files!.FreeBytes];
        Should.Throw<RefusedException>(() =>
            FilesByHand.Put(practice.Machine, practice.System, @"\x", new MemoryBlocks(bytes), Written));
    }

    [Fact]
    public void Dropping_sets_aside_and_erases_only_what_is_empty()
    {
        using var practice = new Practice();
        FilesByHand.Drop(practice.Machine, practice.Windows, @"\Users", erase: false);
        practice.Windows.Files!.FolderExists(@"\Users.aside1\purser").ShouldBeTrue();
        practice.Reopen();
        Should.Throw<RefusedException>(() => FilesByHand.Drop(practice.Machine, practice.Windows, @"\Users", erase: true));
        FilesByHand.Drop(practice.Machine, practice.Windows, @"\Users\purser\Documents\Timetables\summer.txt", erase: true);
        practice.Windows.Files!.List(@"\Users\purser\Documents\Timetables").ShouldBeEmpty();
    }

    [Fact]
    public void Renaming_may_change_the_case_only_and_never_replaces()
    {
        using var practice = new Practice();
        FilesByHand.Rename(practice.Machine, practice.Windows, @"\Users", "USERS");
        practice.Windows.Files!.List("").Select(file => file.Name).ShouldContain("USERS");
        practice.Reopen();
        Should.Throw<RefusedException>(() => FilesByHand.Rename(practice.Machine, practice.Windows, @"\Users", "windows"));
        Should.Throw<UnreadableException>(() => FilesByHand.Rename(practice.Machine, practice.Windows, @"\Nobody", "x"));
    }

    /// <summary>A folder whose names lead elsewhere.</summary>
    private sealed class HostileVolume(IVolume inner) : IVolume
    {
        public string? FailsAt { get; init; }

        public FileSystemKind Kind => inner.Kind;

        public string Label => "";

        public long FreeBytes => 0;

        public VolumeFile? Find(string path) => new("x", IsFolder: true, 0, FileMarks.Folder);

        public IReadOnlyList<VolumeFile> List(string folder) =>
            [new("..", false, 3, FileMarks.None), new(
                "../../etc/passwd",
                false,
                3,
                FileMarks.None), new(".", false, 3, FileMarks.None)];

        public IReadableBlocks OpenFile(string path) => FailsAt is { } name && path.EndsWith(
            name,
            StringComparison.Ordinal)
            ? throw new UnreadableException("x", "It is torn.", "x")
            : new MemoryBlocks([1, 2, 3]);

        public DateTimeOffset? WrittenAt(string path) => null;

        public void WriteFile(string path, ReadOnlySpan<byte> contents) => throw new NotSupportedException();

        public void WriteFile(string path, IReadableBlocks contents) => throw new NotSupportedException();

        public void Patch(string path, long offsetBytes, ReadOnlySpan<byte> bytes) => throw new NotSupportedException();

        public void Grow(string path, long lengthBytes) => throw new NotSupportedException();

        public void SetWritten(string path, DateTimeOffset time) => throw new NotSupportedException();

        public void CreateFolder(string path) => throw new NotSupportedException();

        public void Rename(string path, string newName) => throw new NotSupportedException();

        public void Delete(string path) => throw new NotSupportedException();

        public void Close()
        {
        }

        public void SetMarks(string path, FileMarks marks) => throw new NotSupportedException();

        public void Dispose()
        {
        }
    }
}
