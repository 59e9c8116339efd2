using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Writes boot code that loads the boot manager; the volume's parameters stay.</summary>
internal sealed class WriteBootSectorCode : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [BootSectorCheck.NoCode, BootSectorCheck.Nt5Code, BootSectorCheck.ForeignCode, BootSectorCheck.UnknownCode];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } volume) return Attempt.Refused("The system volume is not known.", "Name it with --volume.");
        if ((finding.Kind == BootSectorCheck.ForeignCode || finding.Kind == BootSectorCheck.UnknownCode) && !terms.ReplaceForeign)
        {
            return Attempt.Refused(
                $"{char.ToUpperInvariant(finding.Evidence[0])}{finding.Evidence[1..]}; replacing it could take another system's start away.",
                "If only Windows is to start from this volume, run the same command with --replace-foreign.");
        }

        return Attempt.Done(Write(volume, LoaderKind.BootManager, code: null, finding.Id));
    }

    /// <summary>Writes keel's code for that loader, or the code given.</summary>
    internal static Step Write(DiskVolume volume, LoaderKind loader, byte[]? code, string findingId)
    {
        code ??= volume.Kind == FileSystemKind.Fat32 ? KeelBootCode.Fat32(loader) : KeelBootCode.Ntfs(loader);
        BootSectorEditor.WriteCode(volume, code);
        return new Step(
            Link.BootSector,
            findingId,
            $"Write new boot code for {(loader == LoaderKind.BootManager ? "the boot manager" : "the NT 5 loader")} on {volume}.",
            [$"boot sector of {volume} and its backup copy: the parameters of the file system stay as they are"]);
    }
}
