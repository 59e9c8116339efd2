using System.Text;
using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>Makes empty VHDs that grow, for practice disks.</summary>
internal static class VhdMaking
{
    private const int Sector = 512, HeaderAt = 512, TableAt = 1536, FooterChecksumAt = 64, HeaderChecksumAt = 36;
    private const uint FirstVersion = 0x00010000, ReservedFeature = 2, Creator = 0x6B65656C, Windows = 0x5769326B;

    /// <summary>Makes an empty disk in an empty file.</summary>
    /// <param name="file">The file.</param>
    /// <param name="diskBytes">The length of the disk, a multiple of 512.</param>
    /// <param name="id">How it is called.</param>
    /// <param name="parent">What it differs from; null for a disk of its own.</param>
    /// <param name="blockBytes">The length of a block, a power of two.</param>
    public static void Make(
        IBackingFile file,
        long diskBytes,
        Guid id,
        ParentClaim? parent = null,
        int blockBytes = 2 * 1024 * 1024)
    {
        var entries = (diskBytes + blockBytes - 1) / blockBytes;
        var tableBytes = ((entries * sizeof(uint)) + Sector - 1) / Sector * Sector;
        var nameAt = TableAt + tableBytes;
        var name = Encoding.Unicode.GetBytes(parent?.Names[0] ?? "");
        var nameSpace = (name.Length + Sector - 1) / Sector * Sector;
        file.Grow(nameAt + nameSpace + VhdFooterRecord.Bytes);
        var footer = Footer(diskBytes, id, parent is null ? VhdFooterRecord.Dynamic : VhdFooterRecord.Differencing);
        file.Write(0, footer);
        file.Write(HeaderAt, Header((uint)entries, blockBytes, parent, nameAt, name.Length));
        var table = new byte[tableBytes];
        table.AsSpan().Fill(0xFF);
        file.Write(TableAt, table);
        file.Write(nameAt, name);
        file.Write(nameAt + nameSpace, footer);
        file.Flush();
    }

    private static byte[] Footer(long diskBytes, Guid id, uint type)
    {
        var bytes = new byte[VhdFooterRecord.Bytes];
        var footer = new VhdFooterRecord
        {
            Mark = Bytes8.Of(VhdFooterRecord.MarkBytes),
            Features = BigUInt32.Of(ReservedFeature),
            Version = BigUInt32.Of(FirstVersion),
            HeaderAt = BigUInt64.Of(HeaderAt),
            CreatorProgram = BigUInt32.Of(Creator),
            CreatorVersion = BigUInt32.Of(FirstVersion),
            CreatorSystem = BigUInt32.Of(Windows),
            OriginalBytes = BigUInt64.Of((ulong)diskBytes),
            DiskBytes = BigUInt64.Of((ulong)diskBytes),
            Geometry = BigUInt32.Of(GeometryOf(diskBytes / Sector)),
            DiskType = BigUInt32.Of(type),
            Id = id
        };
        bytes.Put(0, footer);
        footer.Checksum = BigUInt32.Of(VhdChecksum.Of(bytes, FooterChecksumAt));
        bytes.Put(0, footer);
        return bytes;
    }

    private static byte[] Header(uint entries, int blockBytes, ParentClaim? parent, long nameAt, int nameBytes)
    {
        var bytes = new byte[VhdHeaderRecord.Bytes];
        var header = new VhdHeaderRecord
        {
            Mark = Bytes8.Of(VhdHeaderRecord.MarkBytes),
            NextAt = BigUInt64.Of(ulong.MaxValue),
            TableAt = BigUInt64.Of(TableAt),
            Version = BigUInt32.Of(FirstVersion),
            TableEntries = BigUInt32.Of(entries),
            BlockBytes = BigUInt32.Of((uint)blockBytes)
        };
        if (parent is not null)
        {
            header.ParentId = parent.Id;
            var last = parent.Names[0][(parent.Names[0].LastIndexOf('\\') + 1)..];
            Encoding.BigEndianUnicode.GetBytes(last).CopyTo((Span<byte>)header.ParentName);
            header.Parents[0] = new VhdLocatorRecord
            {
                Platform = BigUInt32.Of(VhdLocatorRecord.Relative),
                SpaceBytes = BigUInt32.Of(Sector),
                LengthBytes = BigUInt32.Of((uint)nameBytes),
                At = BigUInt64.Of((ulong)nameAt)
            };
        }

        bytes.Put(0, header);
        header.Checksum = BigUInt32.Of(VhdChecksum.Of(bytes, HeaderChecksumAt));
        bytes.Put(0, header);
        return bytes;
    }

    /// <summary>Cylinders, heads and sectors, as the appendix of the specification counts them.</summary>
    private static uint GeometryOf(long sectors)
    {
        const long most = 65535L * 16 * 255;
        sectors = Math.Min(sectors, most);
        long perTrack, heads, tracks;
        if (sectors >= 65535L * 16 * 63)
        {
            (perTrack, heads) = (255, 16);
            tracks = sectors / perTrack;
        }
        else
        {
            perTrack = 17;
            tracks = sectors / perTrack;
            heads = Math.Max(4, (tracks + 1023) / 1024);
            if (tracks >= heads * 1024 || heads > 16)
            {
                (perTrack, heads) = (31, 16);
                tracks = sectors / perTrack;
            }

            if (tracks >= heads * 1024)
            {
                (perTrack, heads) = (63, 16);
                tracks = sectors / perTrack;
            }
        }

        return (uint)((tracks / heads << 16) | (heads << 8) | perTrack);
    }
}
