using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.BootCode.Loading;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Chain.Checks;

/// <summary>The loader of an NT 5 machine, which boot code starts.</summary>
internal sealed class Nt5LoaderCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "ntldr-missing",
        Link.LoaderFile,
        Severity.Error,
        "The NT 5 loader is missing.",
        StartupScreens.Nt5Missing);

    public static readonly FindingKind Compressed = new(
        "ntldr-compressed",
        Link.LoaderFile,
        Severity.Error,
        "The NT 5 loader is compressed or encrypted, and boot code can't read it.",
        StartupScreens.Nt5Compressed);

    public static readonly FindingKind Damaged = new(
        "ntldr-damaged",
        Link.LoaderFile,
        Severity.Error,
        "The NT 5 loader is cut short, or is no loader.",
        StartupScreens.BlinkingCursor,
        StartupScreens.DiskRead);

    public static readonly FindingKind NotLoadable = new(
        "ntldr-not-loadable",
        Link.LoaderFile,
        Severity.Error,
        "The NT 5 loader is there, and boot code would not load it.",
        StartupScreens.Nt5Missing,
        StartupScreens.DiskRead);

    /// <summary>Where it lies on the system volume.</summary>
    public const string Path = @"\ntldr";

    public Link Link => Link.LoaderFile;

    public IReadOnlyList<FindingKind> Kinds => [Missing, Compressed, Damaged, NotLoadable];

    public LinkReport Check(Machine machine)
    {
        if (machine.SystemVolume is not { } volume) return LinkReport.Unreached("system-volume.not-known");
        if (volume.Unreadable is { } error) throw error;
        if (volume.Files is not { } files) return LinkReport.Unreached("volume.files-unreadable", Fact.Volume.Is(volume.Ref));
        KnownFact[] where = [Fact.Path.Is(Path), Fact.Volume.Is(volume.Ref)];
        return files.Find(Path) switch
        {
            null => LinkReport.Wrong(Missing, Remark.Of("file.missing", where)),
            { IsFolder: true } => LinkReport.Wrong(Missing, Remark.Of("file.folder", where)),
            { SizeBytes: 0 } => LinkReport.Wrong(Damaged, Remark.Of("file.empty", where)),
            { Marks: var marks } when (marks & (FileMarks.Compressed | FileMarks.Encrypted)) != FileMarks.None
                => LinkReport.Wrong(Compressed, where),
            _ when WhyDamaged(files.OpenFile(Path)) is { } why => LinkReport.Wrong(Damaged, Remark.Of(why, where)),
            _ when WhyNotLoaded(volume) is { } why => LinkReport.Wrong(NotLoadable, [.. where, Fact.Said.Is(why)]),
            var file => LinkReport.Sound("loader-file.nt5-sound", [.. where, Fact.SizeBytes.Is(file.SizeBytes)])
        };
    }

    /// <summary>
    /// Why a file is no loader, or not all of one; null where nothing plainly says so. It begins with a jump of 16-bit code, and
    /// behind that code lies a whole program.
    /// </summary>
    internal static string? WhyDamaged(IReadableBlocks file)
    {
        const byte shortJump = 0xEB, nearJump = 0xE9;
        const int leastBytes = 16 * 1024, mostRead = 2 * 1024 * 1024;
        var bytes = file.ReadBytes(0, (int)Math.Min(file.LengthBytes, mostRead));
        if (bytes.Length == 0 || bytes[0] is not (shortJump or nearJump)) return "ntldr.no-code";
        if (bytes.Length < leastBytes) return "ntldr.too-short";
        return EndOfProgram(bytes) is { } end && end > bytes.Length ? "ntldr.cut-short" : null;
    }

    /// <summary>Where the program that is packed behind the code ends, in bytes; null where none is found.</summary>
    private static long? EndOfProgram(ReadOnlySpan<byte> file)
    {
        for (var at = 0; file[at..].IndexOf("MZ"u8) is var found and >= 0; at += found + 2)
        {
            if (EndOfProgramAt(file, at + found) is { } end) return end;
        }

        return null;
    }

    private static long? EndOfProgramAt(ReadOnlySpan<byte> file, int at)
    {
        const int headerAt = 0x3C, countAt = 6, optionalBytesAt = 20, sectionsAt = 24, sectionBytes = 40;
        const int rawSizeAt = 16, rawPlaceAt = 20, leastHeader = 0x40, mostHeader = 0x1000;
        if (file.Length - at < leastHeader) return null;
        var header = BinaryPrimitives.ReadInt32LittleEndian(file[(at + headerAt)..]);
        if (header is < leastHeader or > mostHeader || file.Length - at - header < sectionsAt) return null;
        var program = file[(at + header)..];
        if (!program.StartsWith("PE\0\0"u8)) return null;
        var sections = sectionsAt + BinaryPrimitives.ReadUInt16LittleEndian(program[optionalBytesAt..]);
        long end = 0;
        for (var index = 0; index < BinaryPrimitives.ReadUInt16LittleEndian(program[countAt..]); index++)
        {
            var place = sections + (index * sectionBytes);
            if (program.Length - place < sectionBytes) return null;
            var section = program[place..];
            end = Math.Max(
                end,
                (long)BinaryPrimitives.ReadUInt32LittleEndian(section[rawPlaceAt..])
                    + BinaryPrimitives.ReadUInt32LittleEndian(section[rawSizeAt..]));
        }

        return at + end;
    }

    private static string? WhyNotLoaded(DiskVolume volume)
    {
        if (volume.Blocks.SectorBytes != BootCodeLoading.SectorBytes
            || BootSectorCopy.Recognize(volume.Blocks, volume.Kind) is not
            { Owner: CodeOwner.Keel or CodeOwner.Windows, Loader: LoaderKind.Nt5Loader })
        {
            return null;
        }

        return BootCodeLoading.Try(volume.Blocks, volume.Kind, LoaderKind.Nt5Loader) is { Outcome: not LoadOutcome.Loaded } stop
            ? stop.Why
            : null;
    }
}
