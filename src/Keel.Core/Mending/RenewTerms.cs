using Keel.Core.Store;
using Keel.Core.Windows;

namespace Keel.Core.Mending;

/// <summary>How boot files are to be recreated.</summary>
/// <param name="Kinds">For which firmware; the machine's own where none is named.</param>
/// <param name="Folder">A folder to copy from; null for an installation on the machine.</param>
/// <param name="SourceVolume">The volume of the installation to copy from; null for the newest.</param>
/// <param name="All">Also files that are the same, or newer than their copy.</param>
public sealed record RenewTerms(IReadOnlyList<BootFiles> Kinds, IFileTree? Folder, int? SourceVolume, bool All)
{
    /// <summary>Puts a new file system on the EFI system partition first.</summary>
    public bool Format { get; init; }

    /// <summary>The label of the new file system.</summary>
    public string Label { get; init; } = "SYSTEM";

    /// <summary>Its serial number; null for a new one.</summary>
    public uint? Serial { get; init; }
}
