using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Core.Drills;

namespace Keel.Cli.Views;

/// <summary>Shows tickets of practice disks.</summary>
internal sealed class DrillView(Screen screen)
{
    public void ShowList(IReadOnlyList<Fault> faults, bool answers)
    {
        if (screen.IsJson)
        {
            KeelJson.Print(new DrillListDocument([.. faults.Select(fault => ToDrill(fault, "a machine", answers ? fault.Id : null, path: null))]), KeelJson.Default.DrillListDocument);
            return;
        }

        screen.Paragraph("Tickets to practise on:", style: "bold");
        screen.Columns([.. faults.Select(fault => answers
            ? new (string, string?)[] { (fault.Ticket, "bold"), (fault.Id, null), (fault.Words, null) }
            : [(fault.Ticket, "bold"), (fault.Words, null)])]);
        screen.Line();
        screen.Paragraph($"Next: keel drill new {faults[^1].Ticket} --out practice.img");
    }

    public void ShowNew(Fault fault, PracticeSpec spec, string path)
    {
        if (screen.IsJson)
        {
            KeelJson.Print(ToDrill(fault, spec.MachineName, fault: null, path), KeelJson.Default.DrillDocument);
            return;
        }

        screen.Paragraph($"Ticket {fault.Ticket}, Brackwater Ferries", style: "bold");
        screen.Paragraph($"From: {string.Format(fault.Caller, spec.MachineName)}", indent: 2);
        screen.Paragraph($"\"{fault.Words}\"", indent: 2);
        screen.Line();
        screen.Paragraph($"The machine's disk is {path}. Start with: keel diagnose {path}");
    }

    private static DrillDocument ToDrill(Fault drill, string machine, string? fault, string? path) =>
        new(drill.Ticket, string.Format(drill.Caller, machine), drill.Words, fault, path);
}
