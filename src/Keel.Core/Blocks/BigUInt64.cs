using System.Buffers.Binary;

namespace Keel.Core.Blocks;

/// <summary>A number of eight bytes in a packed record, the largest byte first.</summary>
internal readonly struct BigUInt64
{
    private readonly ulong stored;

    private BigUInt64(ulong stored) => this.stored = stored;

    /// <summary>The number.</summary>
    public ulong Value => BinaryPrimitives.ReverseEndianness(stored);

    public static BigUInt64 Of(ulong value) => new(BinaryPrimitives.ReverseEndianness(value));
}
