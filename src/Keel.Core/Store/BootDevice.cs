using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Layout;

namespace Keel.Core.Store;

/// <summary>A device value of a store: where an entry's program or system lies.</summary>
/// <remarks>Forms other than a partition and "the volume started from" are kept as raw bytes.</remarks>
public sealed class BootDevice
{
    private const int BodyAt = BootDeviceRecord.BodyAt, HeadBytes = 0x20, KindAt = 0x20, VirtualAt = 0x34;
    private static readonly int PartitionBytes = Unsafe.SizeOf<BootDeviceRecord>();
    private const int RamdiskPlaceBytes = 20;          // where it lies in memory, how long it is, where it begins: all 0
    private const uint GptTable = 0, MbrTable = 1;
    private const uint DiskLikeType = 0, RamdiskKind = 3, FileKind = 5, VirtualDiskKind = 6;
    private const uint StartedFromType = 5, PartitionType = 6, SearchType = 8;

    private BootDevice(byte[] raw)
    {
        Raw = raw;
        Record = ReadPadded(raw);
    }

    private BootDevice(in BootDeviceRecord record)
        : this(ToBytes(record))
    {
    }

    /// <summary>The bytes as stored.</summary>
    public byte[] Raw { get; }

    /// <summary>The bytes as fields; what is behind their end is 0.</summary>
    private BootDeviceRecord Record { get; }

    private uint Type => Raw.Length >= HeadBytes ? Record.Type : uint.MaxValue;

    /// <summary>Whether it means the disk that the firmware started from.</summary>
    public bool IsStartedFrom => Type == StartedFromType;

    /// <summary>
    /// Whether it means the volume that has the file which the entry names, as the store of a generalised image says it.
    /// </summary>
    public bool IsSearch => Type == SearchType;

    /// <summary>Whether it names a partition of a disk by both their identities.</summary>
    public bool IsPartition =>
        Type == PartitionType && Raw.Length >= PartitionBytes && !IsInVirtualDisk && Table is GptTable or MbrTable;

    /// <summary>Whether it names a partition of a disk that lies in a file.</summary>
    public bool IsInVirtualDisk => Type == PartitionType && Raw.Length >= PartitionBytes && Record.DiskKind == VirtualDiskKind;

    /// <summary>
    /// Whether it is shorter than a device of its kind, or than it says itself: nothing can be started from it.
    /// </summary>
    public bool IsCutShort => Raw.Length < HeadBytes
        || (Type == PartitionType && Raw.Length < PartitionBytes)
        || (Record.Length > Raw.Length - BodyAt && Type is PartitionType or StartedFromType or DiskLikeType);

    /// <summary>The disk that a partition device names.</summary>
    public DiskIdentity Disk => !IsPartition ? DiskIdentity.None
        : Table == MbrTable ? DiskIdentity.OfMbr(Record.DiskSignature)
        : DiskIdentity.OfGpt(Record.Disk);

    /// <summary>The start in bytes of the partition that an MBR partition device names.</summary>
    public long? StartBytes => IsPartition && Table == MbrTable ? Record.PartitionStart : null;

    /// <summary>The GUID of the partition that a GPT partition device names.</summary>
    public Guid? PartitionGuid => IsPartition && Table == GptTable ? Record.Partition : null;

    private uint Table => Record.Table;

    /// <summary>A device as an element holds it; nothing is checked, since a store may hold anything.</summary>
    public static BootDevice Read(byte[] raw) => new(raw);

    /// <summary>The device that means the disk that the firmware started from.</summary>
    public static BootDevice StartedFrom() => new(Blank(StartedFromType));

    /// <summary>The device value for a partition of a disk.</summary>
    public static BootDevice Of(DiskIdentity disk, Partition partition)
    {
        var record = Blank(PartitionType);
        if (partition.Id != default)
        {
            record.Table = GptTable;
            record.Partition = partition.Id;
            record.Disk = disk.Guid;
        }
        else
        {
            record.Table = MbrTable;
            record.PartitionStart = partition.Range.Start;
            record.DiskSignature = disk.Signature;
        }

        return new BootDevice(record);
    }

    /// <summary>
    /// The device value for a file on another device. The form is the one that readers here understand; no running Windows has
    /// read it.
    /// </summary>
    public static BootDevice OfFile(BootDevice inner, string path) =>
        OfBlocks(default, FileKind, before: [], FileDescription(inner, path));

    /// <summary>
    /// The device value for an image that is unpacked into memory. The form is put together from what is known of its parts; no
    /// running Windows has read one that keel wrote.
    /// </summary>
    /// <param name="options">The entry with the options that such a device needs.</param>
    /// <param name="holder">The volume that the image is on.</param>
    /// <param name="path">The path of the image.</param>
    public static BootDevice OfRamdisk(EntryId options, BootDevice holder, string path) =>
        OfBlocks(options.Value, RamdiskKind, new byte[RamdiskPlaceBytes], FileDescription(holder, path));

    private static BootDevice OfBlocks(Guid options, uint kind, byte[] before, byte[] file)
    {
        var raw = new byte[KindAt + sizeof(uint) + before.Length + file.Length];
        var head = new BootDeviceRecord { Options = options, Type = DiskLikeType, Length = (uint)(raw.Length - BodyAt) };
        MemoryMarshal.AsBytes([head])[..HeadBytes].CopyTo(raw);
        raw.Put(KindAt, kind);
        before.CopyTo(raw, KindAt + sizeof(uint));
        file.CopyTo(raw, raw.Length - file.Length);
        return new BootDevice(raw);
    }

    /// <summary>The description of a file: its version, length and type, the device that it lies on, its path.</summary>
    private static byte[] FileDescription(BootDevice holder, string path)
    {
        const uint version = 1, type = 5;
        const int headBytes = 3 * sizeof(uint);
        byte[] name = [.. Encoding.Unicode.GetBytes(path), 0, 0];
        var device = holder.Raw.AsSpan(BodyAt);
        var file = new byte[headBytes + device.Length + name.Length];
        file.Put(0, version);
        file.Put(sizeof(uint), (uint)file.Length);
        file.Put(2 * sizeof(uint), type);
        device.CopyTo(file.AsSpan(headBytes));
        name.CopyTo(file, file.Length - name.Length);
        return file;
    }

    /// <summary>
    /// The device value for a partition of a virtual disk that lies in a file. The form is put together from what is known of its
    /// parts; no running Windows has read one that keel wrote.
    /// </summary>
    /// <param name="partition">The partition inside.</param>
    /// <param name="holder">The volume that the file is on.</param>
    /// <param name="path">The path of the file.</param>
    public static BootDevice OfVirtual(Partition partition, BootDevice holder, string path)
    {
        const int numberBytes = sizeof(uint), headBytes = 16, kindBytes = sizeof(uint);
        var described = FileDescription(holder, path);
        var file = new byte[headBytes + kindBytes + described.Length];
        file.Put(8, (uint)file.Length);
        file.Put(headBytes, FileKind);
        described.CopyTo(file, headBytes + kindBytes);

        var raw = new byte[VirtualAt + numberBytes + file.Length];
        var head = Blank(PartitionType);
        head.Length = (uint)(raw.Length - BodyAt);
        head.DiskKind = VirtualDiskKind;
        if (partition.Id != default) head.Partition = partition.Id;
        else head.PartitionStart = partition.Range.Start;
        MemoryMarshal.AsBytes([head])[..VirtualAt].CopyTo(raw);
        file.CopyTo(raw, VirtualAt + numberBytes);
        return new BootDevice(raw);
    }

    /// <summary>
    /// Where a volume inside a virtual disk file lies; null for other forms. It is read by looking for the device of the file and
    /// its path, so that forms are understood that differ in between.
    /// </summary>
    public VirtualPlace? AsVirtual()
    {
        if (!IsInVirtualDisk || Found(VirtualAt) is not { } found || found.Path.Length == 0) return null;
        var start = Record.PartitionStart;
        var isStart = start > 0 && MemoryMarshal.AsBytes([Record.Partition])[sizeof(long)..].IndexOfAnyExcept((byte)0) < 0;
        return new VirtualPlace(found.Inner, found.Path, isStart ? null : Record.Partition, isStart ? start : null);
    }

    /// <summary>A file or ramdisk device: the device that the file lies on, and its path; null for other forms.</summary>
    public (BootDevice Inner, string Path, bool IsRamdisk)? AsFile()
    {
        if (Type != DiskLikeType || Raw.Length < KindAt + sizeof(uint)) return null;
        var kind = Raw.At<uint>(KindAt);
        if (kind is not (FileKind or RamdiskKind or VirtualDiskKind)) return null;
        return Found(KindAt + sizeof(uint)) is { } found ? (found.Inner, found.Path, kind == RamdiskKind) : null;
    }

    /// <summary>The same device with another volume to hold its file; null for forms without one.</summary>
    public BootDevice? WithHolder(BootDevice holder)
    {
        var from = IsInVirtualDisk ? VirtualAt : KindAt + sizeof(uint);
        if ((!IsInVirtualDisk && AsFile() is null) || Found(from) is not { } found) return null;
        var raw = Raw.ToArray();
        holder.Raw.AsSpan(BodyAt, PartitionBytes - BodyAt).CopyTo(raw.AsSpan(found.At));
        return new BootDevice(raw);
    }

    /// <summary>The first device of a volume from a place on, where it stands, and the path behind it.</summary>
    private (BootDevice Inner, string Path, int At)? Found(int from)
    {
        var bodyBytes = PartitionBytes - BodyAt;
        for (var at = from; at + bodyBytes <= Raw.Length; at += sizeof(uint))
        {
            byte[] bytes = [.. new byte[BodyAt], .. Raw.AsSpan(at, bodyBytes)];
            var inner = new BootDevice(bytes);
            if (inner.Type is PartitionType or StartedFromType && inner.Record.Length == bodyBytes)
                return (inner, PathBehind(at + bodyBytes), at);
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

    /// <summary>The entry with the options of this device; null where it has none.</summary>
    public EntryId? Options => Record.Options == default ? null : new EntryId(Record.Options);

    /// <summary>Whether this names that partition of that disk.</summary>
    public bool Names(DiskIdentity disk, Partition partition) =>
        IsPartition && Disk == disk && (PartitionGuid is { } guid ? guid == partition.Id : StartBytes == partition.Range.Start);

    /// <summary>The device in words, for one that no known volume matches.</summary>
    public override string ToString() =>
        IsStartedFrom ? "the volume started from"
        : IsSearch ? "the volume that has the file"
        : PartitionGuid is { } guid ? $"partition {guid} of disk {Disk}"
        : AsVirtual() is { } place ? $"a volume of the disk in {place.File} on {place.Holder}"
        : StartBytes is { } start ? $"the partition at byte {start} of disk {Disk}"
        : $"a device of another kind ({Raw.Length} bytes)";

    private static BootDeviceRecord Blank(uint type) => new() { Type = type, Length = (uint)(PartitionBytes - BodyAt) };

    private static BootDeviceRecord ReadPadded(byte[] raw)
    {
        if (raw.Length >= PartitionBytes) return raw.At<BootDeviceRecord>(0);
        var padded = new byte[PartitionBytes];
        raw.CopyTo(padded, 0);
        return padded.At<BootDeviceRecord>(0);
    }

    private static byte[] ToBytes(in BootDeviceRecord record)
    {
        var raw = new byte[PartitionBytes];
        raw.Put(0, record);
        return raw;
    }
}
