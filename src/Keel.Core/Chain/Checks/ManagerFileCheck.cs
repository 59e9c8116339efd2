using Keel.Core.Volumes;

namespace Keel.Core.Chain.Checks;

/// <summary>The boot manager's file on the system volume.</summary>
internal sealed class ManagerFileCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new("manager-missing", Link.ManagerFile, Severity.Error, "The boot manager is missing.", Screens.ManagerMissing, Screens.NotFound);
    public static readonly FindingKind Empty = new("manager-empty", Link.ManagerFile, Severity.Error, "The boot manager is an empty file.", Screens.ManagerCorrupt);
    public static readonly FindingKind Folder = new("manager-folder", Link.ManagerFile, Severity.Error, "A folder stands where the boot manager should.", Screens.ManagerMissing);
    public static readonly FindingKind Compressed = new("manager-compressed", Link.ManagerFile, Severity.Error, "The boot manager is compressed or encrypted, and boot code can't read it.", Screens.ManagerCompressed);
    public static readonly FindingKind VolumeUnreadable = new("volume-unreadable", Link.ManagerFile, Severity.Error, "The system volume's file system can't be read.", Screens.DiskRead, Screens.FileCorrupt);

    public Link Link => Link.ManagerFile;

    public LinkReport Check(Machine machine)
    {
        if (machine.SystemVolume is not { } volume) return LinkReport.Unreached("the system volume is not known");
        if (volume.FilesProblem is { } problem) return LinkReport.Wrong(VolumeUnreadable, $"{problem.What} {problem.Why}");
        if (volume.Files is not { } files) return LinkReport.Unreached($"{volume} holds no file system that keel reads ({FileSystemProbe.Name(volume.Kind)})".Replace(" ()", "", StringComparison.Ordinal));
        var path = machine.BootFiles.ManagerPath;
        return files.Find(path) switch
        {
            null => LinkReport.Wrong(Missing, $"{path} is not on {volume}"),
            { IsFolder: true } => LinkReport.Wrong(Folder, $"{path} on {volume} is a folder"),
            { SizeBytes: 0 } => LinkReport.Wrong(Empty, $"{path} on {volume} has 0 bytes"),
            { Marks: var marks } when machine.Firmware == FirmwareKind.Bios && (marks & (FileMarks.Compressed | FileMarks.Encrypted)) != FileMarks.None
                => LinkReport.Wrong(Compressed, $"{path} on {volume} is {(marks & FileMarks.Compressed) switch { FileMarks.None => "encrypted", _ => "compressed" }}"),
            var file => LinkReport.Sound($"{path} on {volume}, {file.SizeBytes} bytes")
        };
    }
}
