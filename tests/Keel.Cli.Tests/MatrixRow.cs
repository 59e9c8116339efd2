using System.Text.Json;

namespace Keel.Cli.Tests;

/// <summary>
/// Writes what a run of the fault matrix saw, a line a fault, where KEEL_MATRIX names a file: docs/make-faults makes its page
/// from that.
/// </summary>
internal static class MatrixRow
{
    private static readonly string? Target = Environment.GetEnvironmentVariable("KEEL_MATRIX");
    private static readonly Lock Writing = new();

    public static bool IsWanted => Target is not null;

    public static void Write(
        string fault,
        string firmware,
        JsonElement found,
        string mended,
        string others,
        string before,
        string after,
        string undone)
    {
        if (Target is null) return;
        var screen = found.GetProperty("screen").GetString() ?? "none: it may start";
        var ids = string.Join(", ", FaultMatrix.Findings(found, "error", "warning"));
        lock (Writing) File.AppendAllText(
            Target,
            string.Join(
                " | ",
                fault,
                firmware.ToUpperInvariant(),
                ids.Length > 0 ? ids : "nothing",
                fault == "none" ? "starts" : screen,
                mended,
                others,
                before,
                after,
                undone)
                + "\n");
    }
}
