namespace Keel.Core.Mending;

/// <summary>By what a step is agreed to.</summary>
public enum StepConsent
{
    /// <summary>With the others of its plan.</summary>
    Usual,

    /// <summary>By itself, for it makes a new file system; nobody's "yes to all" is taken for it.</summary>
    NewFileSystem,

    /// <summary>By itself, for it gives up what is open in a hibernated Windows.</summary>
    GivesUpSession
}
