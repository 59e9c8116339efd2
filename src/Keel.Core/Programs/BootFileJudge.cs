using System.Buffers.Binary;
using System.Reflection.PortableExecutable;
using Keel.Core.Blocks;
using Keel.Core.Facts;

namespace Keel.Core.Programs;

/// <summary>
/// Judges what is about to be written as a boot file, wherever it comes from: a copy is no better than what is known of it.
/// </summary>
public static class BootFileJudge
{
    private const int HeadBytes = 512;
    private static readonly string[] Programs = [".efi", ".exe", ".dll", ".sys"];

    /// <summary>What is wrong with a copy; null where nothing plainly is.</summary>
    /// <param name="target">Its path on the system volume, by which its kind is known.</param>
    /// <param name="bytes">Its contents.</param>
    /// <param name="processor">What programs must be for; null where that is not known.</param>
    public static Remark? WhyNot(string target, byte[] bytes, Machine? processor)
    {
        KnownFact[] where = [Fact.Path.Is(target), Fact.SizeBytes.Is(bytes.Length)];
        if (bytes.Length == 0) return Remark.Of("copy.empty", where);
        if (!bytes.AsSpan().ContainsAnyExcept((byte)0)) return Remark.Of("copy.zeros", where);
        var name = Volumes.VolumeExtensions.NameOf(target).ToLowerInvariant();
        if (Array.Exists(Programs, ending => name.EndsWith(ending, StringComparison.Ordinal)))
            return WhyNoProgram(bytes, where, IsForBios(target) ? null : processor);
        if (name.EndsWith(".mui", StringComparison.Ordinal)) return WhyNoProgram(bytes, where, processor: null);
        return name == "bootmgr" && IsText(bytes.AsSpan(0, Math.Min(HeadBytes, bytes.Length)))
            ? Remark.Of("copy.text", where)
            : null;
    }

    /// <summary>Whether all of it are letters, as in a page or a note that stands in a program's place.</summary>
    public static bool IsText(ReadOnlySpan<byte> head)
    {
        const ushort wideMark = 0xFEFF;
        if (head.Length > 1 && BinaryPrimitives.ReadUInt16LittleEndian(head) == wideMark) return true;
        foreach (var one in head)
        {
            if (one is not ((byte)'\t' or (byte)'\r' or (byte)'\n' or >= 0x20)) return false;
        }

        return true;
    }

    /// <summary>Below \Boot lie programs of the BIOS boot manager, which are for 32 bits on every machine.</summary>
    private static bool IsForBios(string target) => target.StartsWith(@"\Boot\", StringComparison.OrdinalIgnoreCase);

    private static Remark? WhyNoProgram(byte[] bytes, KnownFact[] where, Machine? processor)
    {
        var blocks = new MemoryBlocks(bytes);
        if (ProgramFile.TryRead(blocks) is not { } program) return Remark.Of("copy.no-header", where);
        if (program.NeededBytes > bytes.Length)
            return Remark.Of("copy.cut-short", [.. where, Fact.NeededBytes.Is(program.NeededBytes)]);
        if (processor is { } expected && program.Machine != expected)
        {
            return Remark.Of(
                "copy.other-processor",
                [
                    .. where,
                    Fact.Processor.Is(ProgramFile.NameOf(program.Machine)),
                    Fact.OtherProcessor.Is(ProgramFile.NameOf(expected))
                ]);
        }

        return ProgramContent.Read(blocks) is { IsAltered: true } content
            ? Remark.Of("copy.altered", [.. where, Fact.Content.Is(content.Says)])
            : null;
    }
}
