using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Chain.Checks.Session;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Brings a hive other than SYSTEM back from a copy that Windows keeps, or from a snapshot.</summary>
internal sealed class RestoreHive : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        SystemHiveCheck.SoftwareMissing, SystemHiveCheck.SoftwareDamaged, SessionHives.Missing, SessionHives.Damaged
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (StartedWindows.Of(machine).Windows is not { } windows) return Attempt.Refused("windows-not-reached");
        var path = finding.File?.Path ?? windows.SoftwareHivePath;
        var name = VolumeExtensions.NameOf(path);
        var kept = HiveReturn.KeptAt(windows, name, candidate => HiveCopies.TryRead(windows.Files, candidate));
        var copy = HiveReturn.Best(windows, path, kept, files => HiveCopies.TryRead(files, path), out var problem);
        if (copy is not null) return HiveReturn.Apply(windows, path, copy, finding, Remark.Of(LostWith(name)));
        if (problem is not null) return HiveReturn.Unread(problem);
        return path == windows.SoftwareHivePath
            ? Attempt.Refused("software-no-copy")
            : Attempt.Refused("hive-no-copy", Fact.Path.Is(path));
    }

    private static string LostWith(string name) => name.ToUpperInvariant() switch
    {
        "SOFTWARE" => "line.software-lost",
        "DEFAULT" => "line.default-lost",
        _ => "line.accounts-lost"
    };
}
