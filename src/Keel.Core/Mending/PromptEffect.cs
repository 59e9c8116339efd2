namespace Keel.Core.Mending;

/// <summary>Whether a change brings up the recovery prompt of an encrypted volume.</summary>
public enum PromptEffect
{
    /// <summary>It does not.</summary>
    None,

    /// <summary>That depends on what the machine measures, which is not known from outside.</summary>
    NotKnown,

    /// <summary>It does.</summary>
    Will
}
