namespace Keel.Core.Windows;

/// <summary>When a driver or service is started (the value Start of its key).</summary>
public enum ServiceStart
{
    /// <summary>Loaded by the Windows loader, before the kernel runs.</summary>
    Boot = 0,

    /// <summary>Loaded by the kernel as it starts.</summary>
    System = 1,
    Automatic = 2,
    OnDemand = 3,
    Disabled = 4
}
