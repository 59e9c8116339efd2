using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Store;

namespace Keel.Core.Mending.Remedies;

/// <summary>Names the folder and the loader that are on the entry's volume.</summary>
internal sealed class CorrectWindowsEntry : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [WindowsEntryCheck.WrongFolder, WindowsEntryCheck.WrongLoader];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms) => StoreRemedy.Apply(machine, finding, store =>
    {
        if (WindowsEntryCheck.Started(store) is not { } entry) return null;
        var volume = machine.VolumeOf(entry.Device(Element.WindowsVolume));
        var here = machine.Installations.Where(installation => installation.Volume == volume).ToList();
        var folder = entry.Text(Element.WindowsFolder);
        var installation = here.Find(found => found.Folder.Equals(folder?.TrimEnd('\\'), StringComparison.OrdinalIgnoreCase))
            ?? (here.Count == 1 ? here[0] : null);
        if (installation is null) return null;
        entry.Set(Element.WindowsFolder, installation.Folder);
        entry.Set(Element.ProgramFile, $@"{installation.Folder}\System32\{machine.BootFiles.LoaderName}");
        return Remark.Of("step.correct-entry", Fact.Title.Is(entry.Title ?? ""), Fact.Path.Is(entry.Text(Element.ProgramFile)!));
    });
}
