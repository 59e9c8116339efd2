using System.Buffers.Binary;
using System.Numerics;

namespace Keel.Core.Hives;

/// <summary>The checksum of log entries: Marvin32 with the seed that hive logs use.</summary>
internal static class Marvin32
{
    private const ulong Seed = 0x82EF4D887A4E55C5;

    public static ulong Hash(ReadOnlySpan<byte> data, ulong seed = Seed)
    {
        var low = unchecked((uint)seed);
        var high = (uint)(seed >> 32);
        for (; data.Length >= 4; data = data[4..])
        {
            low += BinaryPrimitives.ReadUInt32LittleEndian(data);
            Mix(ref low, ref high);
        }

        uint rest = 0x80;
        for (var index = data.Length - 1; index >= 0; index--) rest = (rest << 8) | data[index];
        low += rest;
        Mix(ref low, ref high);
        Mix(ref low, ref high);
        return ((ulong)high << 32) | low;
    }

    private static void Mix(ref uint low, ref uint high)
    {
        high ^= low;
        low = BitOperations.RotateLeft(low, 20) + high;
        high = BitOperations.RotateLeft(high, 9) ^ low;
        low = BitOperations.RotateLeft(low, 27) + high;
        high = BitOperations.RotateLeft(high, 19);
    }
}
