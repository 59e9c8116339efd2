using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>An installation as a restore point has it, as far as going back to it needs: hives read whole, and files.</summary>
internal sealed class PastState
{
    private const string Version = @"Microsoft\Windows NT\CurrentVersion";
    private const string Uninstall = @"Microsoft\Windows\CurrentVersion\Uninstall";
    private const int NamesLimit = 5_000;

    /// <summary>The hives that belong together; the first two are always there.</summary>
    private static readonly string[] Hives = ["SYSTEM", "SOFTWARE", "COMPONENTS", "DRIVERS", "SAM", "SECURITY", "DEFAULT"];

    private PastState(
        IReadOnlyDictionary<string, byte[]> contents,
        IReadOnlyList<WindowsService> services,
        HiveKey root)
    {
        Contents = contents;
        Services = services;
        var version = root.Find(Version);
        Build = version?.Value("CurrentBuildNumber")?.AsText() ?? version?.Value("CurrentBuild")?.AsText() ?? "";
        Revision = version?.Value("UBR")?.AsNumber();
        Installed = version?.Value("InstallDate")?.AsNumber();
        Programs = NamesOf(root);
    }

    /// <summary>The bytes of each hive that is there, by its name.</summary>
    public IReadOnlyDictionary<string, byte[]> Contents { get; }

    /// <summary>Drivers and services of its control set.</summary>
    public IReadOnlyList<WindowsService> Services { get; }

    /// <summary>The build; empty where it does not say.</summary>
    public string Build { get; }

    /// <summary>The revision of the build; null where it does not say.</summary>
    public uint? Revision { get; }

    /// <summary>When this Windows was installed, as its hive says (seconds since 1970); null where it does not.</summary>
    public uint? Installed { get; }

    /// <summary>What is listed as installed programs and updates.</summary>
    public IReadOnlySet<string> Programs { get; }

    /// <summary>
    /// Reads the hives of an installation; null where one of them is not sound, with the name of that one.
    /// </summary>
    public static PastState? Read(IVolume files, string config, out string? wrong)
    {
        var contents = new Dictionary<string, byte[]>(StringComparer.Ordinal);
        foreach (var name in Hives)
        {
            var path = $@"{config}\{name}";
            wrong = name;
            if (HiveCopies.TryRead(files, path) is { } bytes) contents.Add(name, bytes);
            else if (name is "SYSTEM" or "SOFTWARE" || files.FileExists(path)) return null;
        }

        wrong = "SYSTEM";
        var hive = SystemHive.Read(files, $@"{config}\SYSTEM");
        if (hive.ControlSet is null) return null;
        wrong = null;
        return new PastState(contents, hive.Services(), Hive.Open(contents["SOFTWARE"]).Root);
    }

    /// <summary>
    /// What the present hives say, without their contents: of large ones only what is asked for is read. Null where that can't be
    /// read.
    /// </summary>
    public static PastState? Present(IVolume files, string config)
    {
        try
        {
            var system = SystemHive.Read(files, $@"{config}\SYSTEM");
            var path = $@"{config}\SOFTWARE";
            if (system.ControlSet is null || files.Find(path) is not { IsFolder: false, SizeBytes: >= 2 * HiveHeader.Size })
                return null;
            var software = Hive.Open(new CachedBlocks(files.OpenFile(path)));
            return new PastState(new Dictionary<string, byte[]>(), system.Services(), software.Root);
        }
        catch (KeelException)
        {
            return null;
        }
    }

    private static HashSet<string> NamesOf(HiveKey root)
    {
        try
        {
            return
            [
                .. root.Find(Uninstall)?.Subkeys()
                    .Take(NamesLimit)
                    .Select(key => key.Value("DisplayName")?.AsText())
                    .OfType<string>()
                    .Where(name => name.Length > 0) ?? []
            ];
        }
        catch (KeelException)
        {
            return [];                                          // what a list of names hides is no reason against going back
        }
    }
}
