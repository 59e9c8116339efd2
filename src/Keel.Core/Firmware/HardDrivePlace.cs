using System.Buffers.Binary;
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
    private const int Bytes = 38, StartAt = 4, CountAt = 12, IdAt = 20, FormatAt = 36, IdKindAt = 37;
    private const byte MbrFormat = 1, GptFormat = 2, SignatureKind = 1, GuidKind = 2;

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

    internal static HardDrivePlace? TryRead(ReadOnlySpan<byte> data) => data.Length < Bytes ? null : new HardDrivePlace(
        BinaryPrimitives.ReadUInt32LittleEndian(data),
        BinaryPrimitives.ReadUInt64LittleEndian(data[StartAt..]),
        BinaryPrimitives.ReadUInt64LittleEndian(data[CountAt..]),
        new Guid(data.Slice(IdAt, 16)),
        data[IdKindAt] == GuidKind);

    internal byte[] ToBytes()
    {
        var data = new byte[Bytes];
        BinaryPrimitives.WriteUInt32LittleEndian(data, Number);
        BinaryPrimitives.WriteUInt64LittleEndian(data.AsSpan(StartAt), FirstSector);
        BinaryPrimitives.WriteUInt64LittleEndian(data.AsSpan(CountAt), SectorCount);
        Id.TryWriteBytes(data.AsSpan(IdAt));
        data[FormatAt] = IsGpt ? GptFormat : MbrFormat;
        data[IdKindAt] = IsGpt ? GuidKind : SignatureKind;
        return data;
    }
}
