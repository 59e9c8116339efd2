using System.Reflection;

namespace Keel.Cli.Wording;

/// <summary>The version of this program.</summary>
internal static class ProgramVersion
{
    public static string Text { get; } = "keel "
        + (typeof(ProgramVersion).Assembly.GetCustomAttribute<AssemblyInformationalVersionAttribute>()?.InformationalVersion
            ?? "");
}
