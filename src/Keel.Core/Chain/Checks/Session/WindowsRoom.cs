using System.Numerics;
using System.Runtime.InteropServices;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Chain.Checks.Session;

/// <summary>Whether the Windows volume has any room left: without it nobody can sign in, and no hive is written.</summary>
internal static class WindowsRoom
{
    public static readonly FindingKind Full = new(
        "windows-volume-full",
        Link.Session,
        Severity.Warning,
        "The Windows volume is full.",
        StartupScreens.BlackAfterSignIn,
        StartupScreens.SignInEnds)
    {
        Beyond = @"Take files off it: 'keel files look' shows what is there, 'keel files take' copies, "
            + "'keel files drop --erase' frees room. Begin with what people can do without."
    };

    private const long LargeBytes = 1024L * 1024 * 1024;
    private const int PieceBytes = 64 * 1024, NeededOfLarge = 4 * 1024 * 1024, NeededOfSmall = 256 * 1024;

    public static IReadOnlyList<FindingKind> Kinds => [Full];

    public static IEnumerable<Finding> Of(StartedWindows windows)
    {
        var needed = windows.Volume.Partition.Range.Length >= LargeBytes ? NeededOfLarge : NeededOfSmall;
        if (HasRoom(windows, needed)) yield break;
        yield return Full.At(Fact.Volume.Is(windows.Volume.Ref), Fact.NeededBytes.Is(needed));
    }

    /// <summary>The map of clusters is read only as far as needed: the whole of a large volume would take its time.</summary>
    private static bool HasRoom(StartedWindows windows, int needed)
    {
        try
        {
            if (windows.Volume.Kind != FileSystemKind.Ntfs) return windows.Files.FreeBytes >= needed;
            if (NtfsBootSector.TryRead(windows.Volume.Blocks.ReadBytes(0, NtfsBootSector.Size)) is not { } sector) return true;
            var map = windows.Files.OpenFile(@"\$Bitmap");
            var wanted = (needed + sector.ClusterBytes - 1) / sector.ClusterBytes;
            var free = 0L;
            for (var at = 0L; at < map.LengthBytes && free < wanted; at += PieceBytes)
            {
                var piece = map.ReadBytes(at, (int)Math.Min(PieceBytes, map.LengthBytes - at));
                free += (8L * piece.Length) - Used(piece);
            }

            return free >= wanted;
        }
        catch (KeelException)
        {
            return true;        // what a damaged volume does not give is told by the links before
        }
    }

    private static long Used(ReadOnlySpan<byte> piece)
    {
        var used = 0L;
        var words = MemoryMarshal.Cast<byte, ulong>(piece);
        foreach (var word in words) used += BitOperations.PopCount(word);
        foreach (var one in piece[(words.Length * sizeof(ulong))..]) used += BitOperations.PopCount(one);
        return used;
    }
}
