namespace Keel.Core.Windows;

/// <summary>When a driver or service is started (the value Start of its key).</summary>
public enum ServiceStart
{
    /// <summary>Loaded by the Windows loader, before the kernel runs.</summary>
    Boot = 0,

    /// <summary>Loaded by the kernel as it starts.</summary>
    System = 1,

    /// <summary>When Windows runs.</summary>
    Automatic = 2,

    /// <summary>When something asks for it.</summary>
    OnDemand = 3,

    /// <summary>Never.</summary>
    Disabled = 4
}
