namespace Keel.Core.Logbook;

/// <summary>What an undo is to put back.</summary>
/// <param name="Record">The record that is taken back.</param>
/// <param name="Fits">The record's disks, each beside the one that is here.</param>
/// <param name="Variables">The folder of the firmware's variables; null where they are left as they are.</param>
public sealed record UndoTargets(RepairRecord Record, IReadOnlyList<RecordFit> Fits, string? Variables)
{
    /// <summary>Overwrite what others have written over the repair since; it is saved first.</summary>
    public bool EvenIfChanged { get; init; }

    /// <summary>The same, looked at through the disks that are now held alone.</summary>
    internal UndoTargets On(Targets targets) => this with
    {
        Fits = [.. Fits.Select(fit => fit with { Disk = fit.Disk with { Blocks = targets[fit.Part] } })]
    };

    /// <summary>The parts of the record.</summary>
    public IReadOnlyList<int> Parts =>
    [
        .. Fits.Select(fit => fit.Part),
        .. Variables is not null && Record.VariablesPart is { } part ? [part] : Array.Empty<int>()
    ];
}
