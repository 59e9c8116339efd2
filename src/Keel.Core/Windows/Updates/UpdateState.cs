namespace Keel.Core.Windows.Updates;

/// <summary>How far a package of an update is.</summary>
public enum UpdateState
{
    /// <summary>A state that keel does not know.</summary>
    Other,

    /// <summary>It is in force.</summary>
    Installed,

    /// <summary>The next start puts it in force.</summary>
    InstallPending,

    /// <summary>The next start takes it out.</summary>
    RemovalPending,

    /// <summary>Its files are there, and not in force.</summary>
    Staged,

    /// <summary>It is on its way to be staged.</summary>
    Staging,

    /// <summary>A newer one took its place.</summary>
    Superseded,

    /// <summary>Parts of it are in force.</summary>
    Partial
}
