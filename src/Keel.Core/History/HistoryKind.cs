namespace Keel.Core.History;

/// <summary>What kind of thing a machine remembers.</summary>
public enum HistoryKind
{
    /// <summary>A start came so far that the kernel said so.</summary>
    Start,

    /// <summary>A start came so far that services ran: it was good.</summary>
    GoodStart,

    /// <summary>It was shut down in order.</summary>
    ShutDown,

    /// <summary>It went off without being shut down.</summary>
    WentDark,

    /// <summary>It stopped with a code.</summary>
    Stop,

    /// <summary>A driver was installed.</summary>
    Driver,

    /// <summary>A service was installed.</summary>
    Service,

    /// <summary>An update was installed.</summary>
    Update,

    /// <summary>An update was begun, or failed.</summary>
    UpdateTrouble,

    /// <summary>A driver or service did not start.</summary>
    NotStarted,

    /// <summary>A disk had errors.</summary>
    Disk,

    /// <summary>A file system was damaged, or was repaired.</summary>
    FileSystem,

    /// <summary>Windows tried to repair its start.</summary>
    Repair,

    /// <summary>Operations are left to be finished at a start.</summary>
    Pending,

    /// <summary>What a log of a setup, a start or of servicing says.</summary>
    Log,

    /// <summary>Something else.</summary>
    Other
}
