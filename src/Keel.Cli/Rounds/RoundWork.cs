using System.Diagnostics;
using System.Runtime.InteropServices;
using System.Text.Json;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Keys;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Cli.Rounds;

/// <summary>The work of one of a round's processes: a path comes in, a line goes out.</summary>
/// <param name="logbook">Where repairs are saved.</param>
/// <param name="mendsSafely">Whether plans that lose nothing are carried out.</param>
/// <param name="keys">What opens encrypted volumes.</param>
/// <param name="clock">What time it is.</param>
internal sealed class RoundWork(RepairLogbook logbook, bool mendsSafely, KeyRing keys, TimeProvider clock)
{
    private const string Unreadable = "unreadable";

    /// <summary>Until no more paths come. Ctrl-C is for the process that gives them: a repair is never left halfway.</summary>
    public void Run(TextReader paths, TextWriter lines)
    {
        using var interrupts = PosixSignalRegistration.Create(PosixSignal.SIGINT, context => context.Cancel = true);
        while (paths.ReadLine() is { } path)
        {
            var target = JsonSerializer.Deserialize(path, KeelJsonLines.Default.String)!;
            lines.Write(JsonSerializer.Serialize(Of(target), KeelJsonLines.Default.RoundLineDocument) + "\n");
            lines.Flush();
        }
    }

    /// <summary>One target.</summary>
    public RoundLineDocument Of(string target)
    {
        var (started, time) = (clock.GetUtcNow(), Stopwatch.GetTimestamp());
        RoundLineDocument line;
        try
        {
            line = Look(target);
        }
        catch (KeelException e)
        {
            line = Problem(target, $"{e.What} {e.Why}");
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            line = Problem(target, $"keel met something that it was not made for ({e.GetType().Name}).");
        }

        return line with { At = started, Milliseconds = (long)Stopwatch.GetElapsedTime(time).TotalMilliseconds };
    }

    /// <summary>The line of a target that could not be looked at.</summary>
    public static RoundLineDocument Problem(string target, string problem) => new(target, Unreadable) { Problem = problem };

    private RoundLineDocument Look(string target)
    {
        using var machine = Machine.Open(
            [target],
            variables: null,
            startsThrough: null,
            terms: DiskTerms.Usual with { Keys = keys });
        var diagnosis = Diagnosis.Of(machine, reported: null, RepairTerms.Usual);
        var plan = diagnosis.Plan;
        var line = new RoundLineDocument(target, ToDocument.Word(plan.Before.Verdict))
        {
            Firmware = ToDocument.Word(plan.Before.Firmware),
            Scheme = ToDocument.Word(machine.StartDisk.Layout.Scheme),
            Form = machine.StartDisk.Form is { } form ? ToDocument.Word(form) : null,
            Identity = $"{machine.StartDisk.IdentityNow}",
            Size = machine.StartDisk.Overlay.LengthBytes,
            Windows = [.. machine.Installations.Select(found => $"{found.Product} {found.Build}")],
            StopsAt = plan.Before.StopsAt?.Id(),
            Screen = plan.Before.ShownCode,
            Findings = [.. plan.Findings.Where(one => one.Kind.Severity != Severity.Note).Select(one => one.Id).Distinct()],
            Left = [.. plan.Refused.Select(one => one.FindingId).Distinct()],
            Steps = plan.Steps.Count,
            AfterPlan = ToDocument.Word(plan.After.Verdict),
            IsSafe = SafePlan.Holds(machine, plan)
        };
        return mendsSafely && line.IsSafe ? Mend(machine, plan, line) : line;
    }

    private RoundLineDocument Mend(Machine machine, Plan plan, RoundLineDocument line)
    {
        try
        {
            var run = new RepairRun(logbook, clock, ProgramVersion.Text);
            if (run.CutOff(machine) is { } cutOff)
                return line with { Problem = $"Repair {cutOff.Record.Document.Id} of it was cut off: nothing more was written." };
            var (_, record) = run.Carry(machine, plan, new SafeRule(machine));
            using var mended = machine.OpenAgain();
            var now = Walk.Of(mended).Verdict;
            return line with { Record = record?.Document.Id, AfterMend = ToDocument.Word(now) };
        }
        catch (KeelException e)
        {
            return line with { Problem = $"{e.What} {e.Why}" };
        }
    }
}
