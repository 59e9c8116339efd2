using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Writes a store that can be read whole, with its logs applied, as a clean hive; what was there is set aside.</summary>
internal sealed class RewriteStore : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [StoreCheck.BadChecksum, StoreCheck.Torn];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system || machine.Store.Store is not { } store) return Attempt.Refused("The store can't be read.", "Name its volume with --volume.");
        var bytes = store.ToBytes();
        var path = machine.Store.Path;
        var details = new List<string>();
        system.Edit(files =>
        {
            details.AddRange(StoreRebuild.SetAside(files, path).Select(line => $"{line} on {system}"));
            files.WriteFile(path, bytes);
            files.SetMarks(path, FileMarks.Archive);
        });
        details.Add($"{path} on {system}: new, {bytes.Length} bytes, all {store.Entries.Count} entries kept");
        return Attempt.Done(new Step(Link.Store, finding.Id, finding.Kind == StoreCheck.Torn ? "Write the store anew, with what its log holds." : "Write the store anew, with all its entries.", details));
    }
}
