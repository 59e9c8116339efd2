namespace Keel.Core.Errors;

/// <summary>
/// The disk itself reported an error: what stands there is not known, which is another thing than missing or damaged (exit code
/// 3).
/// </summary>
/// <param name="what">What happened.</param>
/// <param name="why">Why, where it is known.</param>
/// <param name="todo">What to do about it.</param>
/// <param name="sectors">The sectors that could not be read, from the start of the disk.</param>
/// <param name="file">The file that they belong to, where that is known.</param>
/// <param name="inner">The failure behind it.</param>
public sealed class ReadFailedException(
    string what,
    string why,
    string todo,
    IReadOnlyList<long> sectors,
    string? file = null,
    Exception? inner = null)
    : KeelException(what, why, todo, inner)
{
    /// <inheritdoc/>
    public override int ExitCode => 3;

    /// <summary>The sectors that could not be read; empty where they are not known.</summary>
    public IReadOnlyList<long> Sectors { get; } = sectors;

    /// <summary>The path of the file that they belong to; null where it is not known.</summary>
    public string? File { get; } = file;

    /// <summary>The same, met while a file was read.</summary>
    public ReadFailedException In(string path) =>
        new(
            $"{path} can't be read: the disk reports an error.",
            Why.Length > 0 ? $"{What} {Why}" : What,
            Todo,
            Sectors,
            path,
            this);
}
