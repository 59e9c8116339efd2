using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Volumes;

namespace Keel.Core.Windows.Updates;

/// <summary>The updates of an installation, and whether some wait for the next start.</summary>
/// <param name="Packages">The youngest first; those without a time last.</param>
public sealed record UpdatePackages(IReadOnlyList<UpdatePackage> Packages)
{
    private const string Servicing = @"Microsoft\Windows\CurrentVersion\Component Based Servicing";
    private const int PackagesLimit = 50_000;

    /// <summary>Whether operations wait for the next start (pending.xml).</summary>
    public bool HasPendingOperations { get; private init; }

    /// <summary>Whether Windows wants to be started anew to go on.</summary>
    public bool WantsRestart { get; private init; }

    /// <summary>Reads them.</summary>
    /// <param name="files">The volume of the installation.</param>
    /// <param name="windows">Its folder.</param>
    /// <exception cref="UnreadableException">The SOFTWARE hive can't be read.</exception>
    public static UpdatePackages Read(IVolume files, string windows)
    {
        var path = $@"{windows}\System32\config\SOFTWARE";
        var where = Fact.Path.Is(path);
        var wrong = files.FileExists(path) ? HiveHealth.OfHead(files, path, [where]) : Remark.Of("hive.missing", where);
        if (wrong is not null)
        {
            throw new UnreadableException("The updates can't be listed.", "", "Run 'keel diagnose' on the disk first.")
            {
                Reason = wrong
            };
        }

        var root = Hive.Open(new CachedBlocks(files.OpenFile(path))).Root;
        var servicing = root.Find(Servicing);
        var packages = servicing?.Find("Packages")?.Subkeys()
            .Take(PackagesLimit)
            .Where(key => UpdatePackage.IsUpdate(key.Name))
            .Select(UpdatePackage.Of) ?? [];
        return new UpdatePackages([.. packages
            .OrderByDescending(package => package.Time ?? DateTimeOffset.MinValue)
            .ThenBy(package => package.Name, StringComparer.OrdinalIgnoreCase)])
        {
            HasPendingOperations = files.FileExists($@"{windows}\WinSxS\pending.xml"),
            WantsRestart = servicing?.Find("RebootPending") is not null
        };
    }
}
