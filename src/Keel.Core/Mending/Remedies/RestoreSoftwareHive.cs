using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Brings the SOFTWARE hive back from a copy that Windows keeps, or from a snapshot.</summary>
internal sealed class RestoreSoftwareHive : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [SystemHiveCheck.SoftwareMissing, SystemHiveCheck.SoftwareDamaged];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (StartedWindows.Of(machine).Windows is not { } windows) return Attempt.Refused("windows-not-reached");
        var path = $@"{windows.System32}\config\SOFTWARE";
        var kept = HiveReturn.KeptAt(windows, "SOFTWARE", candidate => HiveCopies.TryRead(windows.Files, candidate));
        var copy = HiveReturn.Best(windows, path, kept, files => HiveCopies.TryRead(files, path), out var problem);
        if (copy is not null) return HiveReturn.Apply(windows, path, copy, finding, Remark.Of("line.software-lost"));
        return problem is null ? Attempt.Refused("software-no-copy") : HiveReturn.Unread(problem);
    }
}
