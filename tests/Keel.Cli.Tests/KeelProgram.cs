using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Drives the built program.</summary>
internal static class KeelProgram
{
    /// <summary>dist/keel of this checkout, or what KEEL names.</summary>
    public static string Path { get; } = Environment.GetEnvironmentVariable("KEEL")
        ?? System.IO.Path.Combine(Root(), "dist", "keel");

    public static Task<(int ExitCode, string Output, string Error)> Run(params string[] arguments) => Tool.Run(Path, arguments);

    /// <summary>Runs a command that must end with this code.</summary>
    public static async Task<string> Must(int exitCode, params string[] arguments)
    {
        var (code, output, error) = await Run(arguments);
        code.ShouldBe(exitCode, $"keel {string.Join(' ', arguments)} says:\n{output}\n{error}");
        return output;
    }

    public static async Task<JsonElement> Json(int exitCode, params string[] arguments) =>
        JsonDocument.Parse(await Must(exitCode, [.. arguments, "--format", "json"])).RootElement;

    /// <summary>Makes a practice disk in the scratch folder.</summary>
    public static async Task<string> Practice(Scratch scratch, string fault, string name = "disk.img", string firmware = "")
    {
        await Practice(scratch[name], fault, firmware);
        return scratch[name];
    }

    /// <summary>A practice disk at a path; each is made once, and copied.</summary>
    public static Task Practice(string path, string fault, string firmware = "")
    {
        string[] more = firmware.Length > 0 ? ["--firmware", firmware] : [];
        return MadeOnce.Copy($"{fault} {firmware}", path, made => Must(0, ["drill", "new", fault, "--out", made, .. more]));
    }

    public static string Root()
    {
        var folder = AppContext.BaseDirectory;
        while (!File.Exists(System.IO.Path.Combine(folder, "Keel.slnx"))) folder = System.IO.Path.GetDirectoryName(folder)!;
        return folder;
    }
}
