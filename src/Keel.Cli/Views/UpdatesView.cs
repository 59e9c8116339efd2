using System.Globalization;
using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Machines;
using Keel.Core.Windows;
using Keel.Core.Windows.Updates;

namespace Keel.Cli.Views;

/// <summary>Shows the updates of a Windows.</summary>
internal sealed class UpdatesView(Output output)
{
    private const int ShownAtFirst = 14;

    public void Show(Machine machine, WindowsInstallation windows, UpdatePackages updates, bool all)
    {
        if (output.IsJson)
        {
            KeelJson.Print(Document(windows, updates), KeelJson.Default.UpdatesDocument);
            return;
        }

        var pending = updates.Packages.Count(package => package.IsPending);
        var failed = updates.Packages.Count(package => package.Error is not null);
        output.Paragraph(Headline(windows, updates, pending, failed), style: "bold");
        var shown = updates.Packages.Where(package => all || package.State != UpdateState.Superseded).ToList();
        var rows = all ? shown : [.. shown.Take(ShownAtFirst)];
        output.Columns([.. rows.Select(Row)]);
        var left = updates.Packages.Count - rows.Count;
        if (left > 0) output.Paragraph($"{Words.Count(left, "older one", "older ones")} more: --all shows all.", indent: 2);
        if (updates.HasPendingOperations || pending > 0)
            output.Paragraph("What waits is carried out at the next start; Windows takes it back by itself where that fails.");
        if (updates.Packages.Any(package => package.State == UpdateState.Installed) && machine.NamedDisks.Count > 0)
        {
            output.Paragraph(
                "An installed update is taken out by Windows' own recovery, not from outside:",
                $"keel store once {output.Commands.AsTyped(machine.NamedDisks[0].Path)} recovery");
        }
    }

    private static string Headline(WindowsInstallation windows, UpdatePackages updates, int pending, int failed)
    {
        if (updates.Packages.Count == 0 && !updates.HasPendingOperations) return $"{windows} lists no updates.";
        var waiting = pending > 0 ? $"{pending} of them {(pending == 1 ? "waits" : "wait")} for the next start"
            : updates.HasPendingOperations ? "operations wait for the next start (pending.xml)"
            : "none waits for the next start";
        var errors = failed > 0 ? $", {failed} met an error" : "";
        return $"{windows}: {Words.Count(updates.Packages.Count, "update", "updates")}, {waiting}{errors}.";
    }

    private static (string, string?)[] Row(UpdatePackage package) =>
    [
        (package.Time?.UtcDateTime.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture) ?? "-", "grey"),
        (package.Article ?? "-", "bold"),
        (WordsOf(package.State), package.IsPending || package.Error is not null ? "yellow" : null),
        (package.Error is { } error ? $"{package.Title}, error 0x{error:X8}" : package.Title, null)
    ];

    private static string WordsOf(UpdateState state) => state switch
    {
        UpdateState.InstallPending => "to be installed",
        UpdateState.RemovalPending => "to be removed",
        UpdateState.Partial => "installed in part",
        UpdateState.Other => "unknown state",
        _ => state.ToString().ToLowerInvariant()
    };

    private static UpdatesDocument Document(WindowsInstallation windows, UpdatePackages updates) => new(
        windows.Volume.DiskPath,
        windows.Volume.Number,
        windows.Folder,
        updates.HasPendingOperations,
        updates.WantsRestart,
        [.. updates.Packages.Select(package => new UpdateDocument(
            package.Name,
            package.Article,
            ToDocument.Word(package.State),
            package.StateNumber,
            package.Time,
            package.Error))]);
}
