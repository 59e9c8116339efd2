using Keel.Core.Disks;

namespace Keel.Cli.Commands;

/// <summary>What is to be taken back, and how.</summary>
/// <param name="Disk">The disk, or the folder of a firmware's variables.</param>
/// <param name="With">The machine's other disks.</param>
internal sealed record UndoRequest(string Disk, string[] With)
{
    /// <summary>How the disks are opened.</summary>
    public DiskTerms Terms { get; init; } = DiskTerms.Usual;

    /// <summary>The repair's number in the list; null for none.</summary>
    public int? Number { get; init; }

    /// <summary>The repair's id in the logbook; null for none.</summary>
    public string? Record { get; init; }

    /// <summary>Only what is named, where the repair wrote more.</summary>
    public bool IsAlone { get; init; }

    /// <summary>Overwrite what other programs have written since.</summary>
    public bool EvenIfChanged { get; init; }

    /// <summary>With what is agreed beforehand: a record from elsewhere too.</summary>
    public bool EvenFromElsewhere { get; init; }

    /// <summary>The folder of the firmware's variables; null for those of this computer.</summary>
    public string? Variables { get; init; }

    /// <summary>Agreed beforehand.</summary>
    public bool Yes { get; init; }

    /// <summary>Only shown.</summary>
    public bool IsPreview { get; init; }
}
