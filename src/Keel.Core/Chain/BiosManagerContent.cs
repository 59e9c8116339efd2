using Keel.Core.Chain.Checks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain;

/// <summary>
/// Judges the BIOS boot manager by its content: it begins with 16-bit code, and neither zeros nor a text are that. Where an
/// installation has a copy of the same size, the bytes are compared, and the catalogs say which of the two is right.
/// </summary>
internal static class BiosManagerContent
{
    private const int LimitBytes = 16 * 1024 * 1024, HeadBytes = 512, BlockBytes = 4096, SectorBytes = 512;

    /// <summary>What is wrong with it, or what is to be said of it and its copy; null where there is nothing.</summary>
    public static (FindingKind Kind, Remark Seen)? Judge(Machine machine, IVolume files, string path, long sizeBytes)
    {
        if (sizeBytes > LimitBytes) return null;
        var bytes = files.ReadFile(path, LimitBytes);
        if (!bytes.AsSpan().ContainsAnyExcept((byte)0)) return (ManagerFileCheck.Damaged, Remark.Of("manager.zeros"));
        if (BootFileJudge.IsText(bytes.AsSpan(0, Math.Min(HeadBytes, bytes.Length))))
            return (ManagerFileCheck.Damaged, Remark.Of("manager.text"));
        (FindingKind, Remark)? doubt = null;
        foreach (var (copy, whole) in CopiesOf(machine, path, size => size == sizeBytes))
        {
            if (bytes.AsSpan().SequenceEqual(whole)) return null;
            if (IsLike(bytes, whole)) doubt ??= Compare(machine, bytes, copy, whole);
        }

        return doubt;
    }

    /// <summary>
    /// Which of the two is right: the one that a catalog lists; else the one that has not lost what the other has; else nobody
    /// knows, and then the one that stands stays.
    /// </summary>
    private static (FindingKind Kind, Remark Seen) Compare(Machine machine, byte[] bytes, BootFileCopy copy, byte[] whole)
    {
        var where = Fact.OtherPath.Is(copy.Source);
        var signers = machine.Proven.SignersOf(bytes, whole);
        if (signers[0] is { } own) return (ManagerFileCheck.CopyDiffers, Remark.Of("manager.proven", where, Fact.Signer.Is(own)));
        if (signers[1] is { } signer)
            return (ManagerFileCheck.Altered, Remark.Of("manager.altered-proven", where, Fact.Signer.Is(signer)));
        var (lost, lostInCopy) = (HasLost(bytes, whole), HasLost(whole, bytes));
        return lost && !lostInCopy
            ? (ManagerFileCheck.Altered, Remark.Of("manager.altered", where))
            : (ManagerFileCheck.CopyDiffers, Remark.Of(lostInCopy && !lost ? "manager.copy-lost" : "manager.not-proven", where));
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

    /// <summary>Whether most of it is like the copy, so that it is of the same version.</summary>
    private static bool IsLike(ReadOnlySpan<byte> bytes, ReadOnlySpan<byte> copy)
    {
        var (blocks, different) = (0, 0);
        for (var at = 0; at < bytes.Length; at += BlockBytes)
        {
            var length = Math.Min(BlockBytes, bytes.Length - at);
            blocks++;
            if (!bytes.Slice(at, length).SequenceEqual(copy.Slice(at, length))) different++;
        }

        return different <= blocks / 2;
    }

    /// <summary>Whether sectors are empty that the other has, and nothing else differs.</summary>
    private static bool HasLost(ReadOnlySpan<byte> bytes, ReadOnlySpan<byte> other)
    {
        for (var at = 0; at < bytes.Length; at += SectorBytes)
        {
            var length = Math.Min(SectorBytes, bytes.Length - at);
            var own = bytes.Slice(at, length);
            if (!own.SequenceEqual(other.Slice(at, length)) && own.ContainsAnyExcept((byte)0)) return false;
        }

        return true;
    }
}
