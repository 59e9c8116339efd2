namespace Keel.Cli.Wording;

/// <summary>How links stand that are sound, and why others could not be judged.</summary>
internal static class LinkWords
{
    public static readonly (string Id, string Text)[] All =
    [
        ("disk-layout.sound", "{scheme}, {partitionCount:partition|partitions}, disk {identity}"),
        ("mbr-code.sound", "the code is {code}, and 55 AA is there"),
        ("mbr-code.unreadable", "the first sector can't be read"),
        ("mbr-code.no-table", "there is no partition table that the code could read"),
        ("active-mark.sound", "partition {partition} is active"),
        ("active-mark.no-table", "there is no partition table to carry the mark"),
        ("boot-sector.sound", "{fileSystem}, the code is {code}, {hiddenSectors:hidden sector|hidden sectors}"),
        ("firmware-entry.sound", "{firmwareEntry} \"{title}\" comes first"),
        ("system-volume.sound", "{volume}, {fileSystem}, EFI system partition"),
        ("system-volume.not-known", "the system volume is not known"),
        ("system-volume.first", "the system volume comes first"),
        ("system-volume.unreadable", "the system volume can't be read"),
        ("system-volume.no-files", "{volume} holds no file system that keel reads[ ({fileSystem})]"),
        ("manager-file.sound", "{path} on {volume}, {sizeBytes:byte|bytes}"),
        ("manager-file.boot-sector-first", "the boot sector comes first: it does not lead to $MFT"),
        ("store.sound", "{path} on {volume}, {entryCount:entry|entries}"),
        ("store.unusable", "the store can't be read or is empty"),
        ("manager-entry.sound", "{entryCount} in the menu, preferred: {title}"),
        ("windows-entry.sound", "\"{title}\": {folder} on {volume}"),
        ("windows-entry.sound-elsewhere", "\"{title}\": {folder} on a device that is not checked"),
        ("windows-entry.not-in-store", "the entry to be started is not in the store"),
        ("entry.volume-not-here", "the volume that the entry names is not here"),
        ("entry.no-file", "the entry names no file"),
        ("entry.no-folder", "the entry names no folder"),
        ("link.hidden", "what is wrong before it has to be mended first"),
        ("windows-volume.sound", "{volume}, {fileSystem}"),
        ("windows-volume.no-entry", "no entry says which volume Windows is on"),
        ("loader-file.no-entry", "no entry says where the loader is"),
        ("loader-file.nt5-sound", "{path} on {volume}, {sizeBytes:byte|bytes}"),
        ("detect-file.sound", "{path} on {volume}, {sizeBytes:byte|bytes}"),
        ("detect-file.other", "{path} on {volume} is no plain program"),
        ("boot-list.sound", "{path} on {volume}, {entryCount:line|lines}"),
        ("boot-list.too-large", "{path} on {volume} is far too large for a list of systems"),
        ("boot-list.wide", "{path} on {volume} was saved by an editor with two bytes a letter"),
        ("boot-list.no-text", "{path} on {volume} is no text"),
        ("boot-list.no-systems", "{path} on {volume} names no system"),
        ("boot-line.sound", "{folder} on {volume}"),
        ("boot-line.list-first", "boot.ini comes first"),
        ("boot-line.no-windows", "no line of boot.ini starts a Windows"),
        ("volume.files-unreadable", "the files of {volume} can't be read"),
        ("volume.encrypted", "{volume} is encrypted"),
        ("windows.no-entry", "no entry says which Windows is started"),
        ("windows.reached", "the Windows that is started is reached"),
        ("system-hive.sound", "{path} on {volume}, {controlSet}[, written {written}]"),
        ("kernel-files.sound", "{fileCount:file|files} in {folder} on {volume}, {path} first"),
        ("start-drivers.hive-first", "the SYSTEM hive comes first"),
        (
            "start-drivers.sound",
            "{bootDrivers:boot driver|boot drivers} and {systemDrivers:system driver|system drivers} in {controlSet}")
    ];
}
