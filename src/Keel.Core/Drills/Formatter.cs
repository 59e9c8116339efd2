using System.Diagnostics;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Core.Drills;

/// <summary>Puts a new file system on a part of an image, with mkntfs.</summary>
internal static class Formatter
{
    private const int CopyBytes = 64 * 1024;

    /// <summary>
    /// Formats a range of an image as NTFS. Works beside the image in a temporary file, since mkntfs takes whole files only.
    /// </summary>
    /// <param name="image">The path of the image.</param>
    /// <param name="range">The partition, in bytes of the image.</param>
    /// <param name="label">The volume's label.</param>
    /// <param name="clusterBytes">The size of a cluster, in bytes.</param>
    /// <param name="recordSectorBytes">The sector size that mkntfs is told; file records are at least as large.</param>
    public static void Ntfs(DiskFile image, ByteRange range, string label, int clusterBytes, int recordSectorBytes = 512)
    {
        FormatBeside(image, range, file =>
            Run(
                "mkntfs",
                "ntfs-3g",
                "-F",
                "-Q",
                "-q",
                "-s",
                $"{recordSectorBytes}",
                "-p",
                $"{range.Start / image.SectorBytes}",
                "-H",
                "255",
                "-S",
                "63",
                "-c",
                $"{clusterBytes}",
                "-L",
                label,
                file));
    }

    private static void FormatBeside(DiskFile image, ByteRange range, Action<string> format)
    {
        var temporary = HostFile.FreshBeside(image.Path);
        try
        {
            using (var file = HostFile.CreateNew(temporary)) file.SetLength(range.Length);
            format(temporary);
            using var volume = DiskFile.Open(temporary);
            CopySparse(volume, image, range.Start);
        }
        finally
        {
            File.Delete(temporary);
        }
    }

    /// <summary>Copies what is not zero.</summary>
    private static void CopySparse(DiskFile from, DiskFile to, long start)
    {
        var buffer = new byte[CopyBytes];
        for (long at = 0; at < from.LengthBytes; at += CopyBytes)
        {
            var part = buffer.AsSpan(0, (int)Math.Min(CopyBytes, from.LengthBytes - at));
            from.Read(at, part);
            if (part.IndexOfAnyExcept((byte)0) >= 0) to.Write(start + at, part);
        }
    }

    private static void Run(string program, string package, params string[] arguments)
    {
        var start = new ProcessStartInfo(HostPrograms.Find(program) ?? throw NotInstalled(program, package), arguments)
        {
            UseShellExecute = false,
            RedirectStandardError = true,
            RedirectStandardOutput = true
        };
        using var process = Process.Start(start)!;
        var errors = process.StandardError.ReadToEndAsync();
        _ = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        if (process.ExitCode == 0) return;
        throw new UnreadableException(
            "The practice disk could not be made.",
            $"{program} says: {errors.Result.Trim()}",
            "Check that there is room for the image.");
    }

    private static UnreadableException NotInstalled(string program, string package) => new(
        "The practice disk could not be made.",
        $"The program {program} is not installed.",
        $"Install it (on Debian: apt install {package}) and run the same command again.");
}
