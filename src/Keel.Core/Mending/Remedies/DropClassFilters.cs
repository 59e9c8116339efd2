using System.Text;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Takes the names of drivers that are not there out of the lists of class filters; asked, for they had a purpose.
/// </summary>
internal sealed class DropClassFilters : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [ClassFilters.OfDisk, ClassFilters.OfInput];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (StartedWindows.Of(machine).Windows is not { } windows || machine.SystemHive is not { ControlSet: not null } hive)
            return Attempt.Refused("hive-first");
        if (RegistryChanges.WhyNot(windows.Files, windows.SystemHivePath) is { } why)
            return Attempt.Refused("hive-not-changed", Fact.Reason.Is(why));
        var wrong = ClassFilters.Wrong(windows, hive).Where(list => list.Kind == finding.Kind).ToList();
        windows.Volume.Edit(files =>
        {
            foreach (var list in wrong)
            {
                var rest = list.Names.Except(list.Gone, StringComparer.OrdinalIgnoreCase).ToList();
                if (rest.Count == 0) RegistryChanges.Remove(files, windows.SystemHivePath, list.Key, list.Value);
                else RegistryChanges.SetData(files, windows.SystemHivePath, list.Key, list.Value, Data(rest));
            }
        });
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.drop-class-filters", Fact.Names.Is([.. wrong.SelectMany(list => list.Gone).Distinct()])),
            [.. wrong.Select(list => Remark.Of(
                "line.class-filter-out",
                Fact.Names.Is(list.Gone),
                Fact.Setting.Is($@"{list.Key}\{list.Value}")))]));
    }

    private static byte[] Data(IReadOnlyList<string> names) => Encoding.Unicode.GetBytes(string.Join('\0', names) + "\0\0");
}
