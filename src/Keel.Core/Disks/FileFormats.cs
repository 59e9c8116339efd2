using Keel.Core.Blocks;
using Keel.Core.Disks.Virtual;

namespace Keel.Core.Disks;

/// <summary>Tells images by the marks of their open specifications, whatever they are called.</summary>
public static class FileFormats
{
    private const int VdiMarkAt = 0x40;

    /// <summary>The format of a file; raw where nothing else is known.</summary>
    public static FileFormat Of(IReadableBlocks file)
    {
        if (ByHead(file) is { } format) return format;
        if (VhdxContents.IsIn(file)) return FileFormat.Vhdx;
        return VhdContents.IsIn(file) ? FileFormat.Vhd : FileFormat.Raw;
    }

    /// <summary>The format, where the first bytes alone tell it; null where they don't.</summary>
    internal static FileFormat? ByHead(IReadableBlocks file)
    {
        const int headBytes = 0x48;
        if (file.TryReadAnyway(0, headBytes) is not { } bytes) return null;
        ReadOnlySpan<byte> head = bytes;
        if (head.StartsWith((ReadOnlySpan<byte>)[0x51, 0x46, 0x49, 0xFB])) return FileFormat.Qcow2;
        if (head.StartsWith("KDMV"u8) || head.StartsWith("COWD"u8) || head.StartsWith("# Disk DescriptorFile"u8))
            return FileFormat.Vmdk;
        return head[VdiMarkAt..].StartsWith((ReadOnlySpan<byte>)[0x7F, 0x10, 0xDA, 0xBE]) ? FileFormat.Vdi : null;
    }

    /// <summary>What people call a format.</summary>
    public static string Name(FileFormat format) => format switch
    {
        FileFormat.Vhd => "VHD",
        FileFormat.Vhdx => "VHDX",
        FileFormat.Qcow2 => "qcow2",
        FileFormat.Vmdk => "VMDK",
        FileFormat.Vdi => "VDI",
        _ => "raw"
    };
}
