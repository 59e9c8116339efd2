#pragma warning disable MA0048 // one file for the documents of docs/json.md, which are read together
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Keel.Core.Chain;
using Keel.Core.Codes;
using Keel.Core.Disks;
using Keel.Core.Layout;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Programs;
using Keel.Core.Requests;
using Keel.Core.Volumes.BitLocker;
using Keel.Core.Windows.Updates;

namespace Keel.Cli.Views.Json;

internal sealed record ExplainDocument(
    string Input,
    bool Guessed,
    IReadOnlyList<StartupError> Errors,
    IReadOnlyList<KindDocument> Findings);

internal sealed record KindDocument(
    string Id,
    string Link,
    [property: OneOf(typeof(Severity))] string Severity,
    string What,
    IReadOnlyList<string> Shows,
    bool Mended);

internal sealed record SurveyDocument(
    [property: OneOf(typeof(FirmwareKind))] string Firmware,
    string FirmwareReason,
    int? SystemVolume,
    IReadOnlyList<DiskDocument> Disks,
    string? CutOff,
    bool? SecureBoot,
    IReadOnlyList<RecoveryDocument> Recovery,
    string SystemVolumeReason,
    string? Nt5);

internal sealed record BootIniDocument(int? Wait, string? Default, IReadOnlyList<BootLineDocument> Lines);

internal sealed record BootLineDocument(
    int Number,
    string Target,
    string? Title,
    string Switches,
    bool Preferred,
    string? Disk,
    int? Volume,
    string? Folder,
    string? Problem);

internal sealed record BootIniCheckDocument(bool Sound, string Seen, IReadOnlyList<BootLineDocument> Wrong);

internal sealed record FileCheckDocument(
    [property: OneOf(typeof(FileScope))] string Scope,
    string Disk,
    int Volume,
    string Folder,
    int Catalogs,
    int Checked,
    int Differences,
    IReadOnlyList<CheckedFileDocument> Files);

internal sealed record CheckedFileDocument(
    string Path,
    [property: OneOf(typeof(FileVerdict))] string Verdict,
    long Size,
    string? Version,
    DateTimeOffset? Written,
    string? Signer,
    bool? Microsofts,
    string? Catalog,
    string? Why,
    SignedCopyDocument? Copy);

internal sealed record SignedCopyDocument(
    string Source,
    string? Version,
    string Signer,
    long DifferingBytes,
    bool SameVersion);

internal sealed record FoldersDocument(IReadOnlyList<FolderDocument> Folders);

internal sealed record FolderDocument(
    string Disk,
    int Volume,
    IReadOnlyList<string> Roles,
    string Folder,
    IReadOnlyList<FolderFileDocument> Files,
    DateTimeOffset? Snapshot = null);

internal sealed record FolderFileDocument(
    string Name,
    bool IsFolder,
    long Size,
    DateTimeOffset? Time,
    string Attributes,
    string? Version);

internal sealed record SnapshotsDocument(IReadOnlyList<SnapshotVolumeDocument> Volumes);

internal sealed record SnapshotVolumeDocument(
    string Disk,
    int Volume,
    IReadOnlyList<SnapshotDocument> Snapshots,
    string? Problem);

internal sealed record SnapshotDocument(int Number, DateTimeOffset Made, string Cause, string Id, long VolumeBytes);

internal sealed record TakenDocument(string Target, int Files, long Bytes, IReadOnlyList<string> LeftOut);

internal sealed record ProgramsDocument(IReadOnlyList<ProgramDocument> Programs);

internal sealed record ProgramDocument(
    int Number,
    string Name,
    string Place,
    string Container,
    string Key,
    string? User,
    string Command,
    bool On,
    bool OffByWindows,
    string? File,
    bool? IsThere,
    string? Company,
    DateTimeOffset? Written,
    string? Signer,
    bool SignatureBroken);

internal sealed record RecoveryDocument(string Disk, int Volume, string File, bool Off);

internal sealed record DiskDocument(
    string Path,
    long Size,
    int SectorSize,
    [property: OneOf(typeof(PartitionScheme))] string Scheme,
    string Identity,
    IReadOnlyList<PartitionDocument> Partitions,
    [property: OneOf(typeof(DiskForm))] string? Form,
    string? Inside,
    IReadOnlyList<string> Problems);

internal sealed record PartitionDocument(
    int Number,
    long Start,
    long Size,
    string Type,
    bool Active,
    string FileSystem,
    string Label,
    IReadOnlyList<string> Roles,
    string? WindowsLetter,
    IReadOnlyList<InstallationDocument> Installations,
    string? Unreadable,
    EncryptionDocument? Encryption);

internal sealed record EncryptionDocument(
    string? Method,
    [property: OneOf(typeof(EncryptionState))] string State,
    DateTimeOffset? Since,
    string Description,
    bool ToGo,
    IReadOnlyList<int> WholeBlocks,
    IReadOnlyList<ProtectorDocument> Protectors,
    bool Unlocked,
    string? OpenedBy,
    string Says);

internal sealed record ProtectorDocument(
    string Id,
    [property: OneOf(typeof(ProtectorKind))] string Kind,
    string LookUp,
    DateTimeOffset? Added);

internal sealed record InstallationDocument(string Folder, string Product, int Build);

internal sealed record LinkDocument(
    string Link,
    [property: OneOf(typeof(LinkStatus))] string Status,
    string Detail,
    JsonObject Facts);

internal sealed record FindingDocument(
    string Id,
    string Link,
    [property: OneOf(typeof(Severity))] string Severity,
    string Summary,
    string Evidence,
    IReadOnlyList<string> Shows,
    JsonObject Facts);

internal sealed record StepDocument(
    int Step,
    string Link,
    string Finding,
    string Summary,
    IReadOnlyList<string> Details,
    string Kind,
    JsonObject Facts,
    IReadOnlyList<LineDocument> Lines);

internal sealed record LineDocument(string Kind, string Text, JsonObject Facts)
{
    /// <summary>files, settings or session, where the line says that such are lost; not written otherwise.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public string? Loss { get; init; }
}

internal sealed record RefusalDocument(string Finding, string Link, string Why, string Todo, string Reason, JsonObject Facts);

internal sealed record ReportedDocument(
    string Input,
    string? Code,
    bool Guessed,
    [property: OneOf(typeof(CodeFit))] string Fit,
    IReadOnlyList<string> ExplainedBy,
    IReadOnlyList<string> LookElsewhere);

internal sealed record ListedDocument(string Folder, int Volume, string Product, int Build, bool Listed);

internal sealed record DiagnoseDocument(
    [property: OneOf(typeof(Verdict))] string Verdict,
    [property: OneOf(typeof(FirmwareKind))] string Firmware,
    string? StopsAt,
    string? Screen,
    IReadOnlyList<LinkDocument> Links,
    IReadOnlyList<FindingDocument> Findings,
    IReadOnlyList<ListedDocument> Installations,
    IReadOnlyList<StepDocument> Plan,
    IReadOnlyList<RefusalDocument> Left,
    [property: OneOf(typeof(Verdict))] string VerdictAfterPlan,
    ReportedDocument? Reported,
    IReadOnlyList<TraceDocument> History,
    JudgementDocument? Memory,
    ReportedDocument? Noted,
    string? CutOff,
    IReadOnlyList<WarningDocument> Warnings);

/// <summary>What is to be known before a plan is carried out.</summary>
internal sealed record WarningDocument(
    string Kind,
    [property: OneOf(typeof(PromptEffect))] string Effect,
    string Disk,
    int Volume,
    IReadOnlyList<int> Steps,
    IReadOnlyList<string> RecoveryKeys,
    string Text);

internal sealed record MendDocument(
    [property: OneOf(typeof(Verdict))] string Verdict,
    [property: OneOf(typeof(Verdict))] string VerdictBefore,
    [property: OneOf(typeof(FirmwareKind))] string Firmware,
    string? StopsAt,
    string? Screen,
    IReadOnlyList<LinkDocument> Links,
    IReadOnlyList<FindingDocument> Findings,
    IReadOnlyList<ListedDocument> Installations,
    IReadOnlyList<StepDocument> Plan,
    IReadOnlyList<RefusalDocument> Left,
    [property: OneOf(typeof(Verdict))] string VerdictAfterPlan,
    ReportedDocument? Reported,
    IReadOnlyList<TraceDocument> History,
    JudgementDocument? Memory,
    ReportedDocument? Noted,
    string? Record,
    DiagnoseDocument? After,
    long ChangedBytes,
    long RecordBytes,
    IReadOnlyList<WarningDocument> Warnings);

/// <summary>A report: what the pages of 'keel report' are made from.</summary>
internal sealed record ReportDocument(
    DateTimeOffset Made,
    string Program,
    string? Ticket,
    [property: OneOf(typeof(Verdict))] string Verdict,
    IReadOnlyList<string> ForCustomer,
    SurveyDocument Machine,
    DiagnoseDocument Before,
    DiagnoseDocument? After,
    ReportCodeDocument? Reported,
    ReportCodeDocument? Screen,
    IReadOnlyList<ReportLinkDocument> Chain,
    IReadOnlyList<ReportRepairDocument> Repairs,
    IReadOnlyList<ReportMomentDocument> History,
    IReadOnlyList<string> Remaining,
    string UndoCommand,
    string MendCommand);

/// <summary>What a round found of one target; a line of its file.</summary>
internal sealed record RoundLineDocument(
    string Target,
    [property: OneOf(typeof(Verdict))] string Verdict,
    string? Firmware = null,
    string? Scheme = null,
    string? Form = null,
    string? Identity = null,
    long? Size = null,
    IReadOnlyList<string>? Windows = null,
    string? StopsAt = null,
    string? Screen = null,
    IReadOnlyList<string>? Findings = null,
    IReadOnlyList<string>? Left = null,
    int Steps = 0,
    string? AfterPlan = null,
    bool IsSafe = false,
    string? Record = null,
    string? AfterMend = null,
    string? Problem = null,
    DateTimeOffset At = default,
    long Milliseconds = 0);

internal sealed record RoundDocument(
    string File,
    int Targets,
    int DoneBefore,
    int DoneNow,
    bool Stopped,
    IReadOnlyDictionary<string, int> Verdicts);

internal sealed record TallyDocument(
    int Targets,
    IReadOnlyDictionary<string, int> Verdicts,
    IReadOnlyDictionary<string, int> Findings,
    IReadOnlyDictionary<string, int> Screens,
    IReadOnlyDictionary<string, int> StopsAt,
    int Mended,
    int Mendable);

internal sealed record ReportCodeDocument(
    string Input,
    string? Code,
    string? Name,
    string? Meaning,
    IReadOnlyList<string> Causes);

internal sealed record ReportLinkDocument(
    string Link,
    string Part,
    string Before,
    string Seen,
    string? After,
    string? SeenAfter,
    bool Stopped,
    bool Mended);

internal sealed record ReportRepairDocument(
    string Id,
    DateTimeOffset Written,
    [property: OneOf(typeof(RecordState))] string State,
    string Program,
    string? TakesBack,
    IReadOnlyList<RecordedStepDocument> Steps,
    IReadOnlyList<RecordedDiskDocument> Disks);

internal sealed record ReportMomentDocument(DateTimeOffset? Time, string Says, string Source);

internal sealed record LogbookDocument(
    string Folder,
    IReadOnlyList<RecordSummary> Records,
    IReadOnlyList<UnusableRecordDocument> Unusable,
    IReadOnlyList<string> FromElsewhere,
    IReadOnlyList<TwinRecordDocument> Twins);

internal sealed record TwinRecordDocument(string Id, IReadOnlyList<string> Paths);

internal sealed record UnusableRecordDocument(string Id, bool Newer, string Why);

internal sealed record RecordSummary(
    string Id,
    DateTimeOffset Written,
    [property: OneOf(typeof(RecordState))] string State,
    IReadOnlyList<RecordedDiskDocument> Disks,
    IReadOnlyList<RecordedStepDocument> Steps,
    string? TakesBack);

internal sealed record RecordedDiskDocument(string Path, string Identity, long Size, int Ranges, long Bytes);

internal sealed record RecordedStepDocument(string Link, string Finding, string Summary);

internal sealed record DrillListDocument(IReadOnlyList<DrillDocument> Drills);

internal sealed record DrillDocument(
    string Ticket,
    string Caller,
    string Words,
    IReadOnlyList<string> Firmware,
    string? Fault,
    string? Path,
    string? Variables);

internal sealed record MbrDocument(
    string Path,
    string Signature,
    bool Mark,
    string CodeOwner,
    string Code,
    IReadOnlyList<SlotDocument> Slots,
    IReadOnlyList<FindingDocument> Findings);

internal sealed record SlotDocument(int Number, bool Active, int Type, string TypeName, long FirstSector, long Sectors);

internal sealed record LayoutDocument(
    string Path,
    long Size,
    int SectorSize,
    [property: OneOf(typeof(PartitionScheme))] string Scheme,
    string Identity,
    bool Thorough,
    IReadOnlyList<LayoutAreaDocument> Areas,
    IReadOnlyList<TableCopyDocument> Copies,
    IReadOnlyList<FindingDocument> Findings);

internal sealed record LayoutAreaDocument(
    string Kind,
    long FirstSector,
    long Sectors,
    int? Partition,
    string? Type,
    string? FileSystem,
    string? Label,
    bool Active,
    bool Logical,
    IReadOnlyList<string> Evidence,
    bool? Certain);

internal sealed record TableCopyDocument(
    string Place,
    long Sector,
    bool Sound,
    string? Problem,
    string? Identity,
    int? Partitions,
    long? FirstUsableSector,
    long? LastUsableSector);

internal sealed record SectorDocument(
    string Path,
    int Volume,
    string FileSystem,
    string? CodeOwner,
    string? Code,
    string? LooksFor,
    bool Backup,
    IReadOnlyList<SectorFieldDocument> Fields);

internal sealed record SectorFieldDocument(string Name, string Here, string Backup, string Expected, bool Differs);

internal sealed record StoreListDocument(IReadOnlyList<StoreEntryDocument> Entries);

internal sealed record StoreEntryDocument(
    int Number,
    string Id,
    string Type,
    string? Title,
    bool InMenu,
    bool Preferred,
    string Target,
    IReadOnlyList<SettingDocument> Settings);

internal sealed record SettingDocument(string Name, string Value, string? From, string Raw);

internal sealed record StoreSavedDocument(string File, string As, int Entries);

internal sealed record StoreCheckDocument(IReadOnlyList<FindingDocument> Findings);

internal sealed record FilesDocument(IReadOnlyList<FileDocument> Files, int OthersSound);

internal sealed record FileDocument(
    int Volume,
    string Path,
    string Role,
    bool Exists,
    long? Size,
    IReadOnlyList<string>? Attributes,
    string? Version,
    bool Needed,
    IReadOnlyList<string> Problems,
    IReadOnlyList<RemarkDocument> Reasons);

/// <summary>What every command prints where it fails.</summary>
internal sealed record ErrorDocument(ErrorDetails Error);

internal sealed record ErrorDetails(string What, string Why, string Todo, IReadOnlyList<string> Commands, int Exit);

internal sealed record RemarkDocument(string Kind, string Text, JsonObject Facts);

internal sealed record MarksDocument(int Volume, string Path, IReadOnlyList<string> Attributes, IReadOnlyList<string> Usual);

internal sealed record FirmwareDocument(
    string Folder,
    int? Next,
    int? Current,
    IReadOnlyList<StartEntryDocument> Entries,
    string? Done,
    string? Record);

internal sealed record StartEntryDocument(
    string Entry,
    int? Place,
    string Title,
    bool Active,
    string Starts,
    int? Volume,
    string Target);

internal sealed record UpdatesDocument(
    string Disk,
    int Volume,
    string Folder,
    bool PendingOperations,
    bool WantsRestart,
    IReadOnlyList<UpdateDocument> Updates);

internal sealed record UpdateDocument(
    string Name,
    string? Article,
    [property: OneOf(typeof(UpdateState))] string State,
    long StateNumber,
    DateTimeOffset? Time,
    long? Error);

internal sealed record ServicesDocument(IReadOnlyList<ServiceDocument> Services);

internal sealed record ServiceDocument(
    string Name,
    string Start,
    string? Overridden,
    bool Driver,
    bool Critical,
    bool Needed,
    string Group,
    string ImagePath,
    string Title);

internal sealed record TraceDocument(string Path, DateTimeOffset? Written, string Says, string Kind, JsonObject Facts);

internal sealed record HistoryDocument(
    string Disk,
    int Volume,
    string Folder,
    string TimeZone,
    JudgementDocument Judgement,
    IReadOnlyList<HistoryItemDocument> Items,
    string? EventLog,
    bool EventLogUnreadable,
    int EventLogDamagedPlaces,
    bool CutOff);

internal sealed record JudgementDocument(
    bool Trouble,
    DateTimeOffset? LastGoodStart,
    DateTimeOffset? TroubleSince,
    IReadOnlyList<NotedStopDocument> Stops,
    IReadOnlyList<HistoryItemDocument> Changes,
    int DiskErrors,
    bool LastStartFailed,
    bool UpdateHalfDone);

internal sealed record NotedStopDocument(string Code, string? Name, int Times, DateTimeOffset? First, DateTimeOffset? Last);

internal sealed record HistoryItemDocument(
    DateTimeOffset? Time,
    DateTimeOffset? LocalTime,
    string What,
    string Says,
    string Kind,
    string Source,
    string? Provider,
    int? EventId,
    int Times,
    JsonObject Facts);

internal sealed record DrillCheckDocument(
    [property: OneOf(typeof(Verdict))] string Verdict,
    bool Well,
    IReadOnlyList<FindingDocument> Findings,
    IReadOnlyList<string>? Answer);

internal sealed record StickWrittenDocument(
    string Stick,
    string Image,
    long Bytes,
    long BytesPerSecond,
    long? LogbookStart,
    long? LogbookSize);

internal sealed record StickCheckedDocument(
    string Stick,
    string Label,
    bool? Whole,
    bool StartsBios,
    bool StartsUefi,
    int? LogbookVolume,
    IReadOnlyList<string> Problems);

internal sealed record DiskImagedDocument(string Image, bool IsMade, long MissingBytes);

internal sealed record DiskHealthDocument(IReadOnlyList<DiskHealthOfOne> Disks);

internal sealed record DiskHealthOfOne(
    string Path,
    [property: OneOf(typeof(HealthCondition))] string Condition,
    IReadOnlyList<string> Signs,
    long? PowerOnHours,
    long? Celsius,
    string? Model,
    string? Serial);
