using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Replaces a start file that is not as it was signed by a copy of the same version that a catalog lists.</summary>
internal sealed class RestoreSigned : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [SignedStartFiles.KernelAltered, SignedStartFiles.DriverAltered];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (finding.File is not { } place || StartedWindows.Of(machine).Windows is not { } windows)
            return Attempt.Refused("file-volume-unreadable");
        if (SignedStartFiles.ProvenCopy(machine, windows, place.Path) is not { } copy)
            return Attempt.Refused("no-spare-copy", Fact.Names.Is([VolumeExtensions.NameOf(place.Path)]));
        var bytes = windows.Files.ReadFile(copy.Path);
        var signer = machine.Proven.SignersOf(bytes)[0];
        Remark? change = null;
        windows.Volume.Edit(files => change = RestoreProgram.WriteKeepingMarks(files, place.Path, bytes));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.file-as-signed", Fact.Path.Is(VolumeExtensions.NameOf(place.Path))),
            Remark.Of("line.file", Fact.Path.Is(place.Path), Fact.Volume.Is(windows.Volume.Ref), Fact.Change.Is(change!)),
            Remark.Of(
                "line.signed-copy",
                Fact.Source.Is(copy.Path),
                Fact.Version.Is($"{copy.Version}"),
                Fact.Signer.Is(signer ?? "unknown"))));
    }
}
