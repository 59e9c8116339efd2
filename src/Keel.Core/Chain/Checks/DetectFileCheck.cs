using Keel.Core.Blocks;
using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Chain.Checks;

/// <summary>The program by which the NT 5 loader looks what hardware there is.</summary>
internal sealed class DetectFileCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "detect-missing",
        Link.DetectFile,
        Severity.Error,
        "The program is missing by which the NT 5 loader looks at the hardware.",
        StartupScreens.DetectFailed);

    public static readonly FindingKind Damaged = new(
        "detect-damaged",
        Link.DetectFile,
        Severity.Error,
        "The program by which the NT 5 loader looks at the hardware is empty, or is another one.",
        StartupScreens.DetectFailed);

    /// <summary>Where it lies on the system volume.</summary>
    public const string Path = @"\NTDETECT.COM";

    public Link Link => Link.DetectFile;

    public IReadOnlyList<FindingKind> Kinds => [Missing, Damaged];

    public LinkReport Check(Machine machine)
    {
        if (machine.SystemVolume is not { Files: { } files } volume) return LinkReport.Unreached("system-volume.not-known");
        KnownFact[] where = [Fact.Path.Is(Path), Fact.Volume.Is(volume.Ref)];
        return files.Find(Path) switch
        {
            null => LinkReport.Wrong(Missing, Remark.Of("file.missing", where)),
            { IsFolder: true } => LinkReport.Wrong(Missing, Remark.Of("file.folder", where)),
            { SizeBytes: 0 } => LinkReport.Wrong(Damaged, Remark.Of("file.empty", where)),
            _ when !IsProgram(files.OpenFile(Path)) => LinkReport.Wrong(Damaged, Remark.Of("detect-file.other", where)),
            var file => LinkReport.Sound("detect-file.sound", [.. where, Fact.SizeBytes.Is(file.SizeBytes)])
        };
    }

    /// <summary>Whether it can be one: plain 16-bit code has no header, and neither zeros nor a text are code.</summary>
    internal static bool IsProgram(IReadableBlocks file)
    {
        const int headBytes = 512, mostBytes = 64 * 1024;
        if (file.LengthBytes is 0 or > mostBytes) return false;
        var head = file.ReadBytes(0, (int)Math.Min(headBytes, file.LengthBytes));
        return !head.AsSpan().StartsWith("MZ"u8)
            && head.AsSpan().ContainsAnyExcept((byte)0)
            && head.AsSpan().ContainsAnyInRange((byte)0x80, (byte)0xFF);
    }
}
