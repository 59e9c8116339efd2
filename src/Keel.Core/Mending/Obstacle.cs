namespace Keel.Core.Mending;

/// <summary>What is in the way of a repair, where the plan, or the technician, can do something about it.</summary>
public enum Obstacle
{
    /// <summary>Nothing that could be taken away here.</summary>
    Other,

    /// <summary>It was tried, and failed.</summary>
    Failed,

    /// <summary>A hibernated Windows has the volume open; the session could be given up.</summary>
    OpenSession,

    /// <summary>Several installations fit equally well; the technician may say which is meant.</summary>
    SeveralFit
}
