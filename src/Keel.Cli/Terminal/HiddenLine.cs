using Keel.Core.Disks;
using Keel.Core.Keys;

namespace Keel.Cli.Terminal;

/// <summary>Asks for a line that is not shown as it is typed, and kept in memory that is cleared.</summary>
internal static class HiddenLine
{
    private const int MostBytes = 1024;

    /// <summary>What is typed, in UTF-8; null where the input has ended.</summary>
    public static Secret? Ask(Output output, string question)
    {
        using var typed = new Secret(MostBytes);
        var count = output.Answered(
            () =>
            {
                output.Prompt(question);
                return HostStreams.ReadHidden(typed.Bytes);
            },
            anew: true);
        return count is { } length ? typed.Part(0, length) : null;
    }
}
