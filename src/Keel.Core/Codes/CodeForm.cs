namespace Keel.Core.Codes;

/// <summary>What in a text says that a number is a code; the surest first.</summary>
public enum CodeForm
{
    /// <summary>Its own form: 0x, or as many digits as a status has.</summary>
    Marked,

    /// <summary>A word before it, or that nothing else stands there.</summary>
    Named,

    /// <summary>Nothing: digits and letters in the middle of a sentence.</summary>
    Bare
}
