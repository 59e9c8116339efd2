using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Disks.Virtual;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Drills;

/// <summary>A Windows in a virtual disk file, on the volume where practice machines have Windows itself.</summary>
internal static class PracticeInside
{
    /// <summary>The file that it lies in.</summary>
    public const string File = @"\machines\second.vhdx";

    private const long MiB = 1024 * 1024, DiskBytes = 160 * MiB;
    private static readonly ByteRange Partition = new(MiB, DiskBytes - (2 * MiB));

    /// <summary>Makes the file, the disk in it, and Windows on that.</summary>
    /// <param name="machine">The machine, without a Windows.</param>
    /// <param name="spec">What it is to be like.</param>
    /// <param name="layout">Where its volumes lie.</param>
    /// <param name="image">The image that is made, for temporary files beside it.</param>
    public static void Write(Machine machine, PracticeSpec spec, PracticeLayout layout, string image)
    {
        var plain = image + ".inside";
        try
        {
            using (var file = System.IO.File.Create(plain)) file.SetLength(DiskBytes);
            using (var file = DiskFile.OpenForWriting(plain)) Format(file, spec);
            using var source = DiskFile.Open(plain);
            var holder = machine.StartDisk.Volumes.First(volume => volume.Number == layout.WindowsNumber);
            holder.Edit(files => MakeFile(files, source));
            var inside = machine.Add(machine.StartDisk, new InsidePath(layout.WindowsNumber, File));
            PracticeFiles.WriteWindows(inside.Volumes[0], spec, []);
        }
        finally
        {
            System.IO.File.Delete(plain);
        }
    }

    private static void Format(DiskFile file, PracticeSpec spec)
    {
        var record = new MasterBootRecord(new byte[MasterBootRecord.Size]) { Signature = spec.DiskSignature + 1, HasMark = true };
        record.SetSlot(
            0,
            new PartitionSlot(
                Mark: 0,
                PartitionTypes.Ntfs,
                (uint)(Partition.Start / file.SectorBytes),
                (uint)(Partition.Length / file.SectorBytes)));
        file.Write(0, record.ToBytes());
        Formatter.Ntfs(file, Partition, "Brackwater OS", 4096, file.SectorBytes);
    }

    private static void MakeFile(IVolume files, DiskFile source)
    {
        files.CreateFolder(VolumeExtensions.FolderOf(File));
        files.WriteFile(File, []);
        var backing = new FileInVolume(() => files, File);
        VhdxMaking.Make(backing, source.LengthBytes, blockBytes: (int)MiB);
        var disk = VhdxDisk.Open(backing, _ => throw new InvalidOperationException("It has no parent."));
        var buffer = new byte[MiB];
        for (var at = source.NextData(0); at < source.LengthBytes; at = source.NextData(at + 1))
        {
            at = at / MiB * MiB;
            var part = buffer.AsSpan(0, (int)Math.Min(MiB, source.LengthBytes - at));
            source.Read(at, part);
            if (part.ContainsAnyExcept((byte)0)) disk.Write(at, part);
            at += MiB - 1;
        }
    }
}
