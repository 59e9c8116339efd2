using Keel.Core.Facts;

namespace Keel.Core.Errors;

/// <summary>A failure told in three sentences: what happened, why, and what to do about it.</summary>
public abstract class KeelException(string what, string why, string todo, Exception? inner = null)
    : Exception($"{what} {why}".TrimEnd(), inner)
{
    /// <summary>One sentence on what happened.</summary>
    public string What { get; } = what;

    /// <summary>One sentence on why; may be empty.</summary>
    public string Why { get; } = why;

    /// <summary>One sentence on what to do.</summary>
    public string Todo { get; } = todo;

    /// <summary>The three sentences as facts.</summary>
    public IReadOnlyList<KnownFact> Facts => Reason is { } reason
        ? [Fact.What.Is(What), Fact.Reason.Is(reason), Fact.Todo.Is(Todo)]
        : [Fact.What.Is(What), Fact.Why.Is(Why), Fact.Todo.Is(Todo)];

    /// <summary>What happened, and why, as a remark.</summary>
    public Remark AsRemark() => Remark.Of("error", Facts);

    /// <summary>A remark that says why, in the place of a sentence.</summary>
    public Remark? Reason { get; init; }

    /// <summary>What can be typed then, each a whole command.</summary>
    public IReadOnlyList<string> Commands { get; init; } = [];

    /// <summary>The exit code of the program that ends with this error.</summary>
    public abstract int ExitCode { get; }
}
