using System.Text.RegularExpressions;

namespace Keel.Core.Tests;

/// <summary>A folder uses only those above it in the list of CONTRIBUTING.md; folders within one are one with it.</summary>
public sealed partial class LayerTests
{
    private static readonly string[] Interface = ["Wording", "Terminal", "Views", "Rounds", "Commands"];

    [Fact]
    public void The_core_keeps_its_order()
    {
        var order = CoreLine().Matches(File.ReadAllText(Path.Combine(Root(), "CONTRIBUTING.md")))
            .Select(match => match.Groups["folder"].Value)
            .ToArray();
        var folders = Directory.GetDirectories(Path.Combine(Root(), "src", "Keel.Core")).Select(Path.GetFileName);
        folders.Except(["bin", "obj"]).Order(StringComparer.Ordinal).ShouldBe(order.Order(StringComparer.Ordinal));
        AgainstTheOrder("Keel.Core", order).ShouldBeEmpty();
    }

    [Fact]
    public void The_interface_keeps_its_order() => AgainstTheOrder("Keel.Cli", Interface).ShouldBeEmpty();

    /// <summary>Each use of a namespace that stands below the user's own.</summary>
    private static IEnumerable<string> AgainstTheOrder(string project, string[] order)
    {
        foreach (var (folder, place) in order.Select((folder, place) => (folder, place)))
        {
            var room = Path.Combine(Root(), "src", project, folder);
            foreach (var file in Directory.GetFiles(room, "*.cs", SearchOption.AllDirectories))
            {
                var used = Regex.Matches(
                    File.ReadAllText(file),
                    $@"^using (\w+ = )?{Regex.Escape(project)}\.(?<folder>\w+)",
                    RegexOptions.Multiline | RegexOptions.ExplicitCapture,
                    TimeSpan.FromSeconds(5));
                foreach (var name in used.Select(match => match.Groups["folder"].Value).Distinct())
                {
                    if (Array.IndexOf(order, name) > place) yield return $"{folder}/{Path.GetFileName(file)} uses {name}";
                }
            }
        }
    }

    private static string Root()
    {
        var folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "Keel.slnx"))) folder = Path.GetDirectoryName(folder)!;
        return folder;
    }

    /// <summary>A line of the list of folders.</summary>
    [GeneratedRegex(@"^    (?<folder>\w+)/ {2,}", RegexOptions.Multiline | RegexOptions.ExplicitCapture)]
    private static partial Regex CoreLine();
}
