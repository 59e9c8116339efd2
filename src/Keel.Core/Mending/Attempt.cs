using Keel.Core.Errors;
using Keel.Core.Facts;

namespace Keel.Core.Mending;

/// <summary>What a remedy came to: a step done in the overlay, or the reason for leaving things as they are.</summary>
internal sealed record Attempt(Step? Step, Remark? Why)
{
    /// <summary>What is in the way, where it was refused.</summary>
    public Obstacle Obstacle { get; init; }

    public static Attempt Done(Step step) => new(step, null);

    /// <summary>The reason; what to do about it is told by the same id.</summary>
    public static Attempt Refused(string id, params IEnumerable<KnownFact> facts) => new(null, Remark.Of($"left.{id}", facts));

    /// <summary>Something went wrong that says itself what, why, and what to do.</summary>
    public static Attempt Refused(KeelException error) =>
        Refused("error", error.Facts) with { Obstacle = Obstacle.Failed };

    /// <summary>A hibernated Windows has the volume open.</summary>
    public static Attempt RefusedBySession(VolumeRef hibernated) =>
        Refused("session-open", Fact.Volume.Is(hibernated)) with { Obstacle = Obstacle.OpenSession };
}
