using Keel.Core.Errors;

namespace Keel.Core.Blocks;

/// <summary>Passes reads on, and remembers where the disk failed.</summary>
public sealed class WatchedBlocks(IReadableBlocks source) : IReadableBlocks
{
    /// <inheritdoc/>
    public long LengthBytes => source.LengthBytes;

    /// <inheritdoc/>
    public int SectorBytes => source.SectorBytes;

    /// <summary>
    /// What may be read for one walk, many times what a sound machine needs, and still an end where structures lead in circles.
    /// </summary>
    private const long BudgetBytes = 16L * 1024 * 1024 * 1024, BudgetReads = 4_000_000;
    private long bytesLeft = BudgetBytes, readsLeft = BudgetReads;

    /// <summary>What could not be read so far.</summary>
    public ReadErrors Errors { get; } = new();

    /// <summary>Begins the budget of another walk.</summary>
    public void BeginBudget() => (bytesLeft, readsLeft) = (BudgetBytes, BudgetReads);

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        bytesLeft -= buffer.Length;
        if (bytesLeft < 0 || --readsLeft < 0)
        {
            throw new UnreadableException(
                "Far more had to be read than any sound disk needs.",
                "Its structures lead in circles, or claim impossible sizes.",
                "Look at the disk with other programs, on an image of it.");
        }

        try
        {
            source.Read(offsetBytes, buffer);
        }
        catch (ReadFailedException e)
        {
            Errors.Add(e.Sectors);
            throw;
        }
    }
}
