using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks.Session;

/// <summary>The list of people's profiles.</summary>
internal static class ProfileList
{
    public static readonly FindingKind Twin = new(
        "profile-set-aside",
        Link.Session,
        Severity.Warning,
        "Windows has set a person's profile aside, and gives that person an empty one.",
        StartupScreens.SignInEnds)
    {
        Beyond = "Sign in as another administrator, give the key with .bak its name back in place of its twin, and sign in again."
    };

    /// <summary>The key in the SOFTWARE hive; each person has a subkey, by their security identifier.</summary>
    public const string Key = @"Microsoft\Windows NT\CurrentVersion\ProfileList";

    private const string Aside = ".bak", Person = "S-1-5-21-";

    public static IReadOnlyList<FindingKind> Kinds => [Twin];

    public static IEnumerable<Finding> Of(StartedWindows windows)
    {
        if (InstallationFinder.TryKey(windows.Files, windows.SoftwareHivePath, Key) is not { } list) yield break;
        var keys = list.Subkeys().Where(IsOfPerson).ToList();
        var names = keys.Select(key => key.Name).ToHashSet(StringComparer.OrdinalIgnoreCase);
        foreach (var key in keys.Where(key => key.Name.EndsWith(Aside, StringComparison.OrdinalIgnoreCase)))
        {
            // Alone it is what an old repair left, as often as not.
            if (!names.Contains(key.Name[..^Aside.Length])) continue;
            var folder = key.Value("ProfileImagePath")?.AsText() ?? "";
            yield return Twin.At(Fact.Title.Is(key.Name), Fact.Folder.Is(LogonCheck.Short(folder)));
        }
    }

    public static bool IsOfPerson(HiveKey key) => key.Name.StartsWith(Person, StringComparison.OrdinalIgnoreCase);
}
