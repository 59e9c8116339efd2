using Keel.Core.Errors;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>What is said where something is looked for that may lie behind a lock.</summary>
public static class Locks
{
    private const string Unlock =
        "With its recovery key: the same command with --unlock - (it asks for the key), or --unlock FILE.";

    private const string Whole =
        "Compare the size of an image with the disk's own; 'keel diagnose' says whether the partition is too small.";

    /// <summary>The files of a volume.</summary>
    /// <exception cref="KeelException">They can't be read: why, and what to do.</exception>
    public static IVolume FilesOf(DiskVolume volume) => volume.Files ?? throw WhyNot(volume);

    /// <summary>The volumes that could not be looked into, as a sentence; empty where there are none.</summary>
    public static string Told(Machine machine) => IsCut(machine)
        ? $" {Upper(string.Join(" and ", machine.LockedVolumes))} can't be opened: more was encrypted than is there."
        : machine.LockedVolumes is { Count: > 0 } locked
        ? $" {Upper(string.Join(" and ", locked))} {(locked.Count == 1 ? "is" : "are")} locked, and not looked into."
        : "";

    /// <summary>What to do: unlock, where something is locked; else the usual.</summary>
    public static string TodoOr(Machine machine, string usual) => machine.LockedVolumes.Count == 0 ? usual
        : IsCut(machine) ? Whole
        : Unlock;

    /// <summary>Refuses what needs the volume open.</summary>
    /// <exception cref="UnreadableException">It is locked.</exception>
    public static void RefuseLocked(DiskVolume volume)
    {
        if (volume.Kind == FileSystemKind.BitLocker) throw WhyNot(volume);
    }

    private static KeelException WhyNot(DiskVolume volume)
    {
        if (volume.FilesProblem is { } problem) return problem;
        if (volume.IsCutShort)
        {
            return new UnreadableException(
                $"{Upper($"{volume}")} can't be opened.",
                "It is encrypted by BitLocker, and its partition, or the image, has less than was encrypted.",
                Whole);
        }

        return volume.Kind == FileSystemKind.BitLocker
            ? new UnreadableException($"{Upper($"{volume}")} is locked.", "It is encrypted by BitLocker.", Unlock)
            : new UnreadableException(
                $"{Upper($"{volume}")} has no files that can be read.",
                $"It holds {Held(volume.Kind)}.",
                "'keel survey' shows what is on the disk.");
    }

    /// <summary>Whether no key helps, because something of each locked volume is missing.</summary>
    private static bool IsCut(Machine machine) =>
        machine.LockedVolumes is { Count: > 0 } locked && locked.All(volume => volume.IsCutShort);

    private static string Held(FileSystemKind kind) =>
        kind == FileSystemKind.Unknown ? "no known file system" : FileSystemProbe.Name(kind);

    private static string Upper(string text) => char.ToUpperInvariant(text[0]) + text[1..];
}
