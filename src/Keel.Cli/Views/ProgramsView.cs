using System.Globalization;
using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Machines;
using Keel.Core.Requests;
using Keel.Core.Windows;

namespace Keel.Cli.Views;

/// <summary>Shows what starts by itself once Windows runs.</summary>
internal sealed class ProgramsView(Output output)
{
    /// <summary>All of them, or those that are not Windows' own services.</summary>
    public void Show(Machine machine, IReadOnlyList<StartupProgram> programs, bool all)
    {
        var numbered = programs.Select((program, index) => (Number: index + 1, Program: program))
            .Where(one => all || !one.Program.IsOfWindows)
            .ToList();
        if (output.IsJson)
        {
            KeelJson.Print(
                new ProgramsDocument([.. numbered.Select(one => ToDocument(one.Number, one.Program))]),
                KeelJson.Default.ProgramsDocument);
            return;
        }

        var on = numbered.Count(one => one.Program.IsOn);
        output.Paragraph(
            $"{Words.Count(on, "program or service starts by itself", "programs and services start by themselves")}; "
                + $"{Words.Count(numbered.Count - on, "is", "are")} off.",
            style: "bold");
        foreach (var group in numbered.GroupBy(one => HeadingOf(one.Program)))
        {
            output.Heading(group.Key);
            foreach (var (number, program) in group) ShowOne(number, program);
        }

        var hidden = programs.Count - numbered.Count;
        if (hidden > 0) output.Paragraph($"and {hidden} services of Windows itself, shown with --all", style: "grey");
        if (numbered.Count > 0) output.Paragraph("Switch one off:", output.Commands.ChangeProgram(machine));
    }

    /// <summary>What to do until the next call of a search.</summary>
    public void TellHalving(SuspectSearch halving)
    {
        if (halving.IsFound)
        {
            output.Message($"Found: {halving.FirstName}. It stays off, and all others are on again.");
            return;
        }

        output.Message(halving.IsNone
            ? "It is none of them: all are on again."
            : "Start the machine now, and run the same command again with --started yes or no. "
                + $"At most {Words.Count(halving.StartsLeft, "more start.", "more starts.")}");
    }

    private void ShowOne(int number, StartupProgram program)
    {
        var state = program.IsOn ? "" : program.IsOffByWindows ? " - off, by Windows" : " - off";
        var since = program.Written is { } time ? time.UtcDateTime.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture) : null;
        var signed = program.Signer is { } signer ? $"signed by {signer}" : null;
        var about = string.Join(", ", ((string?[])[program.Company, signed, since]).OfType<string>());
        output.Paragraph($"{number}  {program.Name}{state}", indent: 2, style: program.IsOn ? "bold" : "yellow", hang: 3);
        output.Paragraph($"{program.Command}{(about.Length > 0 ? $" ({about})" : "")}", indent: 5, hang: 2);
        if (program.IsSignatureBroken)
            output.Paragraph("! Its signature does not fit it: it was changed.", indent: 5, style: "yellow", hang: 2);
        if (program.IsThere == false) output.Paragraph($"! {program.File} is not there.", indent: 5, style: "yellow", hang: 2);
    }

    private static string HeadingOf(StartupProgram program) => program.Place == StartupPlace.Service
        ? "Services that start by themselves"
        : program.User is { } user ? $"Of {user}" : "Of everybody";

    private static ProgramDocument ToDocument(int number, StartupProgram program) => new(
        number,
        program.Name,
        program.Place switch
        {
            StartupPlace.RunKey => "run-key",
            StartupPlace.Folder => "folder",
            _ => "service"
        },
        program.Source.Container,
        program.Source.Key,
        program.User,
        program.Command,
        program.IsOn,
        program.IsOffByWindows,
        program.File,
        program.IsThere,
        program.Company,
        program.Written,
        program.Signer,
        program.IsSignatureBroken);
}
