using System.Globalization;
using Keel.Core.Codes;

namespace Keel.Cli.Tests;

/// <summary>docs/codes.md is made from the table of startup errors. With KEEL_RENEW_CODES=1 it is written anew.</summary>
public sealed class CodesPageTests
{
    private const string Head = """
        # Startup errors that keel explains

        Codes and messages are read as people type them: `keel explain c0000034`,
        `keel explain "File: \Boot\BCD Status: 0xc000000d"`, `keel explain digital signature could not be verified`. Besides
        these, every published status and stop code has its name. `keel explain FINDING` tells what a finding of keel means.

        | the screen says | name | what it means | links |
        | --- | --- | --- | --- |
        """;

    [Fact]
    public void The_page_of_codes_is_that_of_the_table()
    {
        var path = Path.Combine(KeelProgram.Root(), "docs", "codes.md");
        var page = $"{Head}\n{string.Join('\n', StartupErrors.Load().All.OrderBy(Place, StringComparer.Ordinal).Select(Row))}\n";
        if (Environment.GetEnvironmentVariable("KEEL_RENEW_CODES") == "1") File.WriteAllText(path, page);
        File.ReadAllText(path).ShouldBe(page, "KEEL_RENEW_CODES=1 writes it anew");
    }

    private static string Place(StartupError error) =>
        (error.Kind switch { "status" => "1", "stop" => "2", "screen" => "3", _ => "4" }) + error.Id;

    private static string Row(StartupError error) => string.Create(
        CultureInfo.InvariantCulture,
        $"| {error.Id} | {error.Status} | {error.Meaning} | {string.Join(", ", error.Links)} |");
}
