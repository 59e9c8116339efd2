using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Machines;

namespace Keel.Cli.Views;

/// <summary>Shows tickets of practice disks.</summary>
internal sealed class DrillView(Output output)
{
    public void ShowList(IReadOnlyList<Fault> faults, bool answers)
    {
        if (output.IsJson)
        {
            KeelJson.Print(
                new DrillListDocument([.. faults.Select(fault =>
                    ToDrill(fault, "a machine", answers ? fault.Id : null, path: null))]),
                KeelJson.Default.DrillListDocument);
            return;
        }

        output.Paragraph("Tickets to practise on:", style: "bold");
        output.Columns([.. faults.Select(fault => answers
            ? new (string, string?)[] { (fault.Ticket, "bold"), (fault.Id, null), (fault.Words, null) }
            : [(fault.Ticket, "bold"), (fault.Words, null)])]);
        output.Line();
        output.Paragraph($"Next: keel drill new {faults[^1].Ticket} --out practice.img");
    }

    public void ShowNew(Fault fault, PracticeSpec spec, string path)
    {
        if (output.IsJson)
        {
            KeelJson.Print(ToDrill(fault, spec.MachineName, answer: null, path), KeelJson.Default.DrillDocument);
            return;
        }

        output.Paragraph($"Ticket {fault.Ticket}, Brackwater Ferries", style: "bold");
        output.Paragraph($"From: {string.Format(fault.Caller, spec.MachineName)}", indent: 2);
        output.Paragraph($"\"{fault.Words}\"", indent: 2);
        output.Line();
        var variables = VariablesOf(path);
        var beside = variables is null ? "" : $", its firmware variables are in {Path.GetFileName(variables)}";
        if (fault.WithMedium) beside += $", its medium {Path.GetFileName(PracticeDisk.MediumFor(path))}";
        if (fault.WithClone) beside += $", its other disk {Path.GetFileName(PracticeDisk.CloneFor(path))}";
        var keyFile = File.Exists(PracticeDisk.KeyFileFor(path)) ? PracticeDisk.KeyFileFor(path) : null;
        if (keyFile is not null) beside += $", its recovery key as the helpdesk has it is in {Path.GetFileName(keyFile)}";
        var typed = output.Commands.AsTyped(path);
        output.Paragraph($"The machine's disk is {typed}{beside}. Start with:");
        var options = fault.WithClone ? $" --with {CommandWords.Quoted(PracticeDisk.CloneFor(typed))}" : "";
        if (keyFile is not null) options += $" --unlock {CommandWords.Quoted(PracticeDisk.KeyFileFor(typed))}";
        if (variables is not null) options += $" --variables {CommandWords.Quoted(PracticeVariables.FolderFor(typed))}";
        output.Command($"keel diagnose {CommandWords.Quoted(typed)}{options}");
    }

    /// <summary>Whether the disk is well; the answer only where it was asked for.</summary>
    public void ShowCheck(Machine machine, Walk walk, IReadOnlyList<string>? answer)
    {
        var isWell = walk.Verdict == Verdict.Sound;
        if (output.IsJson)
        {
            KeelJson.Print(
                new DrillCheckDocument(
                    ToDocument.Word(walk.Verdict),
                    isWell,
                    [.. walk.Findings.Select(ToDocument.Finding)],
                    answer),
                KeelJson.Default.DrillCheckDocument);
            return;
        }

        output.Paragraph(
            isWell ? "WELL: the chain is sound, this machine would start."
                : walk.Verdict == Verdict.Broken ? $"NOT YET: the start stops at {walk.StopsAt!.Value.Id()}."
                : "NOT YET: it may start, and something is still not right.",
            style: isWell ? "green" : "red");
        if (answer is not null) output.Paragraph($"The fault was: {string.Join(", ", answer)}.");
        else if (!isWell) output.Paragraph("Go on with:", output.Commands.Diagnose(machine));
    }

    private static DrillDocument ToDrill(Fault fault, string machine, string? answer, string? path) => new(
        fault.Ticket,
        string.Format(fault.Caller, machine),
        fault.Words,
        [.. Enum.GetValues<FirmwareKind>().Where(fault.AppliesTo).Select(kind => ToDocument.Word(kind))],
        answer,
        path,
        path is null ? null : VariablesOf(path));

    private static string? VariablesOf(string path) =>
        Directory.Exists(PracticeVariables.FolderFor(path)) ? PracticeVariables.FolderFor(path) : null;
}
