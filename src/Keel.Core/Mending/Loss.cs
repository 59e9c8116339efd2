namespace Keel.Core.Mending;

/// <summary>What a step takes away that its way back alone would bring again.</summary>
[Flags]
public enum Loss
{
    /// <summary>Nothing.</summary>
    None = 0,

    /// <summary>Files of people, or of programs, on a volume that is made new.</summary>
    Files = 1,

    /// <summary>Settings made since an older copy was written.</summary>
    Settings = 2,

    /// <summary>What is open in a hibernated Windows, and not saved.</summary>
    Session = 4
}
