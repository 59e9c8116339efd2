namespace Keel.Core.Requests;

/// <summary>What of a restore point is brought back.</summary>
[Flags]
public enum RestoreScope
{
    /// <summary>The hives of the system, all of them together.</summary>
    Hives = 1,

    /// <summary>The files of the drivers that the hives of then start with Windows.</summary>
    Drivers = 2,

    /// <summary>Loader, kernel and the programs of the session.</summary>
    System = 4,

    /// <summary>All of that.</summary>
    All = Hives | Drivers | System
}
