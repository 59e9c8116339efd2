namespace Keel.Core.Volumes;

/// <summary>The mark 55 AA at the end of every boot sector and master boot record.</summary>
internal static class BootSectorMark
{
    /// <summary>Where it stands, in bytes.</summary>
    public const int At = 0x1FE;

    private static ReadOnlySpan<byte> Mark => [0x55, 0xAA];

    public static bool IsIn(ReadOnlySpan<byte> sector) => sector[At..].StartsWith(Mark);

    public static void Put(Span<byte> sector) => Mark.CopyTo(sector[At..]);
}
