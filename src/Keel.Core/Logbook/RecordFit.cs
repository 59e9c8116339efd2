using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Core.Logbook;

/// <summary>One disk of a record beside a disk that is here.</summary>
/// <param name="Record">The record that fits.</param>
/// <param name="Part">The index of the disk in the record.</param>
/// <param name="Disk">The disk that is here.</param>
public sealed record RecordFit(RepairRecord Record, int Part, DiskSeen Disk)
{
    private const int CompareBytes = 512;

    /// <summary>The disk of the record.</summary>
    public RecordedDisk Recorded => Record.Document.Disks[Part];

    /// <summary>How far this disk came; where only the firmware's variables were written, how far they came.</summary>
    public RecordState State =>
        Recorded.Ranges.Count == 0 && Record.VariablesPart is { } variables ? Record.Parts[variables] : Record.Parts[Part];

    /// <summary>How sure it is that this is the recorded disk, apart from its bytes.</summary>
    public DiskMatch DiskMatch { get; } = Record.Document.Disks[Part].SamenessTo(Disk);

    /// <summary>It has the path that it had.</summary>
    public bool HasPath => Recorded.Path == Disk.Path || DiskPath.IsSame(Recorded.Path, Disk.Path);

    /// <summary>It has a signature or GUID that it had.</summary>
    public bool HasIdentity => Recorded.HasIdentityOf(Disk);

    /// <summary>Without a doubt the recorded disk: the same device or file, with its own signature or GUID.</summary>
    public bool IsSure => DiskMatch == DiskMatch.Sure && HasIdentity;

    /// <summary>
    /// Something speaks against its being the recorded disk, so the technician is asked. What was cut off on it is completed or
    /// taken back in any case.
    /// </summary>
    public bool IsQuestionable =>
        !RepairRecord.IsBetween(State) && !IsSure && !(DiskMatch == DiskMatch.Possible && HasPath && HasIdentity && !IsOtherFile);

    /// <summary>It is an image in another file than then: a copy, or another disk.</summary>
    public bool IsOtherFile => Recorded.Traits?.File is { } then && Disk.Traits.File is { } now && then != now;

    /// <summary>The recorded image is where it was, so this disk is another one.</summary>
    public bool IsElsewhere => IsOtherFile && Recorded.Path != Disk.Path
        && LinuxNative.StatOf(Recorded.Path) is { } status && DiskTraits.OfFile(status).File == Recorded.Traits!.File;

    /// <summary>
    /// The places, in bytes, that hold neither what the repair wrote nor, while it is between two states, what was there before.
    /// </summary>
    public IEnumerable<long> Foreign()
    {
        var buffer = new ReusedBuffer();
        return Record.Ranges(part => part == Part).SelectMany(range => Foreign(range, buffer.Take(range.Range.Length).Span));
    }

    /// <summary>
    /// Whether it is about this very disk, and not one that shares signature, GUIDs or serial numbers with it, as machines from
    /// one master do: what it wrote stands here, or it is the same file, or it was taken back on the device that is where it
    /// was.
    /// </summary>
    /// <param name="younger">What was done to this disk after it: where that wrote, it must have found what this one
    /// left.</param>
    public bool IsOfThisDisk(IReadOnlyList<RecordFit> younger)
    {
        if (DiskMatch == DiskMatch.Other || IsElsewhere) return false;
        if (IsSameFile) return true;
        if (State == RecordState.Undone) return IsSure && HasPath && IsAsBefore();
        if (Recorded.Ranges.Count == 0) return IsSure || (HasPath && HasIdentity && !IsOtherFile);
        return younger.All(CameBefore) && (BeginsToStand() || younger.Any(WasFoundBy)) && StandsBeside(younger);
    }

    /// <summary>
    /// Twins that were mended in the same way hold the same bytes; on one disk the second would have found the first.
    /// </summary>
    private bool CameBefore(RecordFit younger) => SamePlaces(younger).All(pair => pair.Later.Before == pair.Earlier.After);

    private bool WasFoundBy(RecordFit younger) =>
        SamePlaces(younger).Any(pair => pair.Later.Before == pair.Earlier.After && pair.Earlier.Before != pair.Earlier.After);

    private IEnumerable<(RecordedRange Earlier, RecordedRange Later)> SamePlaces(RecordFit younger) =>
        from range in Recorded.Ranges
        join later in younger.Recorded.Ranges on range.Range equals later.Range
        select (range, later);

    /// <summary>Whether all that it wrote stands, but for what was written over it since by those that are known.</summary>
    private bool StandsBeside(IReadOnlyList<RecordFit> younger)
    {
        var over = younger.SelectMany(fit => fit.Recorded.Ranges).Select(range => range.Range).ToList();
        try
        {
            return Foreign().All(at => over.Exists(range => range.Overlaps(new ByteRange(at, 1))));
        }
        catch (KeelException)
        {
            return false;
        }
    }

    /// <summary>It is the image file that it was then.</summary>
    internal bool IsSameFile => Recorded.Traits?.File is { } then && Disk.Traits.File == then && HasIdentity;

    /// <summary>Whether something stands on the disk that the repair brought there.</summary>
    public bool BeginsToStand() => AnyRange((range, now) =>
        range.Range.ChecksumAfter != range.Range.ChecksumBefore && HasBytesOf(range, now));

    private bool IsAsBefore() => !AnyRange((range, now) => Checksum.Of(now) != range.Range.ChecksumBefore, unread: true);

    /// <summary>Whether a part of a range holds what the repair wrote there, and did not hold it before.</summary>
    private static bool HasBytesOf(RecordRange range, ReadOnlySpan<byte> now)
    {
        for (var at = 0; at < now.Length; at += CompareBytes)
        {
            var count = Math.Min(CompareBytes, now.Length - at);
            var after = range.After.Span.Slice(at, count);
            var before = range.Before.Span.Slice(at, count);
            if (now.Slice(at, count).SequenceEqual(after) && !after.SequenceEqual(before)) return true;
        }

        return false;
    }

    /// <param name="test">What is asked of each range, and of what stands there.</param>
    /// <param name="unread">The answer where the disk, or the record, does not give it.</param>
    private bool AnyRange(RangeTest test, bool unread = false)
    {
        try
        {
            var buffer = new ReusedBuffer();
            foreach (var range in Record.Ranges(part => part == Part))
            {
                var now = buffer.Take(range.Range.Length).Span;
                Disk.Blocks.Read(range.Range.Start, now);
                if (test(range, now)) return true;
            }

            return false;
        }
        catch (KeelException)
        {
            return unread;
        }
    }

    private delegate bool RangeTest(RecordRange range, ReadOnlySpan<byte> now);

    /// <summary>Whether both wrote to the same place.</summary>
    public bool Overlaps(RecordFit other) =>
        Recorded.Ranges.Any(range => other.Recorded.Ranges.Any(there => there.Range.Overlaps(range.Range)));

    /// <summary>Whether everything that the repair wrote stands on the disk.</summary>
    public bool Stands() => !Foreign().Any();

    /// <summary>The same; where the saved bytes or the disk can't be read, it is not known to stand.</summary>
    public bool IsKnownToStand()
    {
        try
        {
            return Stands();
        }
        catch (KeelException)
        {
            return false;
        }
    }

    private List<long> Foreign(RecordRange saved, Span<byte> now)
    {
        Disk.Blocks.Read(saved.Range.Start, now);
        var foreign = new List<long>();
        if (Checksum.Of(now) == saved.Range.ChecksumAfter) return foreign;
        var isBetween = RepairRecord.IsBetween(State);
        for (var at = 0; at < now.Length; at += CompareBytes)
        {
            var count = Math.Min(CompareBytes, now.Length - at);
            var sector = now.Slice(at, count);
            var isKnown = sector.SequenceEqual(saved.After.Span.Slice(at, count))
                || (isBetween && sector.SequenceEqual(saved.Before.Span.Slice(at, count)));
            if (!isKnown) foreign.Add(saved.Range.Start + at);
        }

        return foreign;
    }
}
