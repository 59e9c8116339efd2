using Keel.Core.Chain;
using Keel.Core.Chain.Checks.Session;
using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Gives the Windows volume the letter by which Windows calls itself; the volume that had it gets that of Windows, where it had
/// one.
/// </summary>
internal sealed class CorrectLetter : IRemedy
{
    private const string Key = "MountedDevices", Prefix = @"\DosDevices\";

    public IReadOnlyList<FindingKind> Mends => [WindowsLetter.Elsewhere];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (StartedWindows.Of(machine).Windows is not { } windows || machine.SystemHive is not { Root: { } root })
            return Attempt.Refused("hive-first");
        if (RegistryChanges.WhyNot(windows.Files, windows.SystemHivePath) is { } why)
            return Attempt.Refused("hive-not-changed", Fact.Reason.Is(why));
        var facts = finding.Seen.Facts;
        if (facts.Get(Fact.Title) is not { } own
            || facts.Get(Fact.OtherTitle) is not { } given
            || Data(root, own) is not { } theirs
            || Data(root, given) is not { } ours)
        {
            return Attempt.Refused("letter-by-hand");
        }

        windows.Volume.Edit(files =>
        {
            RegistryChanges.SetData(files, windows.SystemHivePath, Key, Prefix + own, ours);
            RegistryChanges.SetData(files, windows.SystemHivePath, Key, Prefix + given, theirs);
        });
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.correct-letter", Fact.Title.Is(own), Fact.Volume.Is(windows.Volume.Ref)),
            Remark.Of("line.letters-change", Fact.Title.Is(own), Fact.OtherTitle.Is(given), Fact.Volume.Is(windows.Volume.Ref))));
    }

    private static byte[]? Data(HiveKey root, string letter) => root.Find(Key)?.Value(Prefix + letter)?.Data;
}
