using System.Buffers.Binary;
using Keel.Core.Volumes.Packing;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>What a file or folder with a reparse point stands for ([MS-FSCC] 2.1.2).</summary>
/// <param name="Tag">Who knows what it means.</param>
/// <param name="Packing">How Windows' overlay packed the file; null where it didn't, or put it into an image.</param>
internal sealed record NtfsReparsePoint(uint Tag, PackingMethod? Packing)
{
    /// <summary>The stream that holds what is packed.</summary>
    public const string PackedStream = "WofCompressedData";

    private const uint OverlayTag = 0x80000017, MountPointTag = 0xA0000003, LinkTag = 0xA000000C, DeduplicatedTag = 0x80000013;
    private const uint CloudTag = 0x9000001A, CloudMask = 0xFFFF0FFF;

    /// <summary>Its version and provider, then those of the file provider with method and flags.</summary>
    private const int DataAt = 8, ProviderAt = 4, MethodAt = 12, OverlayBytes = 16;

    private const uint ImageProvider = 1, FileProvider = 2;

    /// <summary>Whether an image of files holds the contents, as on machines that start out of one.</summary>
    private bool IsInImage { get; init; }

    /// <summary>What it stands for, in words.</summary>
    public string Names => Tag switch
    {
        OverlayTag when IsInImage => "a file in an image (WIM) that Windows was installed into",
        OverlayTag => "contents packed in a way not known",
        MountPointTag => "another folder (a junction)",
        LinkTag => "another file (a symbolic link)",
        DeduplicatedTag => "contents that a server's deduplication keeps in pieces",
        _ when (Tag & CloudMask) == CloudTag => "contents that are kept in a cloud",
        _ => $"contents that only the owner of the tag 0x{Tag:X8} knows"
    };

    /// <summary>The attribute of a file that was packed by a method.</summary>
    public static byte[] OfPacked(uint method)
    {
        const int versionAt = 0, fileVersionAt = 8, flagsAt = 16, dataBytes = 20, lengthAt = 4;
        const uint version = 1;
        var bytes = new byte[DataAt + dataBytes];
        BinaryPrimitives.WriteUInt32LittleEndian(bytes, OverlayTag);
        BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(lengthAt), dataBytes);
        var data = bytes.AsSpan(DataAt);
        BinaryPrimitives.WriteUInt32LittleEndian(data[versionAt..], version);
        BinaryPrimitives.WriteUInt32LittleEndian(data[ProviderAt..], FileProvider);
        BinaryPrimitives.WriteUInt32LittleEndian(data[fileVersionAt..], version);
        BinaryPrimitives.WriteUInt32LittleEndian(data[MethodAt..], method);
        BinaryPrimitives.WriteUInt32LittleEndian(data[flagsAt..], 0);
        return bytes;
    }

    /// <summary>Reads the attribute $REPARSE_POINT; null where it is too short for one.</summary>
    public static NtfsReparsePoint? TryRead(ReadOnlySpan<byte> attribute)
    {
        if (attribute.Length < DataAt) return null;
        var tag = BinaryPrimitives.ReadUInt32LittleEndian(attribute);
        var data = attribute[DataAt..];
        if (tag != OverlayTag || data.Length < OverlayBytes) return new NtfsReparsePoint(tag, Packing: null);
        var provider = BinaryPrimitives.ReadUInt32LittleEndian(data[ProviderAt..]);
        return new NtfsReparsePoint(
            tag,
            provider == FileProvider ? PackingMethod.ByNumber(BinaryPrimitives.ReadUInt32LittleEndian(data[MethodAt..])) : null)
        { IsInImage = provider == ImageProvider };
    }
}
