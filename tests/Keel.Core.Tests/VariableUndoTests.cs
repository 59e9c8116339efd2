using System.Globalization;
using System.Runtime.InteropServices;
using Keel.Core.Firmware;
using Keel.Core.Logbook;
using Keel.Core.Mending;
using Keel.Tests;
using Microsoft.Win32.SafeHandles;

namespace Keel.Core.Tests;

/// <summary>
/// Firmware variables are taken back whatever a power cut made of them, and a folder that is gone is in nobody's way.
/// </summary>
public sealed partial class VariableUndoTests
{
    private const string Name = "BootOrder-8be4df61-93ca-11d2-aa0d-00e098032b8c";
    private static readonly byte[] Before = [7, 0, 0, 0, 1, 0, 2, 0], After = [7, 0, 0, 0, 2, 0, 1, 0, 3, 0];

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(5)]
    [InlineData(8)]
    [InlineData(10)]
    [InlineData(-1)]
    public void A_variable_that_was_cut_off_while_it_was_written_is_between(int bytesThere)
    {
        using var scratch = new Scratch();
        var (logbook, record, folder) = Pending(scratch);
        var path = Path.Combine(folder, Name);
        if (bytesThere < 0) File.Delete(path);
        else File.WriteAllBytes(path, After[..bytesThere]);
        RecordSearch.Pending(logbook.Read(), folder).ShouldNotBeNull();
        Writer(logbook).Undo(new UndoTargets(record, [], folder));
        File.ReadAllBytes(path).ShouldBe(Before);
        RecordSearch.Pending(logbook.Read(), folder).ShouldBeNull();
    }

    [Fact]
    public void A_variable_that_somebody_else_wrote_is_refused_and_saved_when_forced()
    {
        using var scratch = new Scratch();
        var (logbook, record, folder) = Written(scratch);
        byte[] foreign = [7, 0, 0, 0, 9, 0];
        File.WriteAllBytes(Path.Combine(folder, Name), foreign);
        Should.Throw<Errors.RefusedException>(() => Writer(logbook).Undo(new UndoTargets(record, [], folder)));
        var own = Writer(logbook).Undo(new UndoTargets(record, [], folder) { EvenIfChanged = true }).ShouldNotBeNull();
        File.ReadAllBytes(Path.Combine(folder, Name)).ShouldBe(Before);
        Writer(logbook).Undo(new UndoTargets(own, [], folder));
        File.ReadAllBytes(Path.Combine(folder, Name)).ShouldBe(foreign);
    }

    [Fact]
    public void A_folder_is_free_at_once_though_a_program_that_is_being_started_has_a_copy_of_its_handle()
    {
        using var scratch = new Scratch();
        SafeFileHandle copy;
        using (Targets.Open([], scratch.Folder, _ => throw new InvalidOperationException()))
        {
            var handles = new DirectoryInfo("/proc/self/fd").EnumerateFileSystemInfos()
                .Where(handle => handle.LinkTarget == scratch.Folder);
            var handle = int.Parse(handles.Single().Name, CultureInfo.InvariantCulture);
            copy = new SafeFileHandle(Duplicate(handle), ownsHandle: true);
        }

        using (copy) Disks.LinuxNative.HoldFolder(scratch.Folder).ShouldNotBeNull().Dispose();
    }

    [Fact]
    public void A_folder_that_is_gone_does_not_block_the_disk()
    {
        using var repair = new RepairCase();
        var folder = Path.Combine(repair.Folder, "variables");
        Directory.CreateDirectory(folder);
        File.WriteAllBytes(Path.Combine(folder, Name), Before);
        var both = repair.Changes with { Variables = new VariableChanges(folder, [new VariableChange(Name, Before, After)]) };
        var record = repair.Writer().Write(both, RepairCase.Steps)!;
        record.Parts.ShouldBe([RecordState.Done, RecordState.Done]);
        Directory.Delete(folder, recursive: true);
        repair.Writer().Undo(repair.Work(record));
        repair.Disk.Bytes.ShouldHold(repair.Old);
        repair.Logbook.Records()[0].Parts.ShouldBe([RecordState.Undone, RecordState.Done]);
        repair.Search().Chosen.ShouldBeNull();
    }

    [Fact]
    public void The_mark_that_protects_a_variable_comes_back()
    {
        using var scratch = new Scratch();
        var path = scratch[Name];
        File.WriteAllBytes(path, Before);
        Assert.SkipWhen(!Disks.LinuxNative.SetImmutable(path, immutable: true), "this file system has no such mark");
        try
        {
            VariableFile.Write(scratch.Folder, Name, After);
            Disks.LinuxNative.IsImmutable(path).ShouldBe(true);
            File.ReadAllBytes(path).ShouldBe(After);
        }
        finally
        {
            Disks.LinuxNative.SetImmutable(path, immutable: false);
        }
    }

    private static Commit Writer(RepairLogbook logbook) =>
        new(logbook, _ => throw new InvalidOperationException("no disk is meant"), TimeProvider.System, "keel test");

    private static (RepairLogbook Logbook, RepairRecord Record, string Folder) Written(Scratch scratch)
    {
        Directory.CreateDirectory(scratch["variables"]);
        File.WriteAllBytes(Path.Combine(scratch["variables"], Name), Before);
        var logbook = new RepairLogbook(scratch["logbook"]);
        var changes = new ChangeSet([], new VariableChanges(scratch["variables"], [new VariableChange(Name, Before, After)]));
        return (logbook, Writer(logbook).Write(changes, RepairCase.Steps)!, scratch["variables"]);
    }

    /// <summary>As a power cut leaves it while the variables are written.</summary>
    private static (RepairLogbook Logbook, RepairRecord Record, string Folder) Pending(Scratch scratch)
    {
        var (logbook, record, folder) = Written(scratch);
        record.Become([0], RecordState.Writing);
        return (logbook, logbook.Records()[0], folder);
    }

    [LibraryImport("libc", EntryPoint = "dup")]
    private static partial int Duplicate(int handle);
}
