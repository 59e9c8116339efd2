using System.Buffers.Binary;
using System.Numerics;

namespace Keel.Core.Disks.Virtual;

/// <summary>
/// CRC-32C (Castagnoli), as VHDX has it over headers, tables and log entries, with the field of the sum itself as zeros.
/// </summary>
internal static class VhdxChecksum
{
    /// <param name="bytes">What is summed up.</param>
    /// <param name="checksumAt">Where in it the checksum stands.</param>
    public static uint Of(ReadOnlySpan<byte> bytes, int checksumAt)
    {
        var sum = Add(uint.MaxValue, bytes[..checksumAt]);
        sum = BitOperations.Crc32C(sum, 0u);
        return ~Add(sum, bytes[(checksumAt + sizeof(uint))..]);
    }

    private static uint Add(uint sum, ReadOnlySpan<byte> bytes)
    {
        for (; bytes.Length >= sizeof(ulong); bytes = bytes[sizeof(ulong)..])
            sum = BitOperations.Crc32C(sum, BinaryPrimitives.ReadUInt64LittleEndian(bytes));
        foreach (var value in bytes) sum = BitOperations.Crc32C(sum, value);
        return sum;
    }
}
