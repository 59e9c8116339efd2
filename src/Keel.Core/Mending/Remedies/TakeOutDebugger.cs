using Keel.Core.Chain;
using Keel.Core.Chain.Checks.Session;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>Lets Windows start a program of its own again, which it hands to another one.</summary>
internal sealed class TakeOutDebugger : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [StartDebuggers.OnStart, StartDebuggers.OnSignIn];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (StartedWindows.Of(machine).Windows is not { } windows || finding.Seen.Facts.Get(Fact.Title) is not { } program)
            return Attempt.Refused("windows-not-reached");
        if (RegistryChanges.WhyNot(windows.Files, windows.SoftwareHivePath) is { } why)
            return Attempt.Refused("hive-not-changed", Fact.Reason.Is(why));
        var key = $@"{StartDebuggers.OptionsKey}\{program}";
        windows.Volume.Edit(files => RegistryChanges.Remove(files, windows.SoftwareHivePath, key, StartDebuggers.Value));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.take-out-debugger", Fact.Title.Is(program)),
            Remark.Of(
                "line.hive-value-out",
                Fact.Path.Is(windows.SoftwareHivePath),
                Fact.Volume.Is(windows.Volume.Ref),
                Fact.Setting.Is($@"{key}\{StartDebuggers.Value}"),
                Fact.Before.Is(finding.Seen.Facts.Get(Fact.Said) ?? ""))));
    }
}
