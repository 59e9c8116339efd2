namespace Keel.Core.Sticks;

/// <summary>How far the writing of a stick has come.</summary>
public enum StickStage
{
    /// <summary>The image is being written.</summary>
    Writing,

    /// <summary>What was written is being read back.</summary>
    Comparing,

    /// <summary>A stick is being checked.</summary>
    Checking
}
