using Keel.Core.Chain;
using Keel.Core.Mending.Remedies;

namespace Keel.Core.Mending;

/// <summary>Every remedy there is.</summary>
internal static class AllRemedies
{
    private static readonly IRemedy[] All =
    [
        new CorrectFirmware(),
        new CorrectTable(), new RestoreSignature(),
        new MendGpt(),
        new RescueTable(),
        new CorrectPartitionType(), new ClearAttributes(),
        new WidenPartition(),
        new WriteMbrCode(),
        new MarkActive(),
        new RestoreBootSector(), new CorrectSectorFields(),
        new CorrectMftPointer(),
        new WriteBootSectorCode(),
        new CorrectHiddenSectors(),
        new MendEfiVolume(), new MakeEfiVolume(), new RenewBootFiles(), new MakeLoadable(), new CorrectMarks(),
        new RebuildStore(),
        new RewriteStore(),
        new AddManagerEntry(),
        new RepointEntries(),
        new RenewNt5Files(), new RebuildBootList(), new CorrectBootLine(), new CorrectLogon(),
        new TakeOutDebugger(), new CorrectLetter(), new LetSetupGoOn(),
        new RepointInside(),
        new AddRecovery(),
        new ChoosePreferred(),
        new CorrectMenu(),
        new RenameWindowsFolder(),
        new CorrectWindowsEntry(),
        new TakeOutSettings(),
        new RestoreProgram(), new RestoreSigned(), new RestoreCatalog(),
        new MendSystemHive(), new RestoreHive(), new SwitchOnDrivers(), new InstallController(),
        new DropClassFilters(), new MendMirror(),
        new GiveUpSession()
    ];

    public static IRemedy? For(Finding finding) => For(finding.Kind);

    /// <summary>The remedy for a kind of finding; null where there is none.</summary>
    public static IRemedy? For(FindingKind kind) => Array.Find(All, remedy => remedy.Mends.Contains(kind));
}
