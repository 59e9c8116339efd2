using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Keys;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Sticks;
using Keel.Core.Store;

namespace Keel.Cli.Commands;

/// <summary>keel without arguments, at a terminal: it asks, shows the one thing that is wrong, and leads on from there.</summary>
internal sealed class GuidedSession(Output output, RepairLogbook logbook, KeyRing keys)
{
    private readonly ChoiceMenu menu = new(output);
    private readonly HashSet<string> askedOf = [];
    private string? disk;
    private string? reported;
    private bool canMend, isLocked;

    /// <summary>Leads until the technician has had enough; gives the exit code.</summary>
    public int Run()
    {
        using var interrupts = new Interrupts(output);
        output.Paragraph("keel: why a Windows machine does not start, and what mends it.", style: "bold");
        output.Paragraph("Nothing is written before you have seen it and agreed; every repair can be taken back.");
        if (!ChooseDisk()) return Leave();
        if (!AskWhatIsSeen()) return Leave();
        Try(Diagnose);
        menu.Run("What next?", "leave keel", Choices);
        return Leave();
    }

    private int Leave()
    {
        output.Message(output.Written ?? "Nothing was written.");
        return 0;
    }

    private List<Choice> Choices() =>
    [
        .. canMend ? [new Choice("mend it: the plan, then a question for each step", () => Try(Mend))] : Array.Empty<Choice>(),
        .. isLocked
            ? [new Choice("open what is encrypted: type its recovery key", () => Try(OpenLocked))]
            : Array.Empty<Choice>(),
        new("say what the screen shows, and look again", () => Try(() => { AskWhatIsSeen(); Diagnose(); })),
        new("every link of the chain, and every finding", () => Try(LookAtAll)),
        new("what is on the disks", () => Try(Survey)),
        new("start in safe mode, the next time only", () => Try(StartSafely)),
        new("show the start menu at every start, for 30 seconds", () => Try(ShowMenu)),
        new("take a repair back", () => Try(TakeRepairBack)),
        new("another disk", () => Try(() => { if (ChooseDisk()) Diagnose(); }))
    ];

    /// <summary>What goes wrong is told, and the session goes on.</summary>
    private ChoiceEnd Try(Action act)
    {
        try
        {
            act();
        }
        catch (KeelException e)
        {
            output.Error(e);
        }

        return ChoiceEnd.Again;
    }

    /// <summary>The only disk that is built in; else one of a list, or what is typed.</summary>
    private bool ChooseDisk()
    {
        var disks = ComputerDisks.All().Where(disk => !RecoveryMedia.IsOne(disk.Path)).ToList();
        if (disk is null && disks.Count(found => !found.IsRemovable) == 1 && CanOpen(disks[0].Path))
        {
            disk = disks[0].Path;
            return true;
        }

        var choices = disks.Take(7).Select(DiskView.Line).Append("an image, or another path: type it").ToList();
        if (menu.Ask("Which disk does the machine start from?", choices) is not { } chosen) return false;
        var path = chosen < choices.Count - 1 ? disks[chosen].Path : output.AskLine("Path:");
        if (path is not { Length: > 0 }) return false;
        try
        {
            using var machine = Open(path);
            disk = path;
            return true;
        }
        catch (KeelException e)
        {
            output.Error(e);
            return ChooseDisk();
        }
    }

    private bool CanOpen(string path)
    {
        try
        {
            using var machine = Open(path);
            return true;
        }
        catch (KeelException)
        {
            return false;
        }
    }

    private bool AskWhatIsSeen()
    {
        string[] choices = ["a code or a message: type it", "I don't know", "it starts, but something is wrong"];
        switch (menu.Ask("What does the screen of the machine say?", choices))
        {
            case null:
                return false;
            case 0:
                reported = output.AskLine("The code, or the words:") is { Length: > 0 } words ? words : null;
                return true;
            default:
                reported = null;
                return true;
        }
    }

    private Machine Open(string path) =>
        new MachineOpening(output) { Terms = DiskTerms.Usual with { Keys = keys, SpillFolder = logbook.Path } }.Open(path, []);

    /// <summary>Asks for a key; gives whether it opened something.</summary>
    private bool AskForKey()
    {
        using (var machine = Open(disk!))
        {
            foreach (var volume in machine.LockedVolumes)
                output.Paragraph(Wording.EncryptionWords.OpenedBy(volume), indent: 2, hang: 2);
        }

        if (KeyQuestion.Ask(output) is not { } key) return false;
        keys.Add(key);
        using var opened = Machine.Open([disk!], null, null, terms: DiskTerms.Usual with { Keys = keys });
        _ = output.Working("opening the encrypted volumes", () => opened.LockedVolumes);
        if (!keys.Unused.Contains(key)) return true;
        keys.Drop(key);
        output.Message("That key opens no volume here. Compare the first 8 digits of its identifier.");
        return false;
    }

    private void OpenLocked()
    {
        if (AskForKey()) Diagnose();
    }

    private void Diagnose()
    {
        if (LookOnce() && AskForKey()) LookOnce();
    }

    /// <summary>Shows what is wrong; gives whether the key of what is locked is at hand, and wanted.</summary>
    private bool LookOnce()
    {
        using var machine = Open(disk!);
        var diagnosis = output.Working("walking the chain", () => Diagnosis.Of(machine, reported, RepairTerms.Usual));
        canMend = diagnosis.Plan.Steps.Count > 0;
        isLocked = machine.LockedVolumes.Any(volume => volume.Encryption is { IsWhole: true });
        output.NewScreen();
        new CutOffRepairs(output, logbook).Tell(machine);
        output.Paragraph($"{disk}:", style: "bold");
        new DiagnoseView(output).ShowBrief(diagnosis);
        var isInTheWay = isLocked && diagnosis.Plan.Findings.Any(finding => finding.Id == DiagnoseView.LockedId);
        if (!isInTheWay || !askedOf.Add(disk!)) return false;
        return output.Ask("The rest is behind the lock. Is the recovery key at hand?", "[y]es / [n]o") == 'y';
    }

    private void LookAtAll()
    {
        using var machine = Open(disk!);
        var diagnosis = output.Working("walking the chain", () => Diagnosis.Of(machine, reported, RepairTerms.Usual));
        output.NewScreen();
        new DiagnoseView(output, all: true).Show(diagnosis);
    }

    private void Survey()
    {
        using var machine = Open(disk!);
        output.NewScreen();
        new SurveyView(output).Show(machine);
    }

    private void Mend()
    {
        using var machine = Open(disk!);
        var diagnosis = output.Working("walking the chain", () => Diagnosis.Of(machine, reported, RepairTerms.Usual));
        output.NewScreen();
        var exitCode = new Repair(output, logbook).Run(machine, diagnosis, RepairTerms.Usual, new MendView(output));
        canMend = exitCode != 0;
    }

    private void StartSafely() => ChangeStore(store =>
    {
        var entry = store.Entry(store.Preferred ?? default) ?? throw new RefusedException(
            "Nothing was written.",
            "The store prefers no entry, so it is not clear which Windows is meant.",
            "Mend it first.");
        return Remark.Of("step.once", Fact.Title.Is(StoreEditing.Once(store, entry, SafeStart.Minimal).Name));
    });

    private void ShowMenu() => ChangeStore(store =>
    {
        const int seconds = 30;
        StoreEditing.Menu(store, seconds, always: true, graphical: null);
        return Remark.Of("step.change-menu");
    });

    private void ChangeStore(Func<BootStore, Remark> change)
    {
        using var machine = Open(disk!);
        var diagnosis = Diagnosis.OfRequest(machine, StoreRequests.Change(machine, number: null, change));
        output.NewScreen();
        new Repair(output, logbook).Run(machine, diagnosis, RepairTerms.Usual, new MendView(output));
    }

    private void TakeRepairBack() => UndoCommand.Run(output, logbook, new UndoRequest(disk!, []));
}
