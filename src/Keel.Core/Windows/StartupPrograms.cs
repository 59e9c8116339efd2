using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Programs;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>Finds the programs of a Windows that start by themselves, in hives and folders.</summary>
public sealed class StartupPrograms
{
    /// <summary>
    /// The upper half of the type of a value that is off: Windows runs texts only, and the lower half keeps the type that it had.
    /// </summary>
    public const uint OffMark = 0x6B65_0000;

    /// <summary>The name of the folder beside a startup folder, in which its programs are while they are off.</summary>
    public const string OffFolder = "Startup (off)";

    private const uint HalfMask = 0xFFFF_0000;
    private const int MostUsers = 200, MostPrograms = 2000;
    private const string Current = @"Microsoft\Windows\CurrentVersion", Approved = Current + @"\Explorer\StartupApproved\";
    private readonly IVolume files;
    private readonly string folder;
    private readonly ProgramPaths paths;

    /// <param name="paths">Where programs of the Windows lie.</param>
    public StartupPrograms(ProgramPaths paths)
    {
        this.paths = paths;
        files = paths.Files;
        folder = paths.Folder;
    }

    /// <summary>All of them: those of everybody, those of each user, the services.</summary>
    /// <param name="system">The SYSTEM hive; null where it can't be read.</param>
    public IReadOnlyList<StartupProgram> Find(SystemHive? system) =>
        [.. OfEverybody().Concat(Users().SelectMany(OfUser)).Concat(Services(system)).Take(MostPrograms).Select(Describe)];

    private IEnumerable<StartupProgram> OfEverybody()
    {
        var hive = $@"{folder}\System32\config\SOFTWARE";
        (string Key, string? Approved)[] keys =
        [
            ($@"{Current}\Run", Approved + "Run"), ($@"{Current}\RunOnce", null),
            ($@"Wow6432Node\{Current}\Run", Approved + "Run32"), ($@"Wow6432Node\{Current}\RunOnce", null)
        ];
        string[] menus =
        [
            @"\ProgramData\Microsoft\Windows\Start Menu\Programs\StartUp",
            @"\Documents and Settings\All Users\Start Menu\Programs\Startup"
        ];
        return keys.SelectMany(key => OfKey(new StartupSource(hive, key.Key, key.Approved), user: null))
            .Concat(menus.SelectMany(menu => OfFolder(menu, user: null)));
    }

    private IEnumerable<StartupProgram> OfUser(string home)
    {
        var user = VolumeExtensions.NameOf(home);
        var hive = $@"{home}\NTUSER.DAT";
        string[] menus =
        [
            $@"{home}\AppData\Roaming\Microsoft\Windows\Start Menu\Programs\Startup",
            $@"{home}\Start Menu\Programs\Startup"
        ];
        (string Key, string? Approved)[] keys =
        [
            ($@"Software\{Current}\Run", $@"Software\{Approved}Run"), ($@"Software\{Current}\RunOnce", null)
        ];
        return keys.SelectMany(key => OfKey(new StartupSource(hive, key.Key, key.Approved), user))
            .Concat(menus.SelectMany(menu => OfFolder(menu, user)));
    }

    /// <summary>The folders of the users, as Windows lists them; where it does not, as they lie.</summary>
    private IEnumerable<string> Users()
    {
        const string list = @"Microsoft\Windows NT\CurrentVersion\ProfileList";
        var known = InstallationFinder.TryKey(files, $@"{folder}\System32\config\SOFTWARE", list)?.Subkeys()
            .Select(profile => profile.Value("ProfileImagePath")?.AsText())
            .OfType<string>()
            .Select(paths.Of)
            .OfType<string>() ?? [];
        string[] tops = [@"\Users", @"\Documents and Settings"];
        var lying = tops.SelectMany(top => ListOf(top)
            .Where(home => home.IsFolder && (home.Marks & FileMarks.Reparse) == FileMarks.None)
            .Select(home => $@"{top}\{home.Name}"));
        return known
            .Concat(lying)
            .Distinct(StringComparer.OrdinalIgnoreCase)
            .Where(home => files.FileExists($@"{home}\NTUSER.DAT"))
            .Take(MostUsers);
    }

    private IEnumerable<StartupProgram> OfKey(StartupSource source, string? user)
    {
        if (InstallationFinder.TryKey(files, source.Container, source.Key) is not { } key) return [];
        var approved = source.Approved is { } path ? InstallationFinder.TryKey(files, source.Container, path) : null;
        return key.Values().Select(value =>
        {
            var offByWindows = approved?.Value(value.Name) is { Data: [var state, ..] } && state % 2 == 1;
            var isOff = ((uint)value.Type & HalfMask) == OffMark;
            return new StartupProgram(value.Name, StartupPlace.RunKey, source, user, TextOf(value), !isOff && !offByWindows)
            {
                IsOffByWindows = offByWindows && !isOff
            };
        });
    }

    private static string TextOf(HiveValue value) =>
        value.AsText() ?? Encoding.Unicode.GetString(value.Data.AsSpan(0, value.Data.Length & ~1)).Split('\0')[0];

    private IEnumerable<StartupProgram> OfFolder(string menu, string? user)
    {
        var off = $@"{VolumeExtensions.FolderOf(menu)}\{OffFolder}";
        return In(menu, isOn: true).Concat(In(off, isOn: false));

        IEnumerable<StartupProgram> In(string place, bool isOn) => ListOf(place)
            .Where(file => !file.IsFolder && !file.Name.Equals("desktop.ini", StringComparison.OrdinalIgnoreCase))
            .Select(file => new StartupProgram(
                file.Name,
                StartupPlace.Folder,
                new StartupSource(menu, ""),
                user,
                $@"{place}\{file.Name}",
                isOn));
    }

    private static IEnumerable<StartupProgram> Services(SystemHive? system) => (system?.Services() ?? [])
        .Where(service => !service.IsDriver && service.Type != 0 && service.Effective == ServiceStart.Automatic)
        .Select(service => new StartupProgram(
            service.Name,
            StartupPlace.Service,
            new StartupSource("services", ""),
            null,
            service.ImagePath,
            IsOn: true));

    /// <summary>What its file says of it; a file that can't be read says nothing.</summary>
    private StartupProgram Describe(StartupProgram program)
    {
        try
        {
            var file = program.Place == StartupPlace.Folder ? program.Command : paths.Of(program.Command);
            if (file is null) return program;
            if (!files.FileExists(file)) return program with { File = file, IsThere = paths.IsThere(program.Command) ?? false };
            var contents = new CachedBlocks(files.OpenFile(file));
            var signatures = ProgramContent.SignaturesOf(contents);
            var signer = signatures
                .Select(bytes => ProgramTrust.FittingIn(contents, bytes)?.Signer)
                .FirstOrDefault(name => name is not null);
            return program with
            {
                File = file,
                IsThere = true,
                Company = ProgramFile.CompanyOf(contents),
                Signer = signer,
                IsSignatureBroken = signatures.Count > 0 && signer is null,
                Written = files.WrittenAt(file)
            };
        }
        catch (KeelException)
        {
            return program;
        }
    }

    private IReadOnlyList<VolumeFile> ListOf(string path)
    {
        try
        {
            return files.List(path);
        }
        catch (KeelException)
        {
            return [];
        }
    }
}
