using Keel.Core.Machines;

namespace Keel.Core.Drills;

/// <summary>A fault of the drills.</summary>
/// <param name="Id">Its name; mostly the id of the finding that it must lead to; "none" for the sound disk.</param>
/// <param name="Ticket">The number of the service ticket.</param>
/// <param name="Caller">Who called, from which machine.</param>
/// <param name="Words">What the caller says.</param>
/// <param name="Apply">What it does to a sound disk, in the overlay.</param>
public sealed record Fault(string Id, string Ticket, string Caller, string Words, Action<Machine> Apply)
{
    /// <summary>The id of the finding that it must lead to.</summary>
    public string FindingId
    {
        get => field ?? Id;
        init;
    }

    /// <summary>The only kind of firmware that it applies to; null where it applies to both.</summary>
    public FirmwareKind? Only { get; init; }

    /// <summary>It lies in the firmware's variables, so a BIOS disk gets a folder of them too.</summary>
    public bool NeedsVariables { get; init; }

    /// <summary>
    /// Firmware starts the disk nevertheless: it has no eyes for partition types, and uses the other copy of a table.
    /// </summary>
    public bool FirmwareStartsIt { get; init; }

    /// <summary>What the machine wrote down of it; null where it had no chance to write anything.</summary>
    internal Action<PracticeMemory>? Remembered { get; init; }

    /// <summary>
    /// What it does one after the other, the disk being written in between: where it is several faults at once.
    /// </summary>
    internal IReadOnlyList<Action<Machine>> Stages
    {
        get => field ?? [Apply];
        init;
    }

    /// <summary>Its Windows lies in a virtual disk file.</summary>
    public bool IsInside { get; init; }

    /// <summary>Its Windows is one of NT 5.</summary>
    public bool IsNt5 { get; init; }

    /// <summary>Its Windows volume is encrypted, once all else is done.</summary>
    public bool IsEncrypted { get; init; }

    /// <summary>The protection of its encrypted volume is suspended.</summary>
    public bool IsSuspended { get; init; }

    /// <summary>What it does to the disk once the volume is encrypted; null where that is nothing.</summary>
    internal Action<Machine>? BehindLock { get; init; }

    /// <summary>A copy of the disk stands beside it.</summary>
    public bool WithClone { get; init; }

    /// <summary>An installation medium lies beside it, and is needed.</summary>
    public bool WithMedium { get; init; }

    /// <summary>Whether a machine of that firmware can have it.</summary>
    public bool AppliesTo(FirmwareKind firmware) => Only is null || Only == firmware;
}
