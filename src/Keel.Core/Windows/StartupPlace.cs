namespace Keel.Core.Windows;

/// <summary>Where a program is named that starts by itself.</summary>
public enum StartupPlace
{
    /// <summary>A Run or RunOnce key.</summary>
    RunKey,

    Folder,

    /// <summary>A service that starts by itself.</summary>
    Service
}
