namespace Keel.Core.Store;

/// <summary>How little a Windows starts with.</summary>
public enum SafeStart
{
    /// <summary>What is needed, and nothing else.</summary>
    Minimal,

    Network,

    /// <summary>What is needed, and a command prompt instead of the desktop.</summary>
    Prompt
}
