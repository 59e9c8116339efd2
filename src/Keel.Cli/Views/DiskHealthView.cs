using System.Globalization;
using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Disks;

namespace Keel.Cli.Views;

/// <summary>Shows what disks say of their own health, and what came of an image.</summary>
internal sealed class DiskHealthView(Output output)
{
    public void Show(IReadOnlyList<(string Path, DiskHealth Health)> found)
    {
        if (output.IsJson)
        {
            KeelJson.Print(
                new DiskHealthDocument([.. found.Select(one => ToDocument(one.Path, one.Health))]),
                KeelJson.Default.DiskHealthDocument);
            return;
        }

        foreach (var (path, health) in found)
        {
            if (path != found[0].Path) output.Line();
            ShowOne(path, health);
        }
    }

    /// <summary>What the image holds; gives the exit code.</summary>
    public int Imaged(string named, string image, MapFile? map, bool isDone)
    {
        var missing = map?.Missing.Sum(range => range.Length) ?? 0;
        var isMade = isDone || map is not null;
        if (output.IsJson)
        {
            KeelJson.Print(new DiskImagedDocument(image, isMade, missing), KeelJson.Default.DiskImagedDocument);
            return !isMade ? 3 : missing == 0 ? 0 : 1;
        }

        output.Line();
        if (!isMade)
        {
            output.Paragraph("No image was made: what stopped it stands above.", style: "red");
            return 3;
        }

        output.Paragraph(
            missing == 0
                ? $"The whole disk is in {image}."
                : $"{Sizes.Text(missing)} are missing in {image}; they count as unreadable, as on the disk.",
            style: missing == 0 ? "green" : "yellow");
        if (missing > 0) output.Paragraph("The same command again goes on where it stopped.");
        output.Paragraph("Next, with the image instead of the disk:", $"keel diagnose {CommandWords.Quoted(named)}");
        return missing == 0 ? 0 : 1;
    }

    private void ShowOne(string path, DiskHealth health)
    {
        var (word, style) = health.Condition switch
        {
            HealthCondition.Failing => ("FAILING", "red"),
            HealthCondition.Doubtful => ("DOUBTFUL", "yellow"),
            HealthCondition.Healthy => ("HEALTHY", "green"),
            _ => ("NOT TOLD", "yellow")
        };
        var said = health.Condition switch
        {
            HealthCondition.Unknown => "the disk does not say anything of its health.",
            HealthCondition.Healthy => "nothing speaks against the disk, as it says itself.",
            _ => $"{string.Join("; ", health.Signs.Select(output.Escape))}."
        };
        output.Paragraph($"{word} {output.Escape(path)}: {said}", style: style);
        var about = ((string?[])[
            ComputerView.Identified(health.Traits),
            health.PowerOnHours is { } hours ? $"{hours.ToString("N0", CultureInfo.InvariantCulture)} hours in use" : null,
            health.Celsius is { } warm ? $"{warm} degrees Celsius" : null])
            .Where(words => !string.IsNullOrEmpty(words));
        if (string.Join(", ", about) is { Length: > 0 } line) output.Paragraph(line, indent: 2);
        if (health.Condition is HealthCondition.Failing or HealthCondition.Doubtful)
        {
            output.Paragraph(
                "Make an image of it before anything else, onto another disk:",
                $"keel disk image {CommandWords.Quoted(path)} OUT.img");
        }
    }

    private static DiskHealthOfOne ToDocument(string path, DiskHealth health) => new(
        path,
        Json.ToDocument.Word(health.Condition),
        health.Signs,
        health.PowerOnHours,
        health.Celsius,
        health.Traits.Model,
        health.Traits.Serial);
}
