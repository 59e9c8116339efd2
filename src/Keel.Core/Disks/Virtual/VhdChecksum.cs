namespace Keel.Core.Disks.Virtual;

/// <summary>The checksum of VHD's footers and headers: all bytes but its own added up, as ones' complement.</summary>
internal static class VhdChecksum
{
    /// <param name="record">The bytes of the record.</param>
    /// <param name="checksumAt">Where in it the checksum stands.</param>
    public static uint Of(ReadOnlySpan<byte> record, int checksumAt)
    {
        uint sum = 0;
        for (var at = 0; at < record.Length; at++)
        {
            if (at < checksumAt || at >= checksumAt + sizeof(uint)) sum += record[at];
        }

        return ~sum;
    }
}
