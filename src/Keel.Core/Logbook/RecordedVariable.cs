namespace Keel.Core.Logbook;

/// <summary>One variable's file, with what it held before and after, as base64; null where there was none.</summary>
/// <param name="Name">The name of the variable file.</param>
/// <param name="Before">As it was; null where it was not there.</param>
/// <param name="After">As it becomes; null where it is dropped.</param>
/// <param name="Protected">Whether it carried the mark that keeps it from being changed.</param>
public sealed record RecordedVariable(string Name, string? Before, string? After, bool Protected)
{
    internal byte[]? BytesBefore => Before is null ? null : Convert.FromBase64String(Before);

    internal byte[]? BytesAfter => After is null ? null : Convert.FromBase64String(After);
}
