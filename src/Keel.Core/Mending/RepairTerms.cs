using Keel.Core.Windows;

namespace Keel.Core.Mending;

/// <summary>What the technician allowed beforehand, and where times and new identifiers come from.</summary>
public sealed record RepairTerms(TimeProvider Clock, Func<Guid> NewId)
{
    /// <summary>The usual terms: nothing allowed beyond the harmless.</summary>
    public static RepairTerms Usual { get; } = new(TimeProvider.System, Guid.NewGuid);

    /// <summary>Overwrite boot code of another system's loader.</summary>
    public bool ReplaceForeign { get; init; }

    /// <summary>Give up the session of a hibernated Windows, also where nothing else is to be mended.</summary>
    public bool GiveUpSession { get; init; }

    /// <summary>The screen asks for the recovery key: what makes it ask is mended too, though nothing else fails by it.</summary>
    public bool AsksForRecoveryKey { get; init; }

    /// <summary>Where copies of Windows' files may be taken from besides the machine's own.</summary>
    public IReadOnlyList<IFileTree> Sources { get; init; } = [];

    /// <summary>Whether a copy of another revision of the same build will do.</summary>
    public bool OtherRevision { get; init; }

    /// <summary>
    /// Which of the installations that fit an entry equally well it means: its number in the list of the refusal, from 1. Null
    /// where nobody said.
    /// </summary>
    public int? FittingInstallation { get; init; }
}
