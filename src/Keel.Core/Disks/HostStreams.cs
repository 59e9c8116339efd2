namespace Keel.Core.Disks;

/// <summary>Standard input, output and error of this process.</summary>
public static class HostStreams
{
    private const int Count = 3;

    /// <summary>
    /// Gives those that whoever started keel had closed a place to go: else the next file that is opened gets their numbers,
    /// and what is printed is written to it. The runtime has opened files of its own by then, so the program begins once more.
    /// </summary>
    public static void OpenMissing()
    {
        var missing = Enumerable.Range(0, Count).Where(number => !LinuxNative.WasGiven(number)).ToList();
        if (missing.Count > 0) LinuxNative.BeginAgainWithNothing(missing);
    }

    /// <summary>Reads a line that is typed without showing it, into memory that the caller clears.</summary>
    /// <param name="line">Takes the bytes, without the end of the line; what is longer is cut off.</param>
    /// <returns>How many there are; null where the input has ended.</returns>
    public static int? ReadHidden(Span<byte> line) => HiddenInput.ReadLine(line);

    /// <summary>Forgets what was typed and not yet read.</summary>
    public static void DropTyped() => LinuxNative.DropTyped();
}
