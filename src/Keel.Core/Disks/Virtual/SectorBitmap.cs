namespace Keel.Core.Disks.Virtual;

/// <summary>Bits of the sectors of a block, in the two orders that virtual disks have them in.</summary>
internal static class SectorBitmap
{
    /// <summary>How many sectors from one on, at most so many, have the bit that it has.</summary>
    /// <param name="first">The first sector, counted in its block.</param>
    /// <param name="most">How many are asked for.</param>
    /// <param name="isSet">The bit of a sector.</param>
    public static int RunLength(int first, int most, Func<int, bool> isSet)
    {
        var state = isSet(first);
        var count = 1;
        while (count < most && isSet(first + count) == state) count++;
        return count;
    }

    /// <summary>The mask of a sector's bit in its byte, the first sector's being the highest, as in a VHD.</summary>
    public static byte HighestFirst(int sector) => (byte)(0x80 >> (sector & 7));

    /// <summary>The same with the first sector's the lowest, as in a VHDX.</summary>
    public static byte LowestFirst(int sector) => (byte)(1 << (sector & 7));
}
