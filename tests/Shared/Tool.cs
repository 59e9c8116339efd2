using CliWrap;
using CliWrap.Buffered;

namespace Keel.Tests;

/// <summary>Runs other people's programs, whose word counts.</summary>
internal static class Tool
{
    /// <summary>Runs a program and gives what it said and its exit code.</summary>
    public static async Task<(int ExitCode, string Output, string Error)> Run(string program, params string[] arguments)
    {
        var path = $"{Environment.GetEnvironmentVariable("PATH")}:/usr/sbin:/sbin";
        var result = await CliWrap.Cli.Wrap(program).WithArguments(arguments).WithValidation(CommandResultValidation.None)
            .WithEnvironmentVariables(variables => variables.Set("PATH", path).Set("TERM", "xterm"))
            .WithStandardInputPipe(PipeSource.Null)
            .ExecuteBufferedAsync();
        return (result.ExitCode, result.StandardOutput, result.StandardError);
    }

    /// <summary>Runs a program that must agree.</summary>
    public static async Task<string> MustAgree(string program, params string[] arguments)
    {
        var (code, output, error) = await Run(program, arguments);
        code.ShouldBe(0, $"{program} {string.Join(' ', arguments)} says:\n{output}\n{error}");
        return output;
    }
}
