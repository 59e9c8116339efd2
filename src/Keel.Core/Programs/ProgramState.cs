using System.Reflection.PortableExecutable;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Volumes;

namespace Keel.Core.Programs;

/// <summary>A start program as it was met on a volume.</summary>
/// <param name="Condition">What is wrong with it, if anything.</param>
/// <param name="Seen">What was seen.</param>
/// <param name="File">The file or folder there; null where there is none.</param>
/// <param name="Program">Its headers; null where it has none.</param>
/// <param name="Content">What its whole content says; null where that was not asked for.</param>
public sealed record ProgramState(
    ProgramCondition Condition,
    Remark Seen,
    VolumeFile? File,
    ProgramFile? Program,
    ProgramContent? Content = null)
{
    private const int PieceBytes = 64 * 1024;

    /// <summary>The largest start programs have some 20 MiB; what says far more is not read to its end.</summary>
    internal const long LimitBytes = 512L * 1024 * 1024;

    /// <summary>Looks at a file that should be a program.</summary>
    /// <param name="volume">The volume.</param>
    /// <param name="files">The files of the volume.</param>
    /// <param name="path">Its path.</param>
    /// <param name="processor">What it should be for; null where that is not known.</param>
    /// <param name="whole">Read it to its end, and compare checksum and signature.</param>
    /// <exception cref="UnreadableException">The file can't be read.</exception>
    public static ProgramState Of(DiskVolume volume, IVolume files, string path, Machine? processor, bool whole = false)
    {
        var file = files.Find(path);
        KnownFact[] where = [Fact.Path.Is(path), Fact.Volume.Is(volume.Ref)];
        if (file is null) return new(ProgramCondition.Missing, Remark.Of("file.missing", where), null, null);
        if (file.IsFolder) return new(ProgramCondition.Folder, Remark.Of("file.folder", where), file, null);
        if (file.SizeBytes == 0) return new(ProgramCondition.Empty, Remark.Of("file.empty", where), file, null);
        if (file.IsElsewhere)
            return new(ProgramCondition.NotCheckable, Remark.Of("program.kept-elsewhere", where), file, null);
        KnownFact[] sized = [.. where, Fact.SizeBytes.Is(file.SizeBytes)];
        if (file.SizeBytes > LimitBytes)
            return new(ProgramCondition.NotProgram, Remark.Of("program.too-large", sized), file, null);
        try
        {
            return OfContents(files.OpenFile(path), file, where, processor, whole);
        }
        catch (UnreadableException damaged) when (damaged.IsContentDamaged)
        {
            return new(ProgramCondition.Altered, Remark.Of("program.packed-damaged", [.. where, .. damaged.Facts]), file, null);
        }
    }

    private static ProgramState OfContents(
        IReadableBlocks contents,
        VolumeFile file,
        KnownFact[] where,
        Machine? processor,
        bool whole)
    {
        KnownFact[] sized = [.. where, Fact.SizeBytes.Is(file.SizeBytes)];
        if (ProgramFile.TryRead(contents) is not { } program)
        {
            return IsZero(contents)
                ? new(ProgramCondition.ZeroFilled, Remark.Of("program.zeros", sized), file, null)
                : new(ProgramCondition.NotProgram, Remark.Of("program.no-header", sized), file, null);
        }

        if (program.NeededBytes > file.SizeBytes)
        {
            return new(
                ProgramCondition.CutShort,
                Remark.Of("program.cut-short", [.. sized, Fact.NeededBytes.Is(program.NeededBytes)]),
                file,
                program);
        }

        var own = Fact.Processor.Is(ProgramFile.NameOf(program.Machine));
        if (processor is { } expected && program.Machine != expected)
        {
            return new(
                ProgramCondition.OtherProcessor,
                Remark.Of("program.other-processor", [.. where, own, Fact.OtherProcessor.Is(ProgramFile.NameOf(expected))]),
                file,
                program);
        }

        var content = whole ? ProgramContent.Read(contents) : null;
        return content is { IsAltered: true }
            ? new(
                ProgramCondition.Altered,
                Remark.Of("program.altered", [.. where, Fact.Content.Is(content.Says)]),
                file,
                program,
                content)
            : new(ProgramCondition.Sound, Remark.Of("program.sound", [.. sized, own]), file, program, content);
    }

    private static bool IsZero(IReadableBlocks contents)
    {
        var piece = new byte[PieceBytes];
        for (long at = 0; at < contents.LengthBytes; at += PieceBytes)
        {
            var part = piece.AsSpan(0, (int)Math.Min(PieceBytes, contents.LengthBytes - at));
            contents.Read(at, part);
            if (part.IndexOfAnyExcept((byte)0) >= 0) return false;
        }

        return true;
    }
}
