using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Boot files are recreated from their copies: what is missing or different, and nothing that is newer.</summary>
public sealed class RenewalTests
{
    private const string Manager = @"\bootmgr";

    [Fact]
    public void A_machine_that_has_all_files_gets_none()
    {
        using var practice = new Practice();
        var plan = Renew(practice, all: false);
        plan.Steps.SelectMany(step => step.Details).ShouldAllBe(detail => detail.Says.Id == "line.files-same");
        plan.Changes.Any.ShouldBeFalse();
    }

    [Fact]
    public void All_of_them_are_written_where_that_is_asked()
    {
        using var practice = new Practice();
        var before = practice.System.Files!.OpenFile(Manager).ReadBytesOf(int.MaxValue);
        var plan = Renew(practice, all: true);
        plan.Changes.Any.ShouldBeTrue();
        practice.System.Files!.OpenFile(Manager).ReadBytesOf(int.MaxValue).ShouldBe(before);
        practice.System.Files.Find(Manager)!.Marks.ShouldBe(UsualMarks.Of(Manager));
        plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    [Theory]
    [InlineData("gone")]
    [InlineData("empty")]
    [InlineData("other")]
    [InlineData("folder")]
    public void What_is_missing_or_different_is_written_again(string how)
    {
        using var practice = new Practice();
        var before = practice.System.Files!.OpenFile(Manager).ReadBytesOf(int.MaxValue);
        practice.System.Edit(files =>
        {
            files.SetMarks(Manager, FileMarks.None);
            files.Delete(Manager);
            if (how == "empty") files.WriteFile(Manager, []);
            if (how == "other") files.WriteFile(Manager, new byte[before.Length]);
            if (how == "folder") files.CreateFolder(Manager);
        });
        Commit(practice);
        var plan = Renew(practice, all: false);
        practice.System.Files!.OpenFile(Manager).ReadBytesOf(int.MaxValue).ShouldBe(before);
        practice.System.Files.Find(Manager)!.Marks.ShouldBe(UsualMarks.Of(Manager));
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        if (how == "folder") practice.System.Files.Find(@"\bootmgr.aside1")!.IsFolder.ShouldBeTrue();
    }

    [Fact]
    public void Without_an_installation_that_has_copies_nothing_is_written()
    {
        using var practice = new Practice();
        practice.Edit(files => files.Rename(@"\Windows\Boot", "Boat"));
        Commit(practice);
        Should.Throw<RefusedException>(() => Renew(practice, all: true));
    }

    [Fact]
    public void A_volume_without_room_is_left_as_it_is()
    {
        using var practice = new Practice();
        practice.System.Edit(files =>
        {
            files.SetMarks(Manager, FileMarks.None);
            files.Delete(Manager);
            var room = files.FreeBytes - (40 * 1024);
            files.WriteFile(@"\cargo.bin", new byte[room]);
        });
        Commit(practice);
        var free = practice.System.Files!.FreeBytes;
        Should.Throw<RefusedException>(() => Renew(practice, all: false)).What.ShouldContain("too little room");
        practice.System.Files!.FreeBytes.ShouldBe(free);
    }

    [Fact]
    public void A_folder_of_another_machine_is_a_source_too()
    {
        using var practice = new Practice();
        using var scratch = new Scratch();
        var copies = scratch["medium"];
        CopyOut(practice.Windows.Files!, @"\Windows\Boot", Path.Combine(copies, "Windows", "Boot"));
        practice.System.Edit(files =>
        {
            files.SetMarks(Manager, FileMarks.None);
            files.Delete(Manager);
        });
        Commit(practice);
        var plan = FileRequests.Renew(
            practice.Machine,
            null,
            new RenewTerms([], new FolderTree(Path.Combine(copies, "Windows")), null, All: false),
            RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        practice.System.Files!.Find(Manager).ShouldNotBeNull();
    }

    private static Plan Renew(Practice practice, bool all) =>
        FileRequests.Renew(practice.Machine, null, new RenewTerms([], null, null, all), RepairTerms.Usual);

    /// <summary>Makes what was edited the disk's own state, which plans begin with.</summary>
    private static void Commit(Practice practice)
    {
        var overlay = practice.Machine.StartDisk.Overlay;
        var ranges = overlay.Changes().Ranges
            .Select(range => (range.Start, overlay.ReadBytes(range.Start, range.Length)))
            .ToList();
        using var image = DiskFile.OpenForWriting(practice.Path);
        foreach (var (start, bytes) in ranges) image.Write(start, bytes);
        practice.Reopen();
    }

    private static void CopyOut(IVolume files, string folder, string target)
    {
        Directory.CreateDirectory(target);
        foreach (var file in files.List(folder))
        {
            var path = Path.Combine(target, file.Name);
            if (file.IsFolder) CopyOut(files, $@"{folder}\{file.Name}", path);
            else File.WriteAllBytes(path, files.OpenFile($@"{folder}\{file.Name}").ReadBytesOf(int.MaxValue));
        }
    }
}
