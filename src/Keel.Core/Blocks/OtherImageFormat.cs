namespace Keel.Core.Blocks;

/// <summary>Recognises images that are not the plain bytes of a disk, by the marks of their open specifications.</summary>
internal static class OtherImageFormat
{
    private const int VdiMarkAt = 0x40, VhdFooterBytes = 512;
    private static ReadOnlySpan<byte> VhdMark => "conectix"u8;

    /// <summary>The name of the format; null for plain bytes.</summary>
    public static string? Of(IReadableBlocks file)
    {
        const int headBytes = 0x48;
        if (file.TryReadAnyway(0, headBytes) is not { } head) return null;
        if (head.AsSpan().StartsWith((ReadOnlySpan<byte>)[0x51, 0x46, 0x49, 0xFB])) return "qcow2";
        if (head.AsSpan().StartsWith("vhdxfile"u8)) return "VHDX";
        if (head.AsSpan().StartsWith("KDMV"u8)
            || head.AsSpan().StartsWith("COWD"u8)
            || head.AsSpan().StartsWith("# Disk DescriptorFile"u8))
        {
            return "VMDK";
        }

        if (head.AsSpan(VdiMarkAt).StartsWith((ReadOnlySpan<byte>)[0x7F, 0x10, 0xDA, 0xBE])) return "VDI";
        if (head.AsSpan().StartsWith(VhdMark)) return "VHD";
        return file.TryReadAnyway(file.LengthBytes - VhdFooterBytes, VhdMark.Length) is { } footer
            && footer.AsSpan().SequenceEqual(VhdMark)
            ? "VHD"
            : null;
    }
}
