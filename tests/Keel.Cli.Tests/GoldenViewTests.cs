using System.Text.RegularExpressions;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// What is printed on terminals of 40, 80 and 100 columns is what stands in Golden/, to the letter; no line is wider than its
/// terminal, but for commands to be typed.
/// </summary>
/// <remarks>With KEEL_RENEW_GOLDEN set, the files are written anew; look at what changed before you commit them.</remarks>
public sealed partial class GoldenViewTests
{
    private const string UsualScratch = "keel-test-000000";

    private static readonly int[] Widths = [40, 80, 100];

    /// <summary>Name of the file, the fault of the disk, and the command.</summary>
    private static readonly (string Name, string Fault, string Command)[] Views =
    [
        ("diagnose-sound", "none", "diagnose DISK"),
        ("diagnose-broken", "store-missing", "diagnose DISK"),
        ("diagnose-reported", "mbr-code-wiped", "diagnose DISK --code c0000034"),
        ("diagnose-refused", "volume-encrypted", "diagnose DISK"),
        ("mend-preview", "preferred-dangling", "mend DISK --preview"),
        ("survey", "none", "survey DISK"),
        ("store-list", "none", "store list DISK --all"),
        ("store-change", "none", "store menu DISK --seconds 15 --always yes --preview"),
        ("files-list", "manager-missing", "files list DISK"),
        ("services", "none", "services list DISK"),
        ("diagnose-nt5", "boot-line-wrong-partition", "diagnose DISK"),
        ("bootini", "boot-line-wrong-partition", "bootini list DISK"),
        ("mbr", "table-two-active", "mbr show DISK"),
        ("sector", "sector-wrong-hidden", "sector show DISK"),
        ("explain", "none", "explain c0000034"),
        ("no-disk", "none", "diagnose DISK.gone"),
        ("wrong-word", "none", "diagnoze DISK")
    ];

    public static TheoryData<string, int> Cases
    {
        get
        {
            var cases = new TheoryData<string, int>();
            foreach (var view in Views)
            {
                foreach (var width in Widths) cases.Add(view.Name, width);
            }

            return cases;
        }
    }

    [Theory]
    [MemberData(nameof(Cases))]
    public async Task A_view_is_what_it_was(string name, int columns)
    {
        var (_, fault, command) = Views.Single(view => view.Name == name);
        using var scratch = new Scratch();
        var disk = Faults.Contains(fault) ? await KeelProgram.Practice(scratch, fault) : scratch["disk.img"];
        var printed = await Print(scratch, command.Replace("DISK", disk, StringComparison.Ordinal), columns);

        var path = Path.Combine(KeelProgram.Root(), "tests", "Keel.Cli.Tests", "Golden", $"{name}.{columns}.txt");
        if (Environment.GetEnvironmentVariable("KEEL_RENEW_GOLDEN") is { Length: > 0 })
            await File.WriteAllTextAsync(path, printed, TestContext.Current.CancellationToken);
        printed.ShouldBe(await File.ReadAllTextAsync(path, TestContext.Current.CancellationToken));
        printed.Split('\n')
            .Where(line => line.Length > columns && !line.TrimStart().StartsWith("keel ", StringComparison.Ordinal))
            .ShouldBeEmpty();
    }

    /// <summary>
    /// Prints on a terminal of that many columns; the folder of the test, which has another name each time, is evened out.
    /// </summary>
    private static async Task<string> Print(Scratch scratch, string command, int columns)
    {
        var line = $"stty cols {columns} rows 25; TERM=dumb {KeelProgram.Path} {command}";
        var output = (await Tool.Run("script", "-qec", line, "/dev/null")).Output;
        var even = output
            .Replace("\r", "", StringComparison.Ordinal)
            .Replace(Path.GetFileName(scratch.Folder), UsualScratch, StringComparison.Ordinal);
        return SerialNumber().Replace(even, "0123456789ABCDEF");
    }

    /// <summary>That of an NTFS volume, which is another one each time.</summary>
    [GeneratedRegex("[0-9A-F]{16}")]
    private static partial Regex SerialNumber();

    private static readonly HashSet<string> Faults = [.. Views.Select(view => view.Fault)];
}
