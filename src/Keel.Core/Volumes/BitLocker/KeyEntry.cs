using System.Buffers.Binary;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>An entry of the metadata, or of a startup key's file; entries lie in entries.</summary>
/// <param name="What">What it is for.</param>
/// <param name="Form">How its data are laid out.</param>
/// <param name="Data">What follows its head.</param>
internal readonly record struct KeyEntry(ushort What, ushort Form, ReadOnlyMemory<byte> Data)
{
    /// <summary>Values of <see cref="What"/>.</summary>
    public const ushort ForMasterKey = 2, ForVolumeKey = 3, ForDescription = 7, ForStartupKey = 6;

    /// <summary>Values of <see cref="Form"/>.</summary>
    public const ushort PlainKey = 1, Text = 2, Stretched = 3, Sealed = 5, MasterKey = 8, External = 9;

    /// <summary>The head: length, what, form, version, each of two bytes.</summary>
    public const int HeadBytes = 8;

    private const int MostEntries = 256;

    /// <summary>The entries one behind the other; what makes no sense ends them.</summary>
    public static IEnumerable<KeyEntry> In(ReadOnlyMemory<byte> bytes)
    {
        for (var count = 0; count < MostEntries && bytes.Length >= HeadBytes; count++)
        {
            var length = BinaryPrimitives.ReadUInt16LittleEndian(bytes.Span);
            if (length < HeadBytes || length > bytes.Length) yield break;
            yield return new KeyEntry(
                BinaryPrimitives.ReadUInt16LittleEndian(bytes.Span[2..]),
                BinaryPrimitives.ReadUInt16LittleEndian(bytes.Span[4..]),
                bytes[HeadBytes..length]);
            bytes = bytes[length..];
        }
    }
}
