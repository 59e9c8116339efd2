using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Builds a new store from the installations found, and sets the old one aside under another name.</summary>
internal sealed class RebuildStore : IRemedy
{
    private const string UsualLanguage = "en-US";
    private const int SetAsideLimit = 1000;
    private static readonly string[] LogEndings = ["", ".LOG", ".LOG1", ".LOG2"];

    public IReadOnlyList<FindingKind> Mends =>
        [StoreCheck.Missing, StoreCheck.Folder, StoreCheck.Truncated, StoreCheck.Damaged, StoreCheck.NoEntries, ManagerEntryCheck.Missing, WindowsEntryCheck.Missing];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system) return Attempt.Refused("The system volume is not known.", "Name it with --volume.");
        var installations = machine.Installations;
        if (installations.Count == 0)
        {
            return Attempt.Refused(
                $"No Windows installation was found: {machine.Volumes.Count()} volumes were looked at.",
                "If Windows lies on another disk, add it with --with; if its volume is encrypted or damaged, that comes first.");
        }

        var details = new List<string> { $"Installations found: {installations.Count}" };
        details.AddRange(installations.Select(installation => $"  {Describe(installation)} - {(machine.IsListed(installation) ? "already listed" : "new")}"));
        var old = machine.Store.Store;
        var language = old?.Manager?.Text(Element.Language) ?? UsualLanguage;
        var systems = installations.Select(installation => new WindowsToList(installation.Volume, installation.Folder, TitleOf(machine, installation), installation.Build)).ToList();
        var bytes = FreshStore.Build(system, machine.BootFiles, systems, language, terms.Clock.GetUtcNow(), terms.NewId).ToBytes();
        var path = machine.Store.Path;
        system.Edit(files =>
        {
            details.AddRange(SetAside(files, path).Select(line => $"{line} on {system}"));
            files.CreateFolder(VolumeExtensions.FolderOf(path));
            files.WriteFile(path, bytes);
            files.SetMarks(path, FileMarks.Archive);
        });
        details.Add($"{path} on {system}: new, {bytes.Length} bytes, {systems.Count} Windows {(systems.Count == 1 ? "entry" : "entries")}");
        return Attempt.Done(new Step(Link.Store, finding.Id, $"Build a new store on {system} from the {Count(systems.Count)} found.", details));
    }

    /// <summary>Renames the store and its logs to the first free name; gives a line for each.</summary>
    internal static List<string> SetAside(IVolume files, string path)
    {
        var lines = new List<string>();
        if (LogEndings.All(ending => files.Find(path + ending) is null)) return lines;
        var number = Enumerable.Range(1, SetAsideLimit).First(candidate => LogEndings.All(ending => files.Find(Aside(path, ending, candidate)) is null));
        foreach (var ending in LogEndings.Where(ending => files.Find(path + ending) is not null))
        {
            var aside = Aside(path, ending, number);
            files.Rename(path + ending, VolumeExtensions.NameOf(aside));
            lines.Add($"{path}{ending}: set aside as {VolumeExtensions.NameOf(aside)}");
        }

        return lines;
    }

    private static string Aside(string path, string ending, int number) => $"{path}{ending}.aside{number}";

    private static string Count(int installations) => installations == 1 ? "installation" : $"{installations} installations";

    private static string Describe(WindowsInstallation installation) => $"{installation}{(installation.Build > 0 ? $", build {installation.Build}" : "")}";

    /// <summary>The title of the entry that listed the installation, where the old store still tells it.</summary>
    private static string TitleOf(Machine machine, WindowsInstallation installation) =>
        machine.Store.Store?.WindowsEntries.FirstOrDefault(entry =>
            machine.VolumeOf(entry.Device(Element.WindowsVolume)) == installation.Volume
            && string.Equals(entry.Text(Element.WindowsFolder), installation.Folder, StringComparison.OrdinalIgnoreCase))?.Title
        ?? installation.Product;
}
