using Keel.Core.Errors;
using Keel.Core.Programs;
using Keel.Core.Volumes;

namespace Keel.Core.Requests;

/// <summary>A file that may be a copy of another; nothing is said of what it is worth.</summary>
/// <param name="Source">Where it is, as it is told to people.</param>
/// <param name="Reading">What one reading of it says.</param>
/// <param name="IsOfInstallation">Whether it is of the same installation.</param>
/// <param name="Read">Reads it once more.</param>
internal sealed record FileCopy(string Source, FileReading Reading, bool IsOfInstallation, Func<byte[]> Read)
{
    /// <summary>In how many bytes a file differs from it; all of it where the disk does not give the file.</summary>
    public long DifferingFrom(IVolume files, string path)
    {
        var own = Read();
        byte[] other;
        try
        {
            other = files.ReadFile(path, int.MaxValue);
        }
        catch (KeelException)
        {
            return own.Length;
        }

        var shared = Math.Min(own.Length, other.Length);
        var differing = (long)Math.Abs(own.Length - other.Length);
        for (var at = 0; at < shared; at++)
        {
            if (own[at] != other[at]) differing++;
        }

        return differing;
    }
}
