using Keel.Core.Volumes;

namespace Keel.Core.BootCode;

/// <summary>Tells whose boot code stands in a sector, by its bytes and the words in it.</summary>
public static class CodeRecognizer
{
    private const int SectorBytes = 512, MarkAt = 0x1FE;

    /// <summary>Words that other loaders carry in their first sector, and what they are called.</summary>
    private static readonly (string Words, string Name)[] ForeignMarks =
    [
        ("GRUB", "GRUB"),
        ("SYSLINUX", "SYSLINUX"),
        ("EXTLINUX", "SYSLINUX"),
        ("ISOLINUX", "SYSLINUX"),
        ("LILO", "LILO"),
        ("BTX", "a BSD loader"),
        ("boot0", "a BSD loader")
    ];

    private static readonly (string Words, string Name)[] BlankNotices =
    [
        ("not a bootable disk", "a notice that the disk is not bootable"),
        ("No boot manager or OS", "a notice that the disk is not bootable"),
        ("insert a bootable floppy", "a notice that the disk is not bootable")
    ];

    /// <summary>Reads the code of a master boot record.</summary>
    /// <param name="code">Its first 440 bytes.</param>
    public static CodeReading OfMbr(ReadOnlySpan<byte> code)
    {
        if (code.IndexOfAnyExcept((byte)0) < 0) return new CodeReading(CodeOwner.Blank, "none");
        if (code.SequenceEqual(KeelBootCode.Mbr())) return new CodeReading(CodeOwner.Keel, "keel's");
        if (IsNearly(code, KeelBootCode.Mbr())) return new CodeReading(CodeOwner.Blank, "keel's, altered");
        if (Mark(code, ForeignMarks) is { } foreign) return new CodeReading(CodeOwner.Foreign, foreign);
        if (IsSyslinuxMbr(code)) return new CodeReading(CodeOwner.Foreign, "SYSLINUX");
        if (code.IndexOf("Invalid partition table"u8) >= 0 && code.IndexOf("Missing operating system"u8) >= 0)
            return new CodeReading(CodeOwner.Windows, "Windows'");
        return new CodeReading(CodeOwner.Unknown, "unknown");
    }

    /// <summary>Reads the code of a volume's boot sector, with what stands behind it.</summary>
    /// <param name="sectors">Sector 0 and, as far as they were read, those after it.</param>
    /// <param name="codeAt">Where the parameters end: 54 for NTFS, 5A for FAT32, 3E for FAT12 and FAT16.</param>
    public static CodeReading OfBootSector(ReadOnlySpan<byte> sectors, int codeAt)
    {
        var code = sectors[codeAt..MarkAt];
        if (code.IndexOfAnyExcept((byte)0) < 0) return new CodeReading(CodeOwner.Blank, "none");
        if (Keel(sectors, codeAt) is { } loader) return new CodeReading(CodeOwner.Keel, "keel's", loader);
        if (IsKeelFirst(sectors, codeAt)) return new CodeReading(CodeOwner.Blank, "keel's, its second stage damaged");
        if (IsNearlyKeels(sectors, codeAt)) return new CodeReading(CodeOwner.Blank, "keel's, altered");
        if (Mark(sectors[codeAt..], BlankNotices) is { } notice) return new CodeReading(CodeOwner.Blank, notice);
        if (sectors.Slice(3, 8).SequenceEqual("SYSLINUX"u8)) return new CodeReading(CodeOwner.Foreign, "SYSLINUX");
        if (Mark(code, ForeignMarks) is { } foreign) return new CodeReading(CodeOwner.Foreign, foreign);
        if (Looks(sectors, "BOOTMGR")) return new CodeReading(CodeOwner.Windows, "Windows'", LoaderKind.BootManager);
        if (Looks(sectors, "NTLDR")) return new CodeReading(CodeOwner.Windows, "Windows'", LoaderKind.Nt5Loader);
        return new CodeReading(CodeOwner.Unknown, "unknown");
    }

    private static readonly FileSystemKind[] Kinds =
        [FileSystemKind.Ntfs, FileSystemKind.Fat32, FileSystemKind.Fat16, FileSystemKind.Fat12];

    private static LoaderKind? Keel(ReadOnlySpan<byte> sectors, int codeAt)
    {
        foreach (var loader in (ReadOnlySpan<LoaderKind>)[LoaderKind.BootManager, LoaderKind.Nt5Loader])
        {
            foreach (var kind in Kinds)
            {
                if (Holds(sectors, codeAt, KeelBootCode.For(kind, loader))) return loader;
            }
        }

        return null;
    }

    /// <summary>Whether both stages are there; the mark between them is judged elsewhere.</summary>
    private static bool Holds(ReadOnlySpan<byte> sectors, int codeAt, ReadOnlySpan<byte> code) =>
        !code.IsEmpty
            && sectors.Length >= code.Length
            && sectors[codeAt..MarkAt].SequenceEqual(code[codeAt..MarkAt])
            && sectors[SectorBytes..code.Length].SequenceEqual(code[SectorBytes..]);

    /// <summary>The first sector is keel's; what it would load behind it is not.</summary>
    private static bool IsKeelFirst(ReadOnlySpan<byte> sectors, int codeAt)
    {
        return sectors[codeAt..MarkAt].SequenceEqual(KeelBootCode.Ntfs(LoaderKind.BootManager).AsSpan()[codeAt..MarkAt])
            || sectors[codeAt..MarkAt].SequenceEqual(KeelBootCode.Fat32(LoaderKind.BootManager).AsSpan()[codeAt..MarkAt]);
    }

    private static bool IsNearlyKeels(ReadOnlySpan<byte> sectors, int codeAt)
    {
        foreach (var loader in (ReadOnlySpan<LoaderKind>)[LoaderKind.BootManager, LoaderKind.Nt5Loader])
        {
            foreach (var kind in Kinds)
            {
                var code = KeelBootCode.For(kind, loader).AsSpan();
                if (codeAt == BootSectorCopy.CodeAt(kind) && IsNearly(sectors[codeAt..MarkAt], code[codeAt..MarkAt])) return true;
            }
        }

        return false;
    }

    /// <summary>Whether a few bytes only are not as they should be: it was that code, and is damaged.</summary>
    private static bool IsNearly(ReadOnlySpan<byte> code, ReadOnlySpan<byte> known)
    {
        const int fewBytes = 64;
        if (code.Length != known.Length) return false;
        var different = 0;
        for (var at = 0; at < code.Length && different <= fewBytes; at++)
        {
            if (code[at] != known[at]) different++;
        }

        return different <= fewBytes;
    }

    private static bool Looks(ReadOnlySpan<byte> sectors, string name)
    {
        Span<byte> wide = stackalloc byte[name.Length * 2];
        System.Text.Encoding.Unicode.GetBytes(name, wide);
        Span<byte> narrow = stackalloc byte[name.Length];
        System.Text.Encoding.ASCII.GetBytes(name, narrow);
        return sectors.IndexOf(wide) >= 0 || sectors.IndexOf(narrow) >= 0;
    }

    /// <summary>Its first sector has no name in it, but its versions share these words.</summary>
    private static bool IsSyslinuxMbr(ReadOnlySpan<byte> code) =>
        code.IndexOf("Operating system load error"u8) >= 0
            || (code.IndexOf("Multiple active partitions"u8) >= 0 && code.IndexOf("Disk error"u8) >= 0);

    private static string? Mark(ReadOnlySpan<byte> code, (string Words, string Name)[] marks)
    {
        foreach (var (words, name) in marks)
        {
            if (code.IndexOf(System.Text.Encoding.ASCII.GetBytes(words)) >= 0) return name;
        }

        return null;
    }
}
