using Keel.Core.Facts;

namespace Keel.Core.Chain.Checks;

/// <summary>Says that the machine is one of NT 5, whose chain goes on otherwise than that of later ones.</summary>
internal sealed class Nt5Check : ILinkCheck
{
    public static readonly FindingKind Nt5Machine = new(
        "nt5-machine",
        Link.ManagerFile,
        Severity.Warning,
        "The machine starts through the loader of NT 5 (NTLDR, boot.ini).")
    {
        Beyond =
            "keel recognises such a machine, and neither walks the rest of its chain nor mends it yet: nothing is written by "
                + "itself. 'keel mbr rewrite', 'keel mbr activate' and 'keel sector rewrite --for nt5' do what they are asked."
    };

    public Link Link => Link.ManagerFile;

    public LinkReport Check(Machine machine) => LinkReport.Wrong(Nt5Machine, machine.Nt5Evidence ?? Remark.Of(Nt5Machine.Id));
}
