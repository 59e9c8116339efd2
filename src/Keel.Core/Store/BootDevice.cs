using System.Buffers.Binary;
using System.Text;
using Keel.Core.Layout;

namespace Keel.Core.Store;

/// <summary>A device value of a store: where an entry's program or system lies.</summary>
/// <remarks>Forms other than a partition and "the volume started from" are kept as raw bytes.</remarks>
public sealed record BootDevice
{
    private const int TypeAt = 0x10, LengthAt = 0x18, PartitionAt = 0x20, DiskKindAt = 0x30, TableAt = 0x34, DiskAt = 0x38;
    private const int PartitionBytes = 0x58, BodyAt = 0x10;
    private const int InnerAt = 0x28;
    private const uint GptTable = 0, MbrTable = 1;
    private const uint DiskLikeType = 0, RamdiskKind = 3, FileKind = 5, VirtualDiskKind = 6;
    private const uint StartedFromType = 5, PartitionType = 6;

    private BootDevice(byte[] raw) => Raw = raw;

    /// <summary>The bytes as stored.</summary>
    public byte[] Raw { get; }

    private uint Type => Raw.Length >= PartitionAt ? BinaryPrimitives.ReadUInt32LittleEndian(Raw.AsSpan(TypeAt)) : uint.MaxValue;

    /// <summary>Whether it means the disk that the firmware started from.</summary>
    public bool IsStartedFrom => Type == StartedFromType;

    /// <summary>Whether it names a partition of a disk by both their identities.</summary>
    public bool IsPartition => Type == PartitionType && Raw.Length >= PartitionBytes && Table is GptTable or MbrTable;

    /// <summary>The disk that a partition device names.</summary>
    public DiskIdentity Disk => !IsPartition ? DiskIdentity.None
        : Table == MbrTable ? DiskIdentity.OfMbr(BinaryPrimitives.ReadUInt32LittleEndian(Raw.AsSpan(DiskAt)))
        : DiskIdentity.OfGpt(new Guid(Raw.AsSpan(DiskAt, 16)));

    /// <summary>The start in bytes of the partition that an MBR partition device names.</summary>
    public long? StartBytes =>
        IsPartition && Table == MbrTable ? BinaryPrimitives.ReadInt64LittleEndian(Raw.AsSpan(PartitionAt)) : null;

    /// <summary>The GUID of the partition that a GPT partition device names.</summary>
    public Guid? PartitionGuid => IsPartition && Table == GptTable ? new Guid(Raw.AsSpan(PartitionAt, 16)) : null;

    private uint Table => BinaryPrimitives.ReadUInt32LittleEndian(Raw.AsSpan(TableAt));

    /// <summary>A device as an element holds it; nothing is checked, since a store may hold anything.</summary>
    public static BootDevice Read(byte[] raw) => new(raw);

    /// <summary>The device that means the disk that the firmware started from.</summary>
    public static BootDevice StartedFrom()
    {
        var raw = Blank(StartedFromType);
        return new BootDevice(raw);
    }

    /// <summary>The device value for a partition of a disk.</summary>
    public static BootDevice Of(DiskIdentity disk, Partition partition)
    {
        var raw = Blank(PartitionType);
        if (partition.Id != default)
        {
            partition.Id.TryWriteBytes(raw.AsSpan(PartitionAt));
            disk.Guid.TryWriteBytes(raw.AsSpan(DiskAt));
            BinaryPrimitives.WriteUInt32LittleEndian(raw.AsSpan(TableAt), GptTable);
        }
        else
        {
            BinaryPrimitives.WriteInt64LittleEndian(raw.AsSpan(PartitionAt), partition.Range.Start);
            BinaryPrimitives.WriteUInt32LittleEndian(raw.AsSpan(DiskAt), disk.Signature);
            BinaryPrimitives.WriteUInt32LittleEndian(raw.AsSpan(TableAt), MbrTable);
        }

        return new BootDevice(raw);
    }

    /// <summary>
    /// The device value for a file on another device. The form is the one that readers here understand; no running Windows has
    /// read it.
    /// </summary>
    public static BootDevice OfFile(BootDevice inner, string path)
    {
        byte[] name = [.. Encoding.Unicode.GetBytes(path), 0, 0];
        var raw = new byte[InnerAt + (inner.Raw.Length - BodyAt) + name.Length];
        BinaryPrimitives.WriteUInt32LittleEndian(raw.AsSpan(LengthAt), (uint)(raw.Length - BodyAt));
        BinaryPrimitives.WriteUInt32LittleEndian(raw.AsSpan(PartitionAt), FileKind);
        inner.Raw.AsSpan(BodyAt).CopyTo(raw.AsSpan(InnerAt));
        name.CopyTo(raw, raw.Length - name.Length);
        return new BootDevice(raw);
    }

    /// <summary>A file or ramdisk device: the device that the file lies on, and its path; null for other forms.</summary>
    public (BootDevice Inner, string Path, bool IsRamdisk)? AsFile()
    {
        if (Type != DiskLikeType || Raw.Length < InnerAt) return null;
        var kind = BinaryPrimitives.ReadUInt32LittleEndian(Raw.AsSpan(PartitionAt));
        if (kind is not (FileKind or RamdiskKind or VirtualDiskKind)) return null;
        for (var at = PartitionAt + sizeof(uint); at + PartitionBytes - BodyAt <= Raw.Length; at += sizeof(uint))
        {
            var type = BinaryPrimitives.ReadUInt32LittleEndian(Raw.AsSpan(at));
            if (type is not (PartitionType or StartedFromType)
                || BinaryPrimitives.ReadUInt32LittleEndian(Raw.AsSpan(at + LengthAt - BodyAt)) != PartitionBytes - BodyAt)
            {
                continue;
            }

            byte[] inner = [.. new byte[BodyAt], .. Raw.AsSpan(at, PartitionBytes - BodyAt)];
            return (new BootDevice(inner), PathBehind(at + PartitionBytes - BodyAt), kind == RamdiskKind);
        }

        return null;
    }

    /// <summary>The text from the first backslash on, up to its ending zero.</summary>
    private string PathBehind(int at)
    {
        var rest = Encoding.Unicode.GetString(Raw.AsSpan(at, (Raw.Length - at) & ~1));
        var start = rest.IndexOf('\\', StringComparison.Ordinal);
        return start < 0 ? "" : rest[start..].Split('\0')[0];
    }

    /// <summary>Whether this names that partition of that disk.</summary>
    public bool Names(DiskIdentity disk, Partition partition) =>
        IsPartition && Disk == disk && (PartitionGuid is { } guid ? guid == partition.Id : StartBytes == partition.Range.Start);

    /// <summary>The device in words, for one that no known volume matches.</summary>
    public override string ToString() =>
        IsStartedFrom ? "the volume started from"
        : PartitionGuid is { } guid ? $"partition {guid} of disk {Disk}"
        : StartBytes is { } start ? $"the partition at byte {start} of disk {Disk}"
        : $"a device of another kind ({Raw.Length} bytes)";

    private static byte[] Blank(uint type)
    {
        var raw = new byte[PartitionBytes];
        BinaryPrimitives.WriteUInt32LittleEndian(raw.AsSpan(TypeAt), type);
        BinaryPrimitives.WriteUInt32LittleEndian(raw.AsSpan(LengthAt), PartitionBytes - BodyAt);
        return raw;
    }
}
