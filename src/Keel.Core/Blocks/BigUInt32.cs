using System.Buffers.Binary;

namespace Keel.Core.Blocks;

/// <summary>A number of four bytes in a packed record, the largest byte first.</summary>
internal readonly struct BigUInt32
{
    private readonly uint stored;

    private BigUInt32(uint stored) => this.stored = stored;

    /// <summary>The number.</summary>
    public uint Value => BinaryPrimitives.ReverseEndianness(stored);

    public static BigUInt32 Of(uint value) => new(BinaryPrimitives.ReverseEndianness(value));
}
