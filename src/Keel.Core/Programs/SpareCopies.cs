using System.Reflection.PortableExecutable;
using Keel.Core.Errors;
using Keel.Core.Volumes;

namespace Keel.Core.Programs;

/// <summary>Finds spare copies of a program: among the boot file copies, in the component store, in the driver store.</summary>
public static class SpareCopies
{
    private const int FoldersLooked = 60_000;

    /// <summary>Where NT 5 keeps copies.</summary>
    private static readonly string[] KeptByNt5 = [@"ServicePackFiles\i386", @"System32\dllcache", @"Driver Cache\i386"];

    /// <summary>Sound copies for that processor, the newest first.</summary>
    /// <param name="volume">The volume.</param>
    /// <param name="files">The files of the volume.</param>
    /// <param name="folder">The Windows folder.</param>
    /// <param name="name">The file's name.</param>
    /// <param name="processor">The processor that it must be for.</param>
    public static IReadOnlyList<SpareCopy> Find(
        DiskVolume volume,
        IVolume files,
        string folder,
        string name,
        Machine? processor) =>
    [
        .. Candidates(files, folder, name, processor)
            .Where(files.FileExists)
            .Select(path => Judge(volume, files, path, processor))
            .OfType<SpareCopy>()
            .OrderByDescending(copy => copy.Version).ThenByDescending(copy => copy.Written)
    ];

    /// <summary>The places of a file of any processor in the component store; nothing is said of what it is.</summary>
    public static IEnumerable<string> InComponents(IVolume files, string folder, string name) =>
        Folders(files, $@"{folder}\WinSxS")
            .Select(component => $@"{folder}\WinSxS\{component}\{name}")
            .Where(files.FileExists);

    private static IEnumerable<string> Candidates(IVolume files, string folder, string name, Machine? processor)
    {
        yield return $@"{folder}\System32\Boot\{name}";
        yield return $@"{folder}\ELAMBKUP\{name}";        // of the driver that looks at all others first
        foreach (var place in KeptByNt5) yield return $@"{folder}\{place}\{name}";
        var prefix = processor switch { Machine.I386 => "x86_", Machine.Arm64 => "arm64_", _ => "amd64_" };
        foreach (var component in Folders(
            files,
            $@"{folder}\WinSxS").Where(component => component.StartsWith(prefix, StringComparison.OrdinalIgnoreCase)))
        {
            yield return $@"{folder}\WinSxS\{component}\{name}";
        }

        foreach (var package in Folders(files, $@"{folder}\System32\DriverStore\FileRepository"))
            yield return $@"{folder}\System32\DriverStore\FileRepository\{package}\{name}";
    }

    private static IEnumerable<string> Folders(IVolume files, string path) =>
        files.List(path).Where(file => file.IsFolder).Take(FoldersLooked).Select(file => file.Name);

    /// <summary>
    /// A file of the component store may be kept packed, which is no program to go by; such ones are passed over.
    /// </summary>
    private static SpareCopy? Judge(DiskVolume volume, IVolume files, string path, Machine? processor)
    {
        try
        {
            var state = ProgramState.Of(volume, files, path, processor, whole: true);
            return state.Condition == ProgramCondition.Sound
                ? new SpareCopy(path, ProgramFile.VersionOf(files.OpenFile(path)), files.WrittenAt(path), state.File!.SizeBytes)
                : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
