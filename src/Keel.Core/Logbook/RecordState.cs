namespace Keel.Core.Logbook;

/// <summary>How far a repair came.</summary>
public enum RecordState
{
    /// <summary>The record is whole; the disk is being written, or writing was cut off.</summary>
    Writing,

    /// <summary>Written and read back.</summary>
    Done,

    /// <summary>Being taken back, or that was cut off.</summary>
    Undoing,

    /// <summary>Taken back.</summary>
    Undone
}
