using Keel.Cli.Terminal;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Cli.Commands;

/// <summary>The technician that a repair is agreed with: asked at the terminal, or heard beforehand with --yes.</summary>
/// <param name="output">Where the questions are asked.</param>
/// <param name="undo">The command that takes the repair back.</param>
internal sealed class Technician(Output output, string undo) : IRepairPartner
{
    public bool Yes { get; init; }

    /// <summary>What the machine noted of its disk; null where that is nothing.</summary>
    public string? DiskTrouble { get; init; }

    /// <summary>Shows a plan that was made anew, because a step of it was declined.</summary>
    public Action<Plan> ShowAgain { get; init; } = _ => { };

    /// <summary>Shows what one step on the firmware's variables changes.</summary>
    public Action ShowChanges { get; init; } = () => { };

    /// <summary>For which steps that are agreed to by themselves --yes holds too.</summary>
    public IReadOnlyCollection<StepConsent> Named { get; init; } = [];

    /// <summary>The folder of the logbook, where it is kept in memory; null where it is not.</summary>
    public string? MemoryLogbook { get; init; }

    /// <summary>What the plan means for encrypted volumes.</summary>
    public IReadOnlyList<RecoveryPrompt> RecoveryPrompts { get; init; } = [];

    public void AgreeToDisk(Machine machine)
    {
        var open = RecoveryPrompts.Where(prompt => prompt is { Effect: not PromptEffect.None, IsKeyAtHand: false });
        if (open.FirstOrDefault() is { } prompt)
        {
            new Consent(output, Yes).Agree(
                "Is the recovery key at hand?",
                () => output.Message(Wording.EncryptionWords.Of(prompt)));
        }

        if (machine.Disks.FirstOrDefault(disk => disk.ReadErrors.Any) is { } failing)
        {
            new Consent(output, Yes).Agree(
                $"{output.Escape(failing.Path)} has read errors: make an image of it before anything else. "
                    + "Write to it nevertheless?",
                () => output.Message($"Sectors that can't be read: {string.Join(", ", failing.ReadErrors.Sectors.Take(20))}"));
        }
        else if (DiskTrouble is { } trouble)
        {
            new Consent(output, Yes).Agree(
                "The machine noted errors of its disk: make an image first. Write to it nevertheless?",
                () => output.Message(trouble));
        }
    }

    public Plan Agree(Plan plan) => new Consent(output, Yes, Named).Agree(plan, ShowAgain);

    public void Agree(Step step) => new Consent(output, Yes).Agree("Write it to the firmware's variables?", ShowChanges);

    public string Words(Step step) => Wording.Words.Of(step.Summary);

    /// <summary>Says what is on its way; an interruption waits for the end.</summary>
    public RepairRecord? While(Func<RepairRecord?> writing)
    {
        if (MemoryLogbook is { } folder)
        {
            output.Message($"Note: the logbook in {folder} is kept in memory, and gone after a restart. With --logbook "
                + "you can name a folder on another disk.");
        }

        try
        {
            output.IsWriting = true;
            var record = output.Working("saving the way back, and writing", writing);
            if (record is not null)
            {
                output.Written =
                    $"The repair itself is written, read back, and saved as {record.Document.Id}; '{undo}' takes it back.";
            }

            return record;
        }
        finally
        {
            output.IsWriting = false;
        }
    }
}
