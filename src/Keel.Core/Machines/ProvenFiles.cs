using System.Security.Cryptography;
using Keel.Core.Errors;
using Keel.Core.Programs;

namespace Keel.Core.Machines;

/// <summary>
/// Which contents the catalogs of the machine's installations prove, each asked for once: catalogs are many, and no repair
/// changes them.
/// </summary>
internal sealed class ProvenFiles(Machine machine)
{
    private readonly Dictionary<string, string?> known = new(StringComparer.Ordinal);

    /// <summary>Of each of several contents, who signed a catalog that lists it; null where none does.</summary>
    public IReadOnlyList<string?> SignersOf(params IReadOnlyList<byte[]> contents)
    {
        var names = contents.Select(bytes => Convert.ToHexString(SHA256.HashData(bytes))).ToList();
        var open = names.Select((name, number) => (name, number)).Where(one => !known.ContainsKey(one.name)).ToList();
        if (open.Count > 0)
        {
            var wanted = open.Select(one => CatalogSearch.DigestsOf(contents[one.number])).ToList();
            foreach (var (name, _) in open) known[name] = null;
            foreach (var installation in machine.Installations)
            {
                if (installation.Volume.Files is not { } files) continue;
                var signers = Search(() => CatalogSearch.SignersOf(files, installation.Folder, wanted));
                for (var number = 0; number < signers.Count; number++) known[open[number].name] ??= signers[number];
            }
        }

        return [.. names.Select(name => known[name])];
    }

    /// <summary>Catalogs that a damaged volume does not give prove nothing.</summary>
    private static IReadOnlyList<string?> Search(Func<IReadOnlyList<string?>> search)
    {
        try
        {
            return search();
        }
        catch (KeelException)
        {
            return [];
        }
    }
}
