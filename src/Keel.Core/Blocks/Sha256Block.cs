using System.Buffers.Binary;
using System.Numerics;
using System.Runtime.CompilerServices;

namespace Keel.Core.Blocks;

/// <summary>
/// SHA-256 of short records, a million in a row: without an object, and without a call into a library for each.
/// </summary>
internal static class Sha256Block
{
    private const int BlockBytes = 64, LengthBytes = 8, Words = 16, Rounds = 64;

    /// <summary>The sum of a record.</summary>
    /// <param name="record">At most 119 bytes: two blocks with what is put behind them.</param>
    /// <param name="sum">Takes 32 bytes; may lie in the record, which is read before.</param>
    public static void Sum(ReadOnlySpan<byte> record, Span<byte> sum)
    {
        Span<byte> padded = stackalloc byte[2 * BlockBytes];
        padded.Clear();
        record.CopyTo(padded);
        padded[record.Length] = 0x80;
        var length = record.Length + 1 + LengthBytes > BlockBytes ? 2 * BlockBytes : BlockBytes;
        BinaryPrimitives.WriteInt64BigEndian(padded[(length - LengthBytes)..], record.Length * 8L);
        Span<uint> state = stackalloc uint[8];
        Sha256Sum.Start.CopyTo(state);
        for (var at = 0; at < length; at += BlockBytes) Take(state, padded[at..]);
        for (var word = 0; word < state.Length; word++)
            BinaryPrimitives.WriteUInt32BigEndian(sum[(word * sizeof(uint))..], state[word]);
    }

    /// <summary>Takes a block of 64 bytes into the state of eight words (FIPS 180-4, 6.2.2).</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    internal static unsafe void Take(Span<uint> state, ReadOnlySpan<byte> block)
    {
        var words = stackalloc uint[Rounds];
        for (var at = 0; at < Words; at++) words[at] = BinaryPrimitives.ReadUInt32BigEndian(block[(at * sizeof(uint))..]);
        for (var at = Words; at < Rounds; at++)
        {
            var (older, newer) = (words[at - 15], words[at - 2]);
            var first = BitOperations.RotateRight(older, 7) ^ BitOperations.RotateRight(older, 18) ^ (older >> 3);
            var second = BitOperations.RotateRight(newer, 17) ^ BitOperations.RotateRight(newer, 19) ^ (newer >> 10);
            words[at] = words[at - 16] + first + words[at - 7] + second;
        }

        uint a = state[0], b = state[1], c = state[2], d = state[3], e = state[4], f = state[5], g = state[6], h = state[7];
        fixed (uint* constants = Sha256Sum.Constants)
        {
            for (var at = 0; at < Rounds; at += 8)
            {
                Round(a, b, c, ref d, e, f, g, ref h, constants[at] + words[at]);
                Round(h, a, b, ref c, d, e, f, ref g, constants[at + 1] + words[at + 1]);
                Round(g, h, a, ref b, c, d, e, ref f, constants[at + 2] + words[at + 2]);
                Round(f, g, h, ref a, b, c, d, ref e, constants[at + 3] + words[at + 3]);
                Round(e, f, g, ref h, a, b, c, ref d, constants[at + 4] + words[at + 4]);
                Round(d, e, f, ref g, h, a, b, ref c, constants[at + 5] + words[at + 5]);
                Round(c, d, e, ref f, g, h, a, ref b, constants[at + 6] + words[at + 6]);
                Round(b, c, d, ref e, f, g, h, ref a, constants[at + 7] + words[at + 7]);
            }
        }

        state[0] += a;
        state[1] += b;
        state[2] += c;
        state[3] += d;
        state[4] += e;
        state[5] += f;
        state[6] += g;
        state[7] += h;
    }

    /// <summary>One round; instead of moving eight words on, the names are moved.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static void Round(uint a, uint b, uint c, ref uint d, uint e, uint f, uint g, ref uint h, uint added)
    {
        var fromE = BitOperations.RotateRight(e, 6) ^ BitOperations.RotateRight(e, 11) ^ BitOperations.RotateRight(e, 25);
        var sum = h + fromE + (g ^ (e & (f ^ g))) + added;
        var fromA = BitOperations.RotateRight(a, 2) ^ BitOperations.RotateRight(a, 13) ^ BitOperations.RotateRight(a, 22);
        d += sum;
        h = sum + fromA + ((a & b) | (c & (a | b)));
    }
}
