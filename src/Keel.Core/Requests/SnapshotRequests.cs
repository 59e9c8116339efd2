using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Mending.Remedies;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Snapshots;
using Keel.Core.Windows;
using Processor = System.Reflection.PortableExecutable.Machine;

namespace Keel.Core.Requests;

/// <summary>
/// Going back to a restore point, as far as one goes: the hives of the system together, and the files that they name. Documents
/// stay. The present hives are set aside beside, and the repair is undone like any other.
/// </summary>
public static class SnapshotRequests
{
    private const int NamesShown = 12;

    private static readonly string[] SystemFiles =
    [
        "winload.exe", "winload.efi", "winresume.exe", "winresume.efi", "ntoskrnl.exe", "hal.dll", "kdcom.dll", "ci.dll",
        "smss.exe", "csrss.exe", "wininit.exe", "winlogon.exe", "services.exe", "lsass.exe", "svchost.exe", "ntdll.dll",
        "kernel32.dll", "KernelBase.dll", "user32.dll", "gdi32.dll", "advapi32.dll", "rpcrt4.dll", "sechost.dll",
        "csrsrv.dll", "basesrv.dll", "winsrv.dll", "win32k.sys", "userinit.exe", "LogonUI.exe", "autochk.exe"
    ];

    /// <summary>A plan that goes back to a restore point.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="windows">The installation.</param>
    /// <param name="number">The number of the snapshot; 1 is the youngest.</param>
    /// <param name="scope">What is brought back.</param>
    /// <exception cref="KeelException">There is no such one, or it can't be gone back to; says why.</exception>
    public static Plan Restore(Machine machine, WindowsInstallation windows, int number, RestoreScope scope)
    {
        if (windows.IsNt5)
        {
            throw new RefusedException(
                "Nothing was written.",
                "This is a Windows of NT 5: its restore points are copies of hives in folders, and no states of the volume.",
                "'keel mend' takes hives out of them where the present ones are damaged.");
        }

        var files = Locks.FilesOf(windows.Volume);
        if (scope.HasFlag(RestoreScope.Hives)) RequireFolder(files, windows);
        using var snapshots = windows.Volume.OpenSnapshots() ?? throw new UnreadableException(
            $"{windows.Volume} has no restore points.",
            "Windows keeps them where system protection is switched on; nothing of the kind is there.",
            "'keel snapshots list' shows the snapshots of all volumes.");
        var snapshot = snapshots.List.FirstOrDefault(one => one.Number == number) ?? throw new WrongUsageException(
            $"There is no snapshot {number}.",
            $"They have the numbers 1 to {snapshots.List.Count}, from the youngest on.",
            "'keel snapshots list' shows them.");
        var work = Gather(files, snapshots.Files(snapshot), windows, scope, snapshot, machine.Processor);
        var volume = windows.Volume.Ref;
        var acts = new List<Func<string, Step?>>();
        if (work.Hives.Count > 0) acts.Add(id => RestoreHives(At(machine, volume), work, id));
        if (work.Files.Count > 0) acts.Add(id => RestoreFiles(At(machine, volume), work, id));
        if (acts.Count == 0)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"What is asked for is today as it was in snapshot {number}, byte for byte.",
                "An older one may differ: 'keel snapshots list' shows them.");
        }

        return Plan.ForRequests(machine, acts);
    }

    private static DiskVolume At(Machine machine, VolumeRef volume) => machine.Volumes.First(one => one.Ref == volume);

    private static void RequireFolder(IVolume files, WindowsInstallation windows)
    {
        if (!files.FolderExists($@"{windows.Folder}\System32\config"))
        {
            throw new UnreadableException(
                $"{windows} has no folder for its hives.",
                "There is nothing that could be set aside.",
                "Run 'keel diagnose' on the disk first.");
        }
    }

    private static RestoreWork Gather(
        IVolume files,
        IVolume past,
        WindowsInstallation windows,
        RestoreScope scope,
        Snapshot snapshot,
        Processor? processor)
    {
        var config = $@"{windows.Folder}\System32\config";
        var then = PastState.Read(past, config, out var wrong) ?? throw new UnreadableException(
            $"Snapshot {snapshot.Number} can't be gone back to.",
            $"Its {wrong} hive is not there, or not whole.",
            "Another snapshot may have it: 'keel snapshots list' shows them.");
        var now = PastState.Present(files, config);
        RequireSame(windows, then, now, snapshot);
        var changed = scope.HasFlag(RestoreScope.Hives)
            ? then.Contents
                .Where(hive => !HoldsNow(files, $@"{config}\{hive.Key}", hive.Value))
                .ToDictionary(hive => $@"{config}\{hive.Key}", hive => hive.Value, StringComparer.Ordinal)
            : [];
        var wanted = new List<string>();
        if (scope.HasFlag(RestoreScope.Drivers)) wanted.AddRange(DriverFiles(then, windows.Folder));
        if (scope.HasFlag(RestoreScope.System)) wanted.AddRange(SystemFiles.Select(name => $@"{windows.Folder}\System32\{name}"));
        var differing = Differing(files, past, wanted);
        foreach (var path in differing.Keys) RequireSound(windows.Volume, past, path, snapshot, processor);
        return new RestoreWork(snapshot, changed, differing)
        {
            Lines = changed.Count > 0 ? [.. Changes(then, now, snapshot)] : []
        };
    }

    /// <summary>Another installation's hives, or those of another revision without its files, would not start.</summary>
    private static void RequireSame(WindowsInstallation windows, PastState then, PastState? now, Snapshot snapshot)
    {
        if (now?.Installed is { } own && then.Installed is { } other && own != other)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"Snapshot {snapshot.Number} is of another installation: that one was installed at another time.",
                "Windows' own recovery goes back to it, where it can: keel store once DISK recovery");
        }

        var build = now?.Build ?? (windows.Build > 0 ? $"{windows.Build}" : "");
        var revision = now is null ? (uint?)windows.Revision : now.Revision;
        if ((build.Length > 0 && then.Build != build) || (revision is not null && then.Revision != revision))
        {
            throw new RefusedException(
                "Nothing was written.",
                $"Snapshot {snapshot.Number} is of build {then.Build}.{then.Revision}, and this Windows is at "
                    + $"{build}.{revision}: its hives would meet files of another update.",
                "Choose a younger restore point, or have Windows' own recovery take the update back: "
                    + "keel store once DISK recovery");
        }
    }

    private static bool HoldsNow(IVolume files, string path, byte[] bytes) =>
        files.Find(path) is { IsFolder: false } file
            && file.SizeBytes == bytes.Length
            && files.ReadFile(path).AsSpan().SequenceEqual(bytes);

    private static IEnumerable<string> DriverFiles(PastState then, string windows) => then.Services
        .Where(service => service.IsDriver && service.Effective is ServiceStart.Boot or ServiceStart.System)
        .Select(service => service.FileIn(windows))
        .OfType<string>();

    private static Dictionary<string, byte[]> Differing(IVolume files, IVolume past, IEnumerable<string> paths)
    {
        var found = new Dictionary<string, byte[]>(StringComparer.OrdinalIgnoreCase);
        foreach (var path in paths.Distinct(StringComparer.OrdinalIgnoreCase))
        {
            if (past.Find(path) is not { IsFolder: false, SizeBytes: > 0 and <= int.MaxValue }) continue;
            var bytes = past.ReadFile(path);
            if (!HoldsNow(files, path, bytes)) found.Add(path, bytes);
        }

        return found;
    }

    /// <summary>
    /// A snapshot shows today's bytes wherever something other than Windows has written since: what comes out of it is looked at
    /// as any other copy is.
    /// </summary>
    private static void RequireSound(DiskVolume volume, IVolume past, string path, Snapshot snapshot, Processor? processor)
    {
        var state = ProgramState.Of(volume, past, path, processor, whole: true);
        if (state.Condition == ProgramCondition.Sound) return;
        throw new UnreadableException(
            $"{path} is not sound in snapshot {snapshot.Number}, and nothing was written.",
            "",
            "An older snapshot may have it whole; --only hives leaves the files as they are.")
        { Reason = state.Seen };
    }

    /// <summary>What going back changes, in names.</summary>
    private static IEnumerable<StepDetail> Changes(PastState then, PastState? now, Snapshot snapshot)
    {
        var made = Fact.Written.Is(snapshot.Made);
        if (now is null)
        {
            yield return StepDetail.Lost(Loss.Settings, Remark.Of("line.past-unknown", made));
            yield break;
        }

        foreach (var (id, names) in new[]
        {
            ("line.past-programs-forgotten", now.Programs.Except(then.Programs)),
            ("line.past-programs-listed", then.Programs.Except(now.Programs)),
            ("line.past-services-forgotten", NamesOf(now).Except(NamesOf(then), StringComparer.OrdinalIgnoreCase)),
            ("line.past-services-back", NamesOf(then).Except(NamesOf(now), StringComparer.OrdinalIgnoreCase)),
            ("line.past-services-other", OtherStart(then, now))
        })
        {
            var list = names.Order(StringComparer.OrdinalIgnoreCase).ToList();
            if (list.Count == 0) continue;
            yield return new StepDetail(Remark.Of(
                id,
                Fact.EntryCount.Is(list.Count),
                Fact.Names.Is([.. list.Take(NamesShown)])));
        }

        yield return StepDetail.Lost(Loss.Settings, Remark.Of("line.past-lost", made));
    }

    private static IEnumerable<string> NamesOf(PastState state) => state.Services.Select(service => service.Name);

    private static IEnumerable<string> OtherStart(PastState then, PastState now)
    {
        var before = then.Services.ToLookup(service => service.Name, StringComparer.OrdinalIgnoreCase);
        return now.Services
            .Where(service => before[service.Name].FirstOrDefault() is { } old && old.Effective != service.Effective)
            .Select(service => service.Name);
    }

    private static Step RestoreHives(DiskVolume volume, RestoreWork work, string id)
    {
        var lines = new List<StepDetail>();
        volume.Edit(files =>
        {
            foreach (var (path, bytes) in work.Hives)
            {
                StoreRebuild.SetAside(files, path);
                files.WriteFile(path, bytes);
                lines.Add(Remark.Of(
                    "line.past-hive",
                    Fact.Path.Is(path),
                    Fact.Volume.Is(volume.Ref),
                    Fact.SizeBytes.Is(bytes.Length)));
            }
        });
        return new Step(
            Link.SystemHive,
            id,
            Remark.Of("step.past-hives", Fact.SnapshotNumber.Is(work.Snapshot.Number), Fact.Written.Is(work.Snapshot.Made)),
            [.. lines, .. work.Lines]);
    }

    private static Step RestoreFiles(DiskVolume volume, RestoreWork work, string id)
    {
        var lines = new List<Remark>();
        volume.Edit(files =>
        {
            foreach (var (path, bytes) in work.Files)
            {
                lines.Add(Remark.Of(
                    "line.file",
                    Fact.Path.Is(path),
                    Fact.Volume.Is(volume.Ref),
                    Fact.Change.Is(RestoreProgram.WriteKeepingMarks(files, path, bytes))));
            }
        });
        return new Step(
            Link.StartDrivers,
            id,
            Remark.Of("step.past-files", Fact.FileCount.Is(lines.Count), Fact.SnapshotNumber.Is(work.Snapshot.Number)),
            lines);
    }
}
