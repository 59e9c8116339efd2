using System.Buffers.Binary;
using System.Runtime.CompilerServices;
using Keel.Core.Blocks;
using Keel.Core.Layout;

namespace Keel.Core.Firmware;

/// <summary>A partition as a device path names it (UEFI specification, "Hard Drive Media Device Path").</summary>
/// <param name="Number">The partition's number.</param>
/// <param name="FirstSector">In sectors of the disk.</param>
/// <param name="SectorCount">In sectors of the disk.</param>
/// <param name="Id">GPT: the partition's GUID. MBR: the disk signature in the first 4 bytes.</param>
/// <param name="IsGpt">Whether the identifier is a GUID.</param>
public sealed record HardDrivePlace(uint Number, ulong FirstSector, ulong SectorCount, Guid Id, bool IsGpt)
{
    /// <summary>Where a partition lies.</summary>
    public static HardDrivePlace Of(DiskIdentity disk, Partition partition, int sectorBytes)
    {
        var id = new byte[16];
        if (partition.Id != default) partition.Id.TryWriteBytes(id);
        else BinaryPrimitives.WriteUInt32LittleEndian(id, disk.Signature);
        return new HardDrivePlace(
            (uint)partition.Number,
            (ulong)(partition.Range.Start / sectorBytes),
            (ulong)(partition.Range.Length / sectorBytes),
            new Guid(id),
            partition.Id != default);
    }

    /// <summary>Whether it names that partition: by GUID, or by disk signature and place.</summary>
    public bool Names(DiskIdentity disk, Partition partition, int sectorBytes) => IsGpt
        ? Id == partition.Id && partition.Id != default
        : this with { Number = 0 } == Of(disk, partition, sectorBytes) with { Number = 0 };

    internal static HardDrivePlace? TryRead(ReadOnlySpan<byte> data)
    {
        if (data.Length < Unsafe.SizeOf<HardDriveRecord>()) return null;
        var record = data.At<HardDriveRecord>(0);
        return new HardDrivePlace(
            record.Number,
            record.FirstSector,
            record.SectorCount,
            record.Id,
            record.IdKind == HardDriveRecord.GuidKind);
    }

    internal byte[] ToBytes()
    {
        var data = new byte[Unsafe.SizeOf<HardDriveRecord>()];
        data.Put(0, new HardDriveRecord
        {
            Number = Number,
            FirstSector = FirstSector,
            SectorCount = SectorCount,
            Id = Id,
            Format = IsGpt ? HardDriveRecord.GptFormat : HardDriveRecord.MbrFormat,
            IdKind = IsGpt ? HardDriveRecord.GuidKind : HardDriveRecord.SignatureKind
        });
        return data;
    }
}
