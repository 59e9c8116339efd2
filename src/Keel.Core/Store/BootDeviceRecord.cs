using System.Runtime.InteropServices;

namespace Keel.Core.Store;

/// <summary>A device value that names a partition: 88 bytes, the first 32 of every form.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct BootDeviceRecord
{
    /// <summary>Where the description of the device begins, in bytes; before it stand its options.</summary>
    public const int BodyAt = 0x10;

    public Guid Options;                // an entry with options; zero where there is none
    public uint Type;
    public uint Flags;
    public uint Length;                 // of the body, in bytes
    private readonly uint padding1;
    public Guid Partition;              // MBR: its start in bytes in the first 8
    public uint DiskKind;
    public uint Table;
    public Guid Disk;                   // MBR: the disk signature in the first 4
    private readonly Guid padding2;

    /// <summary>The first 8 bytes of the partition's field.</summary>
    public long PartitionStart
    {
        get => MemoryMarshal.Read<long>(MemoryMarshal.AsBytes(new ReadOnlySpan<Guid>(in Partition)));
        set => MemoryMarshal.Write(MemoryMarshal.AsBytes(new Span<Guid>(ref Partition)), in value);
    }

    /// <summary>The first 4 bytes of the disk's field.</summary>
    public uint DiskSignature
    {
        get => MemoryMarshal.Read<uint>(MemoryMarshal.AsBytes(new ReadOnlySpan<Guid>(in Disk)));
        set => MemoryMarshal.Write(MemoryMarshal.AsBytes(new Span<Guid>(ref Disk)), in value);
    }
}
