using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending;

/// <summary>
/// Finds a copy of a boot file that is worth writing: among the installations' own, in the component store, as the twin on the
/// EFI system partition, in snapshots. Each is judged; one that is proven comes before one of which nothing is known.
/// </summary>
internal static class GoodCopies
{
    /// <summary>The copy to write, or null, and what is wrong with the others.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="system">The volume that it is for.</param>
    /// <param name="path">Its path there: that of the boot manager, or of the fallback file.</param>
    public static (GoodCopy? Copy, IReadOnlyList<Remark> Refused) Find(Machine machine, DiskVolume system, string path)
    {
        GoodCopy? best = null;
        var refused = new List<Remark>();
        foreach (var candidate in Candidates(machine, system, path))
        {
            if (BootFileJudge.WhyNot(path, candidate.Bytes, machine.Processor) is { } damaged)
            {
                refused.Add(Remark.Of("copy.of", Fact.Source.Is(candidate.Source), Fact.Reason.Is(damaged)));
                continue;
            }

            if (WhyNotStarted(machine, candidate.Bytes) is { } why)
            {
                refused.Add(Remark.Of("copy.of", Fact.Source.Is(candidate.Source), Fact.Reason.Is(why)));
                continue;
            }

            var judged = candidate with { IsProven = IsProven(machine, candidate.Bytes) };
            if (judged.IsProven) return (judged, refused);
            if (!candidate.IsStaged) best ??= judged;
        }

        return (best, refused);
    }

    /// <summary>Whether anything says that contents are as they were made.</summary>
    public static bool IsProven(Machine machine, byte[] bytes) =>
        ProgramContent.Read(new MemoryBlocks(bytes)) is { IsAltered: false } content
            && (content.ChecksumFits == true || content.DigestFits == true)
            || machine.Proven.SignersOf(bytes)[0] is not null;

    /// <summary>A firmware with Secure Boot starts only what it trusts, and such a copy would be no help.</summary>
    private static Remark? WhyNotStarted(Machine machine, byte[] bytes) =>
        machine.Firmware == FirmwareKind.Uefi && machine.SecureBoot.IsOn == true
            ? ProgramTrust.WhyRefused(new MemoryBlocks(bytes), machine.SecureBoot)
            : null;

    private static IEnumerable<GoodCopy> Candidates(Machine machine, DiskVolume system, string path)
    {
        var installations = machine.Installations.OrderByDescending(installation => installation.Build).ToList();
        var copies = installations
            .Select(BootFileSource.Of)
            .Where(source => source.Has(machine.BootFiles))
            .Select(source => (source, source.FilesFor(machine.BootFiles, machine.Processor)
                .FirstOrDefault(copy => copy.Target.Equals(path, StringComparison.OrdinalIgnoreCase))))
            .ToList();
        foreach (var (source, copy) in copies)
        {
            if (copy is not null && TryRead(() => source.Read(copy)) is { } bytes)
                yield return new GoodCopy(bytes, source.Name, false);
        }

        if (machine.Firmware == FirmwareKind.Uefi && Twin(machine, system, path) is { } twin) yield return twin;
        foreach (var installation in installations)
        {
            foreach (var copy in InComponents(installation, NameAtHome(machine))) yield return copy;
        }

        foreach (var installation in installations)
        {
            if (InSnapshots(machine, installation, path) is { } older) yield return older;
        }
    }

    /// <summary>Boot manager and fallback file are the same program.</summary>
    private static GoodCopy? Twin(Machine machine, DiskVolume system, string path)
    {
        var fallback = FallbackFile.PathFor(machine.Processor);
        var other = path.Equals(fallback, StringComparison.OrdinalIgnoreCase) ? BootFiles.Uefi.ManagerPath : fallback;
        return system.Files is { } files && files.FileExists(other) && TryRead(() => files.ReadFile(other)) is { } bytes
            ? new GoodCopy(bytes, other, false, IsTwin: true)
            : null;
    }

    private static IEnumerable<GoodCopy> InComponents(WindowsInstallation installation, string name)
    {
        if (installation.Volume.Files is not { } files) yield break;
        foreach (var place in SpareCopies.InComponents(files, installation.Folder, name))
        {
            if (TryRead(() => files.ReadFile(place)) is { } bytes && IsOfBuild(bytes, installation.Build))
                yield return new GoodCopy(bytes, $"{place} on {installation.Volume}", false) { IsStaged = true };
        }
    }

    /// <summary>
    /// Other versions stand there too, staged or left behind. What says no version is judged by the catalogs alone.
    /// </summary>
    private static bool IsOfBuild(byte[] bytes, int build) =>
        ProgramFile.VersionOf(new MemoryBlocks(bytes)) is not { } version
            || WindowsBuilds.AreOfSameFiles(version.Build, build);

    /// <summary>Of the youngest snapshot in which it is sound.</summary>
    private static GoodCopy? InSnapshots(Machine machine, WindowsInstallation installation, string path)
    {
        var place = $@"{installation.Folder}\Boot\{machine.BootFiles.CopiesFolder}\{NameAtHome(machine)}";
        var found = OlderStates.Youngest(
            installation.Volume,
            snapshot => snapshot.FileExists(place) && TryRead(() => snapshot.ReadFile(place)) is { } bytes
                && BootFileJudge.WhyNot(path, bytes, machine.Processor) is null
                ? bytes
                : null,
            out _);
        return found is { } older
            ? new GoodCopy(older.Found, $"the snapshot of {older.Made:yyyy-MM-dd HH:mm} on {installation.Volume}", false)
            : null;
    }

    /// <summary>What the boot manager is called among the installation's copies.</summary>
    private static string NameAtHome(Machine machine) => VolumeExtensions.NameOf(machine.BootFiles.ManagerPath);

    private static byte[]? TryRead(Func<byte[]> read)
    {
        try
        {
            return read();
        }
        catch (KeelException e) when (e is not ReadFailedException)
        {
            return null;
        }
    }
}
