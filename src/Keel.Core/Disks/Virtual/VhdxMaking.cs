using System.Runtime.CompilerServices;
using System.Text;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>Makes empty VHDXs, for practice disks.</summary>
internal static class VhdxMaking
{
    private const int MiB = 1024 * 1024, KiB = 1024;
    private const int FirstHeaderAt = 64 * KiB, SecondHeaderAt = 128 * KiB, FirstTableAt = 192 * KiB, SecondTableAt = 256 * KiB;
    private const int LogAt = MiB, MetadataAt = 2 * MiB, BlockTableAt = 3 * MiB;

    /// <summary>Makes an empty disk in an empty file.</summary>
    /// <param name="file">The file.</param>
    /// <param name="diskBytes">The length of the disk, a multiple of its sectors.</param>
    /// <param name="sectorBytes">A logical sector, 512 or 4096 bytes.</param>
    /// <param name="blockBytes">The length of a block, a power of two from 1 MiB on.</param>
    /// <param name="parent">What it differs from; null for a disk of its own.</param>
    public static void Make(
        IBackingFile file,
        long diskBytes,
        int sectorBytes = 512,
        int blockBytes = 2 * MiB,
        ParentClaim? parent = null)
    {
        const long bitmapSectors = 1L << 23;
        var chunk = bitmapSectors * sectorBytes / blockBytes;
        var blocks = (diskBytes + blockBytes - 1) / blockBytes;
        var entries = (blocks + chunk - 1) / chunk * (chunk + 1);
        var tableBytes = ((entries * sizeof(ulong)) + MiB - 1) / MiB * MiB;
        file.Grow(BlockTableAt + tableBytes);
        file.Write(0, [.. "vhdxfile"u8, .. Encoding.Unicode.GetBytes("keel")]);
        var regions = Regions((uint)tableBytes);
        file.Write(FirstTableAt, regions);
        file.Write(SecondTableAt, regions);
        WriteMetadata(file, diskBytes, sectorBytes, blockBytes, parent);
        file.Write(FirstHeaderAt, Header(1));
        file.Write(SecondHeaderAt, Header(2));
        file.Flush();
    }

    private static byte[] Header(ulong sequence)
    {
        var bytes = new byte[VhdxHeaderRecord.SummedBytes];
        var header = new VhdxHeaderRecord
        {
            Mark = VhdxHeaderRecord.MarkValue,
            Sequence = sequence,
            FileWriteId = Guid.NewGuid(),
            DataWriteId = Guid.NewGuid(),
            Version = 1,
            LogBytes = MiB,
            LogAt = LogAt
        };
        bytes.Put(0, header);
        header.Checksum = VhdxChecksum.Of(bytes, VhdxHeaderRecord.ChecksumAt);
        bytes.Put(0, header);
        return bytes;
    }

    private static byte[] Regions(uint tableBytes)
    {
        var bytes = new byte[VhdxRegionTableRecord.TableBytes];
        var head = new VhdxRegionTableRecord { Mark = VhdxRegionTableRecord.MarkValue, EntryCount = 2 };
        var first = Unsafe.SizeOf<VhdxRegionTableRecord>();
        bytes.Put(first, new VhdxRegionRecord { Kind = VhdxIds.BlockTable, At = BlockTableAt, Bytes = tableBytes, Required = 1 });
        bytes.Put(
            first + Unsafe.SizeOf<VhdxRegionRecord>(),
            new VhdxRegionRecord { Kind = VhdxIds.Metadata, At = MetadataAt, Bytes = MiB, Required = 1 });
        bytes.Put(0, head);
        head.Checksum = VhdxChecksum.Of(bytes, VhdxRegionTableRecord.ChecksumAt);
        bytes.Put(0, head);
        return bytes;
    }

    private static void WriteMetadata(IBackingFile file, long diskBytes, int sectorBytes, int blockBytes, ParentClaim? parent)
    {
        const uint virtualDisk = 2, hasParent = 2;
        var flags = parent is null ? 0 : hasParent;
        var items = new List<(Guid Item, byte[] Bytes, uint Flags)>
        {
            (VhdxIds.FileParameters, [.. BitConverter.GetBytes((uint)blockBytes), .. BitConverter.GetBytes(flags)], 0),
            (VhdxIds.DiskBytes, BitConverter.GetBytes((ulong)diskBytes), virtualDisk),
            (VhdxIds.DiskId, Guid.NewGuid().ToByteArray(), virtualDisk),
            (VhdxIds.LogicalSector, BitConverter.GetBytes((uint)sectorBytes), virtualDisk),
            (VhdxIds.PhysicalSector, BitConverter.GetBytes(4096u), virtualDisk)
        };
        if (parent is not null) items.Add((VhdxIds.Parent, Locator(parent), 0));
        var bytes = new byte[VhdxMetadataTableRecord.TableBytes];
        bytes.Put(0, new VhdxMetadataTableRecord
        {
            Mark = Bytes8.Of(VhdxMetadataTableRecord.MarkBytes),
            EntryCount = (ushort)items.Count
        });
        var at = VhdxMetadataTableRecord.TableBytes;
        for (var number = 0; number < items.Count; number++)
        {
            var (item, content, kind) = items[number];
            bytes.Put(
                Unsafe.SizeOf<VhdxMetadataTableRecord>() + (number * Unsafe.SizeOf<VhdxMetadataRecord>()),
                new VhdxMetadataRecord
                {
                    Item = item,
                    At = (uint)at,
                    Bytes = (uint)content.Length,
                    Flags = kind | VhdxMetadataRecord.Required
                });
            file.Write(MetadataAt + at, content);
            at += content.Length;
        }

        file.Write(MetadataAt, bytes);
    }

    private static byte[] Locator(ParentClaim parent)
    {
        (string Name, string Value)[] values = [("parent_linkage", $"{parent.Id:B}"), ("relative_path", parent.Names[0])];
        var text = new List<byte>();
        var at = VhdxLocatorRecord.Bytes + (values.Length * VhdxLocatorEntryRecord.Bytes);
        var bytes = new byte[at];
        bytes.Put(0, new VhdxLocatorRecord { Kind = VhdxIds.ParentIsVhdx, Count = (ushort)values.Length });
        for (var number = 0; number < values.Length; number++)
        {
            var (name, value) = (Encoding.Unicode.GetBytes(values[number].Name), Encoding.Unicode.GetBytes(values[number].Value));
            bytes.Put(VhdxLocatorRecord.Bytes + (number * VhdxLocatorEntryRecord.Bytes), new VhdxLocatorEntryRecord
            {
                NameAt = (uint)(at + text.Count),
                NameBytes = (ushort)name.Length,
                ValueAt = (uint)(at + text.Count + name.Length),
                ValueBytes = (ushort)value.Length
            });
            text.AddRange(name);
            text.AddRange(value);
        }

        return [.. bytes, .. text];
    }
}
