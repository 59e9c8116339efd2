using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Takes attributes off boot files that hide or lock them.</summary>
internal sealed class CorrectMarks : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [ManagerFileCheck.HiddenLocked];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var system = machine.SystemVolume!;
        var lines = new List<Remark>();
        system.Edit(files =>
        {
            foreach (var (path, wrong) in ManagerFileCheck.MarksThatHinder(machine))
            {
                if (files.Find(path) is not { } file || (file.Marks & wrong) == FileMarks.None) continue;
                var usual = machine.Firmware == FirmwareKind.Uefi
                    ? file.Marks & ~(wrong | FileMarks.System)
                    : file.Marks & ~wrong;
                files.SetMarks(path, usual);
                lines.Add(Remark.Of(
                    "line.attributes-of",
                    Fact.Path.Is(path),
                    Fact.Volume.Is(system.Ref),
                    Fact.Before.Is(FileMarksText.Words(file.Marks & FileMarks.Changeable)),
                    Fact.After.Is(FileMarksText.Words(usual & FileMarks.Changeable))));
            }
        });
        return Attempt.Done(new Step(finding.Link, finding.Id, Remark.Of("step.correct-attributes"), lines));
    }
}
