using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Writes boot code that loads the boot manager or the NT 5 loader; the volume's parameters stay.</summary>
internal sealed class WriteBootSectorCode : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        BootSectorCheck.NoCode,
        BootSectorCheck.CodeDiffers,
        BootSectorCheck.Nt5Code,
        BootSectorCheck.ManagerCode,
        BootSectorCheck.ForeignCode,
        BootSectorCheck.UnknownCode
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } volume) return Attempt.Refused("system-volume-not-known");
        if ((finding.Kind == BootSectorCheck.ForeignCode || finding.Kind == BootSectorCheck.UnknownCode) && !terms.ReplaceForeign)
            return Attempt.Refused("foreign-code", Fact.Reason.Is(finding.Seen));

        var loader = machine.Nt5Evidence is null ? LoaderKind.BootManager : LoaderKind.Nt5Loader;
        return Attempt.Done(Write(volume, loader, code: null, finding.Id));
    }

    /// <summary>Writes keel's code for that loader, or the code given.</summary>
    internal static Step Write(DiskVolume volume, LoaderKind loader, byte[]? code, string findingId)
    {
        code ??= KeelBootCode.For(volume.Kind, loader) ?? KeelBootCode.Ntfs(loader);
        BootSectorEditor.WriteCode(volume, code);
        return new Step(
            Link.BootSector,
            findingId,
            Remark.Of("step.write-sector-code", Fact.Volume.Is(volume.Ref), LoaderFact(loader)),
            Remark.Of("line.sector-parameters-stay", Fact.Volume.Is(volume.Ref)));
    }

    /// <summary>Which loader the code starts.</summary>
    internal static KnownFact LoaderFact(LoaderKind loader) =>
        Fact.Loader.Is(loader == LoaderKind.BootManager ? "the boot manager" : "the NT 5 loader");
}
