using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Facts;
using Keel.Core.History;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Volumes;
using Keel.Core.Volumes.BitLocker;

namespace Keel.Cli.Views.Json;

/// <summary>Turns results into the documents of docs/json.md.</summary>
internal static class ToDocument
{
    public static string Word(Enum value) => value.ToString().ToLowerInvariant();

    public static SurveyDocument Survey(Machine machine, string? cutOff)
    {
        machine.Inside.FindAll();
        return new SurveyDocument(
            Word(machine.Firmware),
            Words.Of(machine.FirmwareReason),
            machine.SystemVolume?.Number,
            [.. machine.Disks.Select(disk => Disk(machine, disk))],
            cutOff,
            machine.SecureBoot.IsOn,
            [
                .. RecoveryPlaces.Of(machine).Select(image => new RecoveryDocument(
                    image.Volume.DiskPath,
                    image.Volume.Number,
                    image.File,
                    image.Settings.IsOff))
            ],
            Words.Of(machine.SystemVolumeReason),
            machine.Nt5Evidence is { } evidence ? Words.Of(evidence) : null);
    }

    public static DiagnoseDocument Diagnose(Diagnosis diagnosis, string? cutOff = null)
    {
        var plan = diagnosis.Plan;
        return new DiagnoseDocument(
            Word(plan.Before.Verdict),
            Word(plan.Before.Firmware),
            plan.Before.StopsAt?.Id(),
            diagnosis.Shown?.Id,
            [.. plan.Before.Links.Select(link =>
                new LinkDocument(link.Link.Id(), Word(link.Status), Words.Of(link.Detail), FactsJson.Of(link.Detail.Facts)))],
            [.. plan.Findings.Select(Finding)],
            [.. diagnosis.Installations.Select(found =>
                new ListedDocument(
                    found.Installation.Folder,
                    found.Installation.Volume.Number,
                    found.Installation.Product,
                    found.Installation.Build,
                    found.Listed))],
            [.. plan.Steps.Select(Step)],
            [.. plan.Refused.Select(Refusal)],
            Word(plan.After.Verdict),
            diagnosis.Noted is null ? Reported(diagnosis) : null,
            [.. (diagnosis.Memory?.Traces ?? []).Select(OfTrace)],
            diagnosis.Memory is { } memory ? HistoryToDocument.Judgement(memory.History) : null,
            diagnosis.Noted is null ? null : Reported(diagnosis),
            cutOff,
            [.. diagnosis.RecoveryPrompts.Select(Warning)]);
    }

    private static WarningDocument Warning(RecoveryPrompt prompt) => new(
        "recovery-prompt",
        Word(prompt.Effect),
        prompt.Volume.DiskPath,
        prompt.Volume.Number,
        prompt.Steps,
        prompt.RecoveryKeys,
        EncryptionWords.Of(prompt));

    private static ReportedDocument? Reported(Diagnosis diagnosis) => diagnosis.Reported is { } reported
        ? new ReportedDocument(
            reported.Input,
            reported.Errors.Select(error => error.Id).FirstOrDefault(),
            reported.Guessed,
            Word(diagnosis.Fit),
            [.. diagnosis.ExplainedBy.Select(finding => finding.Id)],
            diagnosis.LookElsewhere)
        : null;

    public static MendDocument Mend(Diagnosis diagnosis, RepairRecord? record, Diagnosis? after)
    {
        var d = Diagnose(diagnosis);
        return new MendDocument(
            after is null ? d.Verdict : Word(after.Plan.Before.Verdict),
            d.Verdict,
            d.Firmware,
            d.StopsAt,
            d.Screen,
            d.Links,
            d.Findings,
            d.Installations,
            d.Plan,
            d.Left,
            d.VerdictAfterPlan,
            d.Reported,
            d.History,
            d.Memory,
            d.Noted,
            record?.Document.Id,
            after is null ? null : Diagnose(after),
            diagnosis.Plan.Changes.ChangedBytes,
            diagnosis.Plan.Changes.RecordBytes,
            d.Warnings);
    }

    public static RecordSummary Record(RepairRecord record) => new(
        record.Document.Id,
        record.Document.Written,
        Word(record.State),
        [.. record.Document.Disks.Select(disk =>
            new RecordedDiskDocument(
                disk.Path,
                disk.IdentityAfter,
                disk.LengthBytes,
                disk.Ranges.Count,
                disk.Ranges.Sum(range => (long)range.Length)))],
        [.. record.Document.Steps.Select(step => new RecordedStepDocument(step.Link, step.Finding, step.Summary))],
        record.Document.TakesBack);

    public static TwinRecordDocument Twin(RepairRecord record) =>
        new(record.Document.Id, [.. record.Document.Disks.Select(disk => disk.Path)]);

    public static UnusableRecordDocument Unusable(UnusableRecord record) => new(record.Id, record.IsNewer, record.Why);

    public static FindingDocument Finding(Finding finding) =>
        new(
            finding.Id,
            finding.Link.Id(),
            Word(finding.Kind.Severity),
            finding.Kind.What,
            Words.Of(finding.Seen),
            finding.Kind.Shows,
            FactsJson.Of(finding.Seen.Facts));

    private static StepDocument Step(Step step, int index) => new(
        index + 1,
        step.Link.Id(),
        step.FindingId,
        Words.Of(step.Summary),
        [.. step.Details.Select(detail => Words.Of(detail.Says))],
        step.Summary.Id,
        FactsJson.Of(step.Summary.Facts),
        [.. step.Details.Select(Line)]);

    private static LineDocument Line(StepDetail detail) =>
        new(detail.Says.Id, Words.Of(detail.Says), FactsJson.Of(detail.Says.Facts))
        {
            Loss = detail.Loss == Loss.None ? null : detail.Loss.ToString().ToLowerInvariant()
        };

    private static RefusalDocument Refusal(Refusal refusal) => new(
        refusal.FindingId,
        refusal.Link.Id(),
        Words.Of(refusal.Why),
        Words.Todo(refusal.Why),
        refusal.Why.Id,
        FactsJson.Of(refusal.Why.Facts));

    public static IReadOnlyList<string> Marks(FileMarks marks) =>
        (marks & ~FileMarks.Folder) == FileMarks.None ? [] : FileMarksText.Words(marks & ~FileMarks.Folder).Split(", ");

    public static FilesDocument Files(BootFileList list) => new(
        [.. list.Lines.Select(line =>
            new FileDocument(
                line.Volume.Number,
                line.Path,
                line.Role,
                line.File is not null,
                line.File?.SizeBytes,
                line.File is null ? null : Marks(line.File.Marks),
                line.Version?.ToString(),
                line.IsNeeded,
                [.. line.Problems.Select(Words.Of)],
                [.. line.Problems.Select(OfRemark)]))],
        list.OthersSound);

    private static RemarkDocument OfRemark(Remark remark) => new(remark.Id, Words.Of(remark), FactsJson.Of(remark.Facts));

    private static TraceDocument OfTrace(HistoryItem trace) => new(
        trace.Source,
        trace.Time,
        Words.Of(trace.Says),
        trace.Says.Id,
        FactsJson.Of(trace.Says.Facts));

    public static FirmwareDocument Firmware(Machine machine, IReadOnlyList<StartEntry> entries) => new(
        machine.Variables!.Folder,
        machine.Variables.Next,
        machine.Variables.Current,
        [.. entries.Select(entry =>
            new StartEntryDocument(
                entry.Name,
                entry.Place,
                entry.Title,
                entry.Option?.IsActive ?? false,
                entry.Describe(),
                entry.Volume?.Number,
                Word(entry.Target)))],
        Done: null,
        Record: null);

    public static FileCheckDocument FileCheck(FileCheckResult result) => new(
        Word(result.Scope),
        result.Installation.Volume.DiskPath,
        result.Installation.Volume.Number,
        result.Installation.Folder,
        result.Catalogs,
        result.Files.Count,
        result.Differences,
        [.. result.Files.Select(file => new CheckedFileDocument(
            file.Path,
            Word(file.Verdict),
            file.SizeBytes,
            file.Version?.ToString(),
            file.Written,
            file.Signer?.Name,
            file.Signer?.IsMicrosofts,
            file.Catalog,
            file.Why is { } why ? Words.Of(why) : null,
            file.Copy is { } copy
                ? new SignedCopyDocument(
                    copy.Source,
                    copy.Version?.ToString(),
                    copy.Signer.Name,
                    copy.DifferingBytes,
                    copy.IsSameVersion)
                : null))]);

    private static DiskDocument Disk(Machine machine, MachineDisk disk) => new(
        disk.Path,
        disk.Overlay.LengthBytes,
        disk.Layout.SectorBytes,
        Word(disk.Layout.Scheme),
        disk.Layout.Identity.ToString(),
        [.. disk.Volumes.Select(volume => Partition(machine, volume))],
        disk.Form is { } form ? Word(form) : null,
        disk.Inside?.Place.ToString(),
        [.. disk.Layout.Problems.Select(problem => Words.Of(problem.Seen))]);

    private static PartitionDocument Partition(Machine machine, DiskVolume volume) => new(
        volume.Number,
        volume.Partition.Range.Start,
        volume.Partition.Range.Length,
        volume.Partition.TypeName,
        volume.Partition.Active,
        FileSystemProbe.Name(volume.Kind),
        volume.Files?.Label ?? "",
        [.. VolumeRoles.Of(machine, volume).Select(role => Word(role))],
        machine.Letters?.LetterOf(volume),
        [.. machine.Installations
            .Where(installation => installation.Volume == volume)
            .Select(installation => new InstallationDocument(installation.Folder, installation.Product, installation.Build))],
        volume.FilesProblem is { } problem ? $"{problem.What} {problem.Why}" : null,
        volume.Encryption is { } encryption ? Encryption(volume, encryption) : null);

    private static EncryptionDocument Encryption(DiskVolume volume, EncryptionFacts facts) => new(
        facts.Method,
        Word(facts.State),
        facts.Since,
        facts.Description,
        facts.IsToGo,
        facts.WholeBlocks,
        [.. facts.Protectors.Select(one => new ProtectorDocument($"{one.Id}", Word(one.Kind), one.LookUp, one.Added))],
        volume.IsUnlocked,
        volume.OpenedProtector is { } opened ? $"{opened.Id}" : null,
        EncryptionWords.Line(volume));
}
