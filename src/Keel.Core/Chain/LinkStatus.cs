namespace Keel.Core.Chain;

/// <summary>How a link stands.</summary>
public enum LinkStatus
{
    /// <summary>Nothing is wrong with it.</summary>
    Sound,

    /// <summary>It may work; something about it is odd.</summary>
    Doubtful,

    /// <summary>The machine stops here.</summary>
    Broken,

    /// <summary>It could not be judged, because of a link before it.</summary>
    Unreached
}
