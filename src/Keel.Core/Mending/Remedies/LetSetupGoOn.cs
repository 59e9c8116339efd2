using Keel.Core.Chain;
using Keel.Core.Chain.Checks.Session;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Lets a setup go on that was marked as begun and not come back, so that it refuses every start.</summary>
internal sealed class LetSetupGoOn : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [SetupState.CantGoOn];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (StartedWindows.Of(machine).Windows is not { } windows || machine.SystemHive is not { Root: { } root })
            return Attempt.Refused("hive-first");
        if (RegistryChanges.WhyNot(windows.Files, windows.SystemHivePath) is { } why)
            return Attempt.Refused("hive-not-changed", Fact.Reason.Is(why));
        if (root.Find(SetupState.PartsKey)?.PlaceOfNumber(SetupState.SetupPart) is not { } place)
            return Attempt.Refused("nothing-says");
        windows.Volume.Edit(files => files.Patch(windows.SystemHivePath, place, BitConverter.GetBytes(SetupState.MayGoOn)));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.let-setup-go-on"),
            Remark.Of(
                "line.hive-number",
                Fact.Path.Is(windows.SystemHivePath),
                Fact.Volume.Is(windows.Volume.Ref),
                Fact.Setting.Is($@"{SetupState.PartsKey}\{SetupState.SetupPart}"),
                Fact.NumberBefore.Is(SetupState.Begun),
                Fact.NumberAfter.Is(SetupState.MayGoOn))));
    }
}
