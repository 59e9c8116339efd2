namespace Keel.Core.Logbook;

/// <summary>One variable's file, with what it held before and after, as base64; null where there was none.</summary>
/// <param name="Protected">Whether it carried the mark that keeps it from being changed.</param>
public sealed record RecordedVariable(string Name, string? Before, string? After, bool Protected)
{
    internal byte[]? BytesBefore => Before is null ? null : Convert.FromBase64String(Before);

    internal byte[]? BytesAfter => After is null ? null : Convert.FromBase64String(After);
}
