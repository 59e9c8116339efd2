using System.Buffers.Binary;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain;

/// <summary>
/// Judges the BIOS boot manager by its content: it begins with 16-bit code, and neither zeros nor a text are that. Where an
/// installation has a copy of the same size, the bytes are compared.
/// </summary>
internal static class BiosManagerContent
{
    private const int LimitBytes = 16 * 1024 * 1024, HeadBytes = 512, BlockBytes = 4096;

    /// <summary>What is wrong with it; null where nothing plainly is.</summary>
    public static (bool IsAltered, Remark Seen)? Judge(Machine machine, IVolume files, string path, long sizeBytes)
    {
        if (sizeBytes > LimitBytes) return null;
        var bytes = files.ReadFile(path, LimitBytes);
        if (!bytes.AsSpan().ContainsAnyExcept((byte)0)) return (false, Remark.Of("manager.zeros"));
        if (IsText(bytes.AsSpan(0, Math.Min(HeadBytes, bytes.Length)))) return (false, Remark.Of("manager.text"));
        foreach (var (copy, whole) in CopiesOf(machine, path, size => size == sizeBytes))
        {
            if (bytes.AsSpan().SequenceEqual(whole)) return null;
            if (IsAlteredFrom(bytes, whole)) return (true, Remark.Of("manager.altered", Fact.OtherPath.Is(copy.Source)));
        }

        return null;
    }

    /// <summary>
    /// The copies of it that the installations keep, of a fitting size, with their bytes. A copy that a damaged volume does not
    /// give says nothing of the manager.
    /// </summary>
    public static IEnumerable<(BootFileCopy Copy, byte[] Bytes)> CopiesOf(Machine machine, string path, Func<long, bool> fits)
    {
        foreach (var source in machine.Installations.Select(BootFileSource.Of))
        {
            if (TryCopy(machine, source, path, fits) is { } copy) yield return copy;
        }
    }

    private static (BootFileCopy Copy, byte[] Bytes)? TryCopy(
        Machine machine,
        BootFileSource source,
        string path,
        Func<long, bool> fits)
    {
        try
        {
            var copy = source.FilesFor(BootFiles.Bios, machine.Processor).FirstOrDefault(copy => copy.Target == path);
            return copy is not null && fits(copy.SizeBytes) ? (copy, source.Read(copy)) : null;
        }
        catch (KeelException e) when (e is not ReadFailedException)
        {
            return null;
        }
    }

    /// <summary>
    /// Most of it is like the copy, so it is of the same version; and what differs is not where the copy itself has lost
    /// something.
    /// </summary>
    private static bool IsAlteredFrom(ReadOnlySpan<byte> bytes, ReadOnlySpan<byte> copy)
    {
        var (blocks, different, lostInCopy) = (0, 0, 0);
        for (var at = 0; at < bytes.Length; at += BlockBytes)
        {
            var length = Math.Min(BlockBytes, bytes.Length - at);
            blocks++;
            if (bytes.Slice(at, length).SequenceEqual(copy.Slice(at, length))) continue;
            different++;
            if (!copy.Slice(at, length).ContainsAnyExcept((byte)0)) lostInCopy++;
        }

        return different <= blocks / 2 && lostInCopy == 0;
    }

    /// <summary>Whether all of it are letters, as in a page or a note that stands in its place.</summary>
    private static bool IsText(ReadOnlySpan<byte> head)
    {
        const ushort wideMark = 0xFEFF;
        if (head.Length > 1 && BinaryPrimitives.ReadUInt16LittleEndian(head) == wideMark) return true;
        foreach (var one in head)
        {
            if (one is not ((byte)'\t' or (byte)'\r' or (byte)'\n' or >= 0x20)) return false;
        }

        return true;
    }
}
