using System.Buffers.Binary;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>
/// Reads what an encrypted volume says of itself without a key (layout as published with libbde and cryptsetup).
/// </summary>
public static class EncryptionReader
{
    /// <summary>The first sector: where the mark, the identifier and the places of the metadata stand.</summary>
    private const int SectorBytes = 512, MarkAt = 3, IdAt = 0xA0, ToGoIdAt = 0x1A8;

    /// <summary>A block of metadata: its head, the second head behind it, and the entries behind that.</summary>
    private const int HeadBytes = 64, InnerBytes = 48, EntriesAt = HeadBytes + InnerBytes, EntryHeadBytes = 8;

    private const int LengthAt = 8, StateAt = 0x0C, NextStateAt = 0x0E, MethodAt = HeadBytes + 36, TimeAt = HeadBytes + 40;
    private const int LengthUnit = 16, MostBlockBytes = 256 * 1024, MostEntries = 256;
    private const ushort Encrypted = 4, MasterKey = 2, Description = 7, TextForm = 2, MasterKeyForm = 8;

    private static readonly Guid Usual = new("4967D63B-2E29-4AD8-8399-F6A339E3D001");
    private static readonly Guid OnWrite = new("92A84D3B-DD80-4D0E-9E4E-B1E3284EAED8");

    private static ReadOnlySpan<byte> Mark => "-FVE-FS-"u8;

    /// <summary>Whether a volume begins as an encrypted one does, in either form.</summary>
    public static bool IsOne(ReadOnlySpan<byte> sector) =>
        sector.Length >= SectorBytes && (sector[MarkAt..].StartsWith(Mark) || IdOf(sector, ToGoIdAt) == Usual);

    /// <summary>What the volume tells; null where it is none, or nothing of its metadata is whole.</summary>
    /// <exception cref="ReadFailedException">The disk does not give its first sector.</exception>
    public static EncryptionFacts? Read(IReadableBlocks volume)
    {
        if (volume.LengthBytes < SectorBytes) return null;
        var sector = volume.ReadBytes(0, SectorBytes);
        if (!IsOne(sector)) return null;
        var isToGo = !sector.AsSpan(MarkAt).StartsWith(Mark);
        var idAt = isToGo ? ToGoIdAt : IdAt;
        var blocks = new List<(int Number, byte[] Bytes)>();
        for (var number = 0; number < EncryptionFacts.BlockCount; number++)
        {
            var at = BinaryPrimitives.ReadInt64LittleEndian(sector.AsSpan(idAt + 16 + (number * sizeof(long))));
            if (Block(volume, at) is { } block) blocks.Add((number + 1, block));
        }

        if (blocks.Count == 0) return null;
        var best = blocks.MaxBy(block => TimeOf(block.Bytes) ?? DateTimeOffset.MinValue).Bytes;
        return Describe(best, IdOf(sector, idAt) == OnWrite, isToGo, [.. blocks.Select(block => block.Number)]);
    }

    private static EncryptionFacts Describe(byte[] block, bool isOnWrite, bool isToGo, IReadOnlyList<int> whole)
    {
        var protectors = new List<Protector>();
        var description = "";
        foreach (var (what, form, data) in Entries(block))
        {
            if (what == Description && form == TextForm)
                description = Encoding.Unicode.GetString(block, data.At, data.Length).TrimEnd('\0');
            else if (what == MasterKey && form == MasterKeyForm && ProtectorIn(block.AsSpan(data.At, data.Length)) is { } one)
                protectors.Add(one);
        }

        return new EncryptionFacts(
            MethodName(BinaryPrimitives.ReadUInt16LittleEndian(block.AsSpan(MethodAt))),
            StateOf(block, isOnWrite, protectors),
            TimeOf(block),
            description,
            protectors,
            whole,
            isToGo);
    }

    private static EncryptionState StateOf(byte[] block, bool isOnWrite, IReadOnlyList<Protector> protectors)
    {
        var now = BinaryPrimitives.ReadUInt16LittleEndian(block.AsSpan(StateAt));
        var next = BinaryPrimitives.ReadUInt16LittleEndian(block.AsSpan(NextStateAt));
        if (now != next) return EncryptionState.Converting;
        if (protectors.Any(one => one.Kind == ProtectorKind.Clear)) return EncryptionState.Suspended;
        if (isOnWrite) return EncryptionState.OnWrite;
        return now == Encrypted ? EncryptionState.On : EncryptionState.Unknown;
    }

    /// <summary>A block whose check holds; null where there is none such.</summary>
    private static byte[]? Block(IReadableBlocks volume, long at)
    {
        const int checkHeadBytes = 4;
        if (at <= 0 || at > volume.LengthBytes - SectorBytes) return null;
        try
        {
            var head = volume.ReadBytes(at, SectorBytes);
            var length = BinaryPrimitives.ReadUInt16LittleEndian(head.AsSpan(LengthAt)) * LengthUnit;
            var needed = length + checkHeadBytes + sizeof(uint);
            var fits = length >= EntriesAt && needed <= MostBlockBytes && needed <= volume.LengthBytes - at;
            if (!fits || !head.AsSpan().StartsWith(Mark)) return null;
            var bytes = volume.ReadBytes(at, needed);
            var check = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(length + checkHeadBytes));
            return System.IO.Hashing.Crc32.HashToUInt32(bytes.AsSpan(0, length)) == check ? bytes[..length] : null;
        }
        catch (ReadFailedException)
        {
            return null;        // the other blocks say the same
        }
    }

    /// <summary>The entries one behind the other; what makes no sense ends them.</summary>
    private static IEnumerable<(ushort What, ushort Form, (int At, int Length) Data)> Entries(byte[] block)
    {
        var size = BinaryPrimitives.ReadInt32LittleEndian(block.AsSpan(HeadBytes));
        var end = Math.Min(block.Length, HeadBytes + Math.Clamp(size, InnerBytes, MostBlockBytes));
        var at = EntriesAt;
        for (var count = 0; count < MostEntries && at + EntryHeadBytes <= end; count++)
        {
            var length = BinaryPrimitives.ReadUInt16LittleEndian(block.AsSpan(at));
            if (length < EntryHeadBytes || length > end - at) yield break;
            yield return (
                BinaryPrimitives.ReadUInt16LittleEndian(block.AsSpan(at + 2)),
                BinaryPrimitives.ReadUInt16LittleEndian(block.AsSpan(at + 4)),
                (at + EntryHeadBytes, length - EntryHeadBytes));
            at += length;
        }
    }

    private static Protector? ProtectorIn(ReadOnlySpan<byte> data)
    {
        const int timeAt = 16, kindAt = 26, needed = 28;
        if (data.Length < needed) return null;
        return new Protector(
            new Guid(data[..timeAt]),
            KindOf(BinaryPrimitives.ReadUInt16LittleEndian(data[kindAt..])),
            Time(BinaryPrimitives.ReadInt64LittleEndian(data[timeAt..])));
    }

    private static ProtectorKind KindOf(ushort number) => number switch
    {
        0x0000 => ProtectorKind.Clear,
        0x0100 => ProtectorKind.Tpm,
        0x0200 => ProtectorKind.StartupKey,
        0x0500 => ProtectorKind.TpmAndPin,
        0x0800 => ProtectorKind.RecoveryKey,
        0x1000 => ProtectorKind.SmartCard,
        0x2000 => ProtectorKind.Password,
        _ => ProtectorKind.Other
    };

    private static string? MethodName(ushort method) => method switch
    {
        0x8000 => "AES-CBC 128 with diffuser",
        0x8001 => "AES-CBC 256 with diffuser",
        0x8002 => "AES-CBC 128",
        0x8003 => "AES-CBC 256",
        0x8004 => "XTS-AES 128",
        0x8005 => "XTS-AES 256",
        _ => null
    };

    private static Guid IdOf(ReadOnlySpan<byte> sector, int at) => new(sector.Slice(at, 16));

    private static DateTimeOffset? TimeOf(byte[] block) => Time(BinaryPrimitives.ReadInt64LittleEndian(block.AsSpan(TimeAt)));

    private static DateTimeOffset? Time(long fileTime) => fileTime > 0 && fileTime < DateTimeOffset.MaxValue.ToFileTime()
        ? DateTimeOffset.FromFileTime(fileTime).ToUniversalTime()
        : null;
}
