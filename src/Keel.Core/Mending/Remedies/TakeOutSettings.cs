using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Takes settings out of the started entry that stop or cripple a start. Somebody put them there, so it is asked about.
/// </summary>
internal sealed class TakeOutSettings : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        EntrySettingsCheck.SafeStart,
        EntrySettingsCheck.MemoryWithheld,
        EntrySettingsCheck.Debugger,
        EntrySettingsCheck.LastGood,
        EntrySettingsCheck.NamedFileMissing,
        RecoveryPromptCauses.Settings,
        ManagerEntryCheck.OnceDangling
    ];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms) => StoreRemedy.Apply(machine, finding, store =>
    {
        if (finding.Kind == ManagerEntryCheck.OnceDangling)
        {
            store.Manager?.Remove(Element.OnceOnly);
            return Remark.Of("step.drop-once-only");
        }

        if (store.Started is not { } entry) return null;
        var elements = finding.Kind == EntrySettingsCheck.NamedFileMissing ? EntrySettingsCheck.NamesNothing(machine, entry)
            : finding.Kind == RecoveryPromptCauses.Settings ? RecoveryPromptCauses.SettingsOf(entry)
            : EntrySettingsCheck.SettingsOf(finding.Kind, entry);
        foreach (var element in elements) entry.Remove(element);
        return elements.Count == 0
            ? null
            : Remark.Of(
                "step.take-out-settings",
                Fact.Settings.Is(EntrySettingsCheck.NamesOf(elements)),
                Fact.Title.Is(entry.Title ?? ""));
    });
}
