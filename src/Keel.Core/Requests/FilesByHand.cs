using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>Single files put, renamed and dropped, as a technician asks; done in the overlay, like every repair.</summary>
public static class FilesByHand
{
    private const long RoomToKeep = 64 * 1024;

    private static readonly string[] Own =
    [
        "$MFT", "$MFTMirr", "$LogFile", "$Volume", "$AttrDef", "$Bitmap", "$Boot", "$BadClus", "$Secure", "$UpCase", "$Extend"
    ];

    /// <summary>Puts a file in; one that is there is set aside.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="volume">The volume.</param>
    /// <param name="path">The path of the file on it.</param>
    /// <param name="contents">The bytes, read while the plan is made.</param>
    /// <param name="written">When they were written.</param>
    /// <exception cref="RefusedException">keel manages that file better, or there is no room.</exception>
    public static Plan Put(Machine machine, DiskVolume volume, string path, IReadableBlocks contents, DateTimeOffset written)
    {
        RefuseManaged(machine, volume, path);
        RefuseName(VolumeExtensions.NameOf(path));
        var files = Files(volume);
        if (files.Find(path) is not null) RequireThere(volume, path);
        if (VolumeExtensions.FolderOf(path) is { Length: > 0 } folder && !files.FolderExists(folder))
        {
            throw new RefusedException(
                "Nothing was written.",
                $"{folder} is no folder on {volume}.",
                "'keel files look' shows what is there.");
        }

        if (files.FreeBytes < contents.LengthBytes + RoomToKeep)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"{volume} has {files.FreeBytes} bytes free, and the file has {contents.LengthBytes}.",
                "Make room on it first.");
        }

        return Plan.ForRequest(machine, id =>
        {
            var lines = new List<Remark>();
            volume.Edit(writable =>
            {
                if (writable.Find(path) is not null)
                {
                    var aside = BootFileRenewal.SetAside(writable, path);
                    lines.Add(Remark.Of(
                        "line.set-aside",
                        Fact.Path.Is(path),
                        Fact.OtherPath.Is(aside),
                        Fact.Volume.Is(volume.Ref)));
                }

                writable.WriteFile(path, contents);
                writable.SetWritten(path, written);
            });
            lines.Add(Remark.Of(
                "line.file-put",
                Fact.Path.Is(path),
                Fact.Volume.Is(volume.Ref),
                Fact.SizeBytes.Is(contents.LengthBytes)));
            return new Step(
                Link.ManagerFile,
                id,
                Remark.Of("step.put-file", Fact.Path.Is(path), Fact.Volume.Is(volume.Ref)),
                lines);
        });
    }

    /// <summary>Gives a file or folder another name in its folder.</summary>
    public static Plan Rename(Machine machine, DiskVolume volume, string path, string name)
    {
        RefuseName(name);
        RequireThere(volume, path);
        var wanted = $@"{VolumeExtensions.FolderOf(path)}\{name}";
        if (!wanted.Equals(path, StringComparison.OrdinalIgnoreCase) && Files(volume).Find(wanted) is not null)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"{wanted} is already on {volume}.",
                "Name another one, or drop that one first.");
        }

        return Plan.ForRequest(machine, id =>
        {
            volume.Edit(files => files.Rename(path, name));
            return new Step(
                Link.ManagerFile,
                id,
                Remark.Of("step.rename-file", Fact.Path.Is(path), Fact.OtherPath.Is(name), Fact.Volume.Is(volume.Ref)),
                Array.Empty<StepDetail>());
        });
    }

    /// <summary>Sets a file or folder aside under another name, or erases it.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="volume">The volume.</param>
    /// <param name="path">The path on it.</param>
    /// <param name="erase">Take it off the volume instead.</param>
    public static Plan Drop(Machine machine, DiskVolume volume, string path, bool erase)
    {
        var file = RequireThere(volume, path);
        if (erase && file.IsFolder && Files(volume).List(path).Count > 0)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"{path} is a folder, and not empty.",
                "Leave --erase out, and it is set aside as it is.");
        }

        return Plan.ForRequest(machine, id =>
        {
            var lines = new List<Remark>();
            volume.Edit(files =>
            {
                if (erase) files.Delete(path);
                else
                {
                    var aside = BootFileRenewal.SetAside(files, path);
                    lines.Add(Remark.Of(
                        "line.set-aside",
                        Fact.Path.Is(path),
                        Fact.OtherPath.Is(aside),
                        Fact.Volume.Is(volume.Ref)));
                }
            });
            var summary = Remark.Of(
                erase ? "step.erase-file" : "step.set-file-aside",
                Fact.Path.Is(path),
                Fact.Volume.Is(volume.Ref));
            return new Step(Link.ManagerFile, id, summary, lines);
        });
    }

    /// <summary>Refuses what another command does better, with that command.</summary>
    private static void RefuseManaged(Machine machine, DiskVolume volume, string path)
    {
        if (volume != machine.SystemVolume) return;
        string? better = null;
        if (Is(machine.BootFiles.StorePath)) better = "keel store load DISK FILE";
        else if (Is(BootListState.Path)) better = "keel bootini";
        else if (Is(machine.BootFiles.ManagerPath) || Nt5Files.Paths.Any(Is)) better = "keel files renew DISK --from FOLDER";
        if (better is null) return;
        throw new RefusedException(
            "Nothing was written.",
            $"{path} is a file that the start hangs on, and keel has a command of its own for it, which looks at what it writes.",
            better);

        bool Is(string managed) => managed.Equals(path, StringComparison.OrdinalIgnoreCase);
    }

    private static void RefuseName(string name)
    {
        if (WindowsNames.WhyNot(name) is not { } why) return;
        throw new WrongUsageException($"\"{name}\" is no name for Windows.", why, "Name it otherwise.");
    }

    /// <summary>The file or folder at a path, which is neither the top of the volume nor one of the file system's own.</summary>
    private static VolumeFile RequireThere(DiskVolume volume, string path)
    {
        var top = path.Trim('\\').Split('\\')[0];
        if (top.Length == 0 || Own.Contains(top, StringComparer.OrdinalIgnoreCase))
        {
            throw new RefusedException(
                "Nothing was written.",
                top.Length == 0 ? $"That is the top of {volume} itself." : $"{path} is part of the file system itself.",
                "Name a file or folder in it: 'keel files look' shows them.");
        }

        return Found(volume, path);
    }

    private static VolumeFile Found(DiskVolume volume, string path) => Files(volume).Find(path)
        ?? throw new UnreadableException(
            $"{path} is not on {volume}.",
            "No file or folder has this path there.",
            "'keel files look' shows what is there.");

    private static IVolume Files(DiskVolume volume) => Locks.FilesOf(volume);
}
