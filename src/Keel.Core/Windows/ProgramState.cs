using System.Reflection.PortableExecutable;
using Keel.Core.Blocks;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>A start program as it was met on a volume.</summary>
/// <param name="Evidence">One line on what was seen.</param>
/// <param name="File">The file or folder there; null where there is none.</param>
/// <param name="Program">Its headers; null where it has none.</param>
/// <param name="Content">What its whole content says; null where that was not asked for.</param>
public sealed record ProgramState(ProgramCondition Condition, string Evidence, VolumeFile? File, ProgramFile? Program, ProgramContent? Content = null)
{
    private const int PieceBytes = 64 * 1024;

    /// <summary>The largest start programs have some 20 MiB; what says far more is not read to its end.</summary>
    internal const long LimitBytes = 512L * 1024 * 1024;

    /// <summary>Looks at a file that should be a program.</summary>
    /// <param name="processor">What it should be for; null where that is not known.</param>
    /// <param name="whole">Read it to its end, and compare checksum and signature.</param>
    /// <exception cref="Errors.UnreadableException">The file can't be read.</exception>
    public static ProgramState Of(DiskVolume volume, IVolume files, string path, Machine? processor, bool whole = false)
    {
        var file = files.Find(path);
        var where = $"{path} on {volume}";
        if (file is null) return new(ProgramCondition.Missing, $"{path} is not on {volume}", null, null);
        if (file.IsFolder) return new(ProgramCondition.Folder, $"{where} is a folder", file, null);
        if (file.SizeBytes == 0) return new(ProgramCondition.Empty, $"{where} has 0 bytes", file, null);
        if (file.SizeBytes > LimitBytes) return new(ProgramCondition.NotProgram, $"{where} says that it has {file.SizeBytes} bytes, far more than a program of Windows has", file, null);
        var contents = files.OpenFile(path);
        if (ProgramFile.TryRead(contents) is not { } program)
        {
            return IsZero(contents)
                ? new(ProgramCondition.ZeroFilled, $"{where} has {file.SizeBytes} bytes, and all of them are zero", file, null)
                : new(ProgramCondition.NotProgram, $"{where}, {file.SizeBytes} bytes, has no program header", file, null);
        }

        if (program.NeededBytes > file.SizeBytes) return new(ProgramCondition.CutShort, $"{where} has {file.SizeBytes} bytes and needs {program.NeededBytes}", file, program);
        if (processor is { } expected && program.Machine != expected) return new(ProgramCondition.OtherProcessor, $"{where} is a program for {ProgramFile.NameOf(program.Machine)}, and this Windows is for {ProgramFile.NameOf(expected)}", file, program);
        var content = whole ? ProgramContent.Read(contents) : null;
        return content is { IsAltered: true }
            ? new(ProgramCondition.Altered, $"{where}: {content.Words}", file, program, content)
            : new(ProgramCondition.Sound, $"{where}, {file.SizeBytes} bytes, for {ProgramFile.NameOf(program.Machine)}", file, program, content);
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
