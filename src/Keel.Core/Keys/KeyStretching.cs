using System.Buffers.Binary;
using Keel.Core.Blocks;

namespace Keel.Core.Keys;

/// <summary>Makes the key of a master key out of what somebody typed, slowly on purpose.</summary>
internal static class KeyStretching
{
    /// <summary>How often the sum is taken.</summary>
    public const int Rounds = 0x100000;

    /// <summary>The length of the salt, in bytes.</summary>
    public const int SaltBytes = 16;

    private const int FirstAt = 32, SaltAt = 64, CountAt = 80, RecordBytes = 88;

    /// <summary>The key, of 32 bytes.</summary>
    /// <param name="content">What the key stands for; its sum is taken first.</param>
    /// <param name="salt">The salt of the protector.</param>
    public static Secret Of(ReadOnlySpan<byte> content, ReadOnlySpan<byte> salt)
    {
        using var record = new Secret(RecordBytes);
        var bytes = record.Bytes;
        var first = Sha256Sum.Of(content);
        first.CopyTo(bytes[FirstAt..]);
        Array.Clear(first);
        salt[..SaltBytes].CopyTo(bytes[SaltAt..]);
        for (var round = 0L; round < Rounds; round++)
        {
            BinaryPrimitives.WriteInt64LittleEndian(bytes[CountAt..], round);
            Sha256Block.Sum(bytes, bytes);
        }

        return record.Part(0, Sha256Sum.Bytes);
    }
}
