namespace Keel.Core.Chain;

/// <summary>What a finding means for the start.</summary>
public enum Severity
{
    /// <summary>Worth knowing.</summary>
    Note,

    /// <summary>May stop the start.</summary>
    Warning,

    /// <summary>Stops the start.</summary>
    Error
}
