using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Core.Sticks;

/// <summary>
/// Writes an image to a stick: its beginning last, so that a stick that was pulled out halfway starts nothing; then reads all of
/// it back.
/// </summary>
/// <remarks>What was there is gone, and not in the logbook: it can be many gigabytes.</remarks>
public sealed class StickWriting(DiskFile image, DiskFile stick)
{
    private const int PieceBytes = 4 * 1024 * 1024;

    /// <summary>Bytes at both ends that hold a partition table.</summary>
    private const int TableBytes = 1024 * 1024;

    /// <summary>Told what is being done, and how many bytes of how many are through.</summary>
    public Action<StickStage, long, long> Progress { get; init; } = (_, _, _) => { };

    /// <summary>Writes, reads back, and adds the partition for the logbook.</summary>
    /// <param name="withLog">Whether that partition is wanted.</param>
    /// <returns>Where the partition for the logbook lies; null where it was not wanted, or found no room.</returns>
    /// <exception cref="RefusedException">The stick is too small.</exception>
    /// <exception cref="UnreadableException">It does not hold what was written.</exception>
    public ByteRange? Run(bool withLog)
    {
        RefuseUnfit(image, stick);
        Clear(0);
        Clear(Math.Max(TableBytes, stick.LengthBytes - TableBytes));
        Copy(TableBytes, image.LengthBytes);
        stick.Flush();
        Copy(0, Math.Min(TableBytes, image.LengthBytes));
        stick.Flush();
        Compare();
        var log = withLog
            ? LogPartition.Add(stick, image.LengthBytes, (uint)Random.Shared.NextInt64(1, uint.MaxValue))
            : null;
        stick.Flush();
        return log;
    }

    /// <summary>Refuses a stick that is too small, or has other sectors than the image is made for.</summary>
    /// <exception cref="RefusedException">It is.</exception>
    public static void RefuseUnfit(DiskFile image, DiskFile stick)
    {
        if (stick.LengthBytes < image.LengthBytes)
        {
            throw new RefusedException(
                $"{stick.Path} was not written.",
                $"It has {stick.LengthBytes} bytes, and the image {image.LengthBytes}.",
                "Take a larger stick.");
        }

        const int usualSector = 512;
        if (stick.SectorBytes == usualSector) return;
        throw new RefusedException(
            $"{stick.Path} was not written.",
            $"It has sectors of {stick.SectorBytes} bytes, and the image is made for {usualSector}.",
            "Take another stick.");
    }

    private void Clear(long at)
    {
        var count = (int)Math.Min(TableBytes, stick.LengthBytes - at);
        if (count > 0) stick.Write(at, new byte[count]);
    }

    private void Copy(long from, long end)
    {
        var buffer = new byte[PieceBytes];
        for (var at = from; at < end;)
        {
            var piece = buffer.AsSpan(0, (int)Math.Min(PieceBytes, end - at));
            image.Read(at, piece);
            stick.Write(at, piece);
            at += piece.Length;
            Progress(StickStage.Writing, from == 0 ? image.LengthBytes : at, image.LengthBytes);
        }
    }

    private void Compare()
    {
        var (wanted, found) = (new byte[PieceBytes], new byte[PieceBytes]);
        for (long at = 0; at < image.LengthBytes;)
        {
            var count = (int)Math.Min(PieceBytes, image.LengthBytes - at);
            image.Read(at, wanted.AsSpan(0, count));
            stick.ReadBack(at, found.AsSpan(0, count));
            var same = wanted.AsSpan(0, count).CommonPrefixLength(found.AsSpan(0, count));
            if (same < count)
            {
                throw new UnreadableException(
                    $"{stick.Path} does not hold what was written.",
                    $"Byte {at + same} reads back as {found[same]:x2}, and {wanted[same]:x2} was written.",
                    "The stick is failing, or smaller than it says. Take another one.");
            }

            at += count;
            Progress(StickStage.Comparing, at, image.LengthBytes);
        }
    }
}
