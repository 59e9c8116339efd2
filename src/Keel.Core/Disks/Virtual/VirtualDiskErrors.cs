using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Disks.Virtual;

/// <summary>The errors of virtual disk files.</summary>
internal static class VirtualDiskErrors
{
    /// <summary>The file is damaged so that the bytes of its disk can't be placed.</summary>
    /// <param name="form">The name of its format.</param>
    /// <param name="why">What is wrong, as the rest of a sentence.</param>
    public static UnreadableException Damaged(string form, string why) => new(
        $"The {form} file is damaged.",
        $"As far as keel can tell, {why}.",
        "Compare its size with the original's, or take an older copy. Where it is a plain image after all: --kind raw");

    /// <summary>Other files hold only what differs from the disk, and a write to it would spoil them.</summary>
    public static RefusedException HasChildren(string path, string child) => new(
        $"{path} is what {child} differs from, and nothing was written.",
        "A write to it would break the other one, which is the younger state of the same disk.",
        "Name the youngest file of the chain. If the other one is not wanted any more, move it to another folder first.");

    /// <summary>A running machine was saved with its memory, which knows the disk as it is now.</summary>
    public static RefusedException Saved() => new(
        "The virtual disk belongs to a machine that is saved with its memory, and nothing was written.",
        "When that machine goes on, it would overwrite the repair, or be confused by it.",
        "Start the machine and shut it down, or discard its saved state; then run the same command again.");

    /// <summary>The form is made to be copied from one place to another, and can only be read.</summary>
    public static RefusedException Packed(string path) => new(
        $"{path} can't be written, and nothing was.",
        "Its blocks are packed: a disk of this form can only be read.",
        "Convert it to another form with the program that made it, and name that.");

    /// <summary>Refuses a table that names more blocks than the file can hold, before they are all looked at.</summary>
    /// <exception cref="UnreadableException">It does.</exception>
    public static void CheckCount(string form, List<long> places, long blockBytes, long fileBytes)
    {
        if (places.Count > fileBytes / blockBytes) throw Damaged(form, "its table names more blocks than the file can hold");
    }

    /// <summary>Refuses to write where blocks lie over each other, over the tables, or behind the end.</summary>
    /// <param name="form">The name of its format.</param>
    /// <param name="places">Where blocks begin in the file, in bytes; is sorted.</param>
    /// <param name="blockBytes">How long each is.</param>
    /// <param name="tables">What else lies in the file.</param>
    /// <param name="end">Where the last must end.</param>
    /// <exception cref="UnreadableException">Blocks overlap.</exception>
    public static void CheckPlaces(
        string form,
        List<long> places,
        long blockBytes,
        IReadOnlyList<ByteRange> tables,
        long end)
    {
        places.Sort();
        var free = 0L;
        foreach (var place in places)
        {
            if (place < free || tables.Any(table => table.Overlaps(new ByteRange(place, blockBytes))))
                throw Damaged(form, $"two of its parts lie in one place, at byte {place}");
            free = place + blockBytes;
        }

        if (free > end) throw Damaged(form, "its last block lies behind its end: it is cut short");
    }
}
