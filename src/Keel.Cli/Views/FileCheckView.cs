using System.Globalization;
using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Requests;
using Keel.Core.Volumes;

namespace Keel.Cli.Views;

/// <summary>Shows what a check of files found: the answer, the files that are wrong, and what would mend them.</summary>
internal sealed class FileCheckView(Output output)
{
    private const int MostShown = 12, MostUnknown = 6;

    /// <param name="again">The options of the check, as they are typed.</param>
    /// <param name="every">Whether every file is named.</param>
    public void Show(Machine machine, FileCheckResult result, string again, bool every)
    {
        if (output.IsJson)
        {
            KeelJson.Print(ToDocument.FileCheck(result), KeelJson.Default.FileCheckDocument);
            return;
        }

        ShowAnswer(result);
        output.Paragraph(
            $"{result.Installation}: {Words.Count(result.Files.Count, "file", "files")} checked, "
                + $"{Words.Count(result.Catalogs, "catalog", "catalogs")} read."
                + (result.Differences == 0 ? "" : $" {Words.Count(result.Differences, "difference", "differences")} to older "
                    + "versions in the component store passed over."));
        foreach (var file in every ? result.Wrong : result.Wrong.Take(MostShown)) ShowWrong(file);
        if (!every && result.Wrong.Count > MostShown)
            output.Paragraph($"and {result.Wrong.Count - MostShown} more: --all", indent: 2);
        ShowUnknown(result, every);
        ShowSigners(result);
        if (every) ShowSigned(result);
        ShowNext(machine, result, again);
    }

    private void ShowAnswer(FileCheckResult result)
    {
        var wrong = result.Wrong;
        if (wrong.Count == 0)
        {
            var unknown = result.Count(FileVerdict.Unknown);
            output.Paragraph(
                unknown == 0
                    ? $"AS SIGNED: all {result.Files.Count} files are what their maker signed."
                    : $"AS SIGNED: nothing is known to be altered; of {Words.Count(unknown, "file", "files")} nothing says what "
                        + "they should be.",
                style: "green");
            return;
        }

        var more = wrong.Count == 1 ? "" : $" and {Words.Count(wrong.Count - 1, "file", "files")} more";
        var verb = wrong[0].Verdict == FileVerdict.Unreadable ? "can't be read"
            : wrong.Count == 1 ? "is not what its maker signed"
            : "are not what their maker signed";
        output.Paragraph($"ALTERED: {wrong[0].Path}{more} {verb}.", style: "red");
    }

    private void ShowWrong(CheckedFile file)
    {
        var version = file.Version is null ? "" : $", version {file.Version}";
        var written = file.Written is { } time ? $", written {time.UtcDateTime:yyyy-MM-dd HH:mm}" : "";
        output.Paragraph(
            $"{file.Path}: {(file.Verdict == FileVerdict.Unreadable ? "unreadable" : "altered")}{version}{written}",
            indent: 2,
            style: "red",
            hang: 2);
        if (file.Why is { } why) output.Paragraph(Words.Of(why), indent: 4, hang: 2);
        output.Paragraph(CopyOf(file), indent: 4, hang: 2);
    }

    private static string CopyOf(CheckedFile file) => file.Copy is not { } copy
        ? "no copy that is as signed was found"
        : $"as signed by {copy.Signer.Name}: {copy.Source}; {copy.DifferingBytes.ToString("N0", CultureInfo.InvariantCulture)} "
            + $"{(copy.DifferingBytes == 1 ? "byte differs" : "bytes differ")}"
            + (copy.IsSameVersion ? "" : $"; of another revision, {copy.Version}");

    private void ShowUnknown(FileCheckResult result, bool every)
    {
        var unknown = result.Files.Where(file => file.Verdict == FileVerdict.Unknown).ToList();
        if (unknown.Count == 0) return;
        var named = unknown.Take(every ? unknown.Count : MostUnknown).Select(file => VolumeExtensions.NameOf(file.Path));
        var more = !every && unknown.Count > MostUnknown ? $" and {unknown.Count - MostUnknown} more (--all)" : "";
        output.Paragraph(
            $"{Words.Count(unknown.Count, "file carries", "files carry")} no signature, and no catalog lists "
                + $"{(unknown.Count == 1 ? "it" : "them")}: {string.Join(", ", named)}{more}",
            indent: 2,
            style: "yellow",
            hang: 2);
    }

    private void ShowSigners(FileCheckResult result)
    {
        var signers = result.Files.Select(file => file.Signer).OfType<FileSigner>()
            .GroupBy(signer => signer)
            .OrderByDescending(group => group.Count())
            .Select(group => $"{group.Key.Name} ({group.Count()}{(group.Key.IsMicrosofts ? "" : ", no root of Microsoft's")})")
            .ToList();
        if (signers.Count > 0) output.Paragraph($"signed by {string.Join(", ", signers)}", indent: 2, hang: 2);
    }

    private void ShowSigned(FileCheckResult result) => output.Columns([.. result.Files
        .Where(file => file.Verdict == FileVerdict.Signed)
        .Select(file => new (string, string?)[]
        {
            ("as signed", "grey"),
            ($"{file.Path} ({file.Catalog ?? "in itself"})", null)
        })]);

    private void ShowNext(Machine machine, FileCheckResult result, string again)
    {
        if (result.Wrong.Count == 0) return;
        output.Line();
        if (result.Wrong.Any(file => file.Copy is { IsSameVersion: true }))
            output.Paragraph("Next:", output.Commands.CheckFiles(machine, $"{again} --mend"), style: "bold");
        else if (result.Wrong.Any(file => file.Copy is not null))
            output.Paragraph("Next:", output.Commands.CheckFiles(machine, $"{again} --mend --other-revision"), style: "bold");
        else
            output.Paragraph(
                "Next, with a medium of the same build:",
                output.Commands.CheckFiles(machine, $"{again} --mend --from FOLDER"),
                style: "bold");
    }
}
