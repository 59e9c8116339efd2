namespace Keel.Cli.Wording;

/// <summary>What the steps of a plan do, and the lines under them.</summary>
internal static class StepWords
{
    public static readonly (string Id, string Text)[] All =
    [
        ("said", "{said}"),

        // master boot record and partition table
        ("step.write-mbr-mark", "Write 55 AA at the end of the master boot record."),
        ("step.write-mbr-code", "Write new code into the master boot record."),
        ("line.mbr-stays", "sector 0 of {disk}: disk signature {signature} and the table stay as they are"),
        ("step.mark-active", "Mark {volume} active, and no other."),
        ("line.active", "partition {partition}: {isActive?becomes active|is no longer active}"),
        ("step.correct-table", "Correct the partition table by what the file systems say of themselves."),
        ("line.mark-becomes-00", "partition {partition}: the mark {mark} becomes 00"),
        (
            "line.partition-moves",
            "partition {partition}: sector {numberBefore}, {sectorsBefore} long, becomes sector {numberAfter}, {sectorsAfter} "
                + "long, as its file system says"),
        ("step.write-protective", "Write the protective master boot record."),
        ("line.protective-slot", "sector 0: one slot over the whole disk, type ee; code and signature stay"),
        ("step.rewrite-gpt", "Write both copies of the GPT anew from the sound one."),
        ("line.partitions-stay", "the partitions and their GUIDs stay as they are"),
        ("step.mark-esp", "Mark {volume} as EFI system partition."),
        ("line.type-becomes-esp", "type of partition {partition}: {before} becomes EFI system, in both copies of the GPT"),

        // boot sectors and file systems
        ("step.correct-place", "Put the place of {volume} right in its boot sector."),
        ("line.hidden-sectors", "hidden sectors {hiddenSectors}, 55 AA at the end; code and parameters stay as they are"),
        ("step.correct-mft-pointer", "Let the boot sector of {volume} point at $MFT and its mirror where they stand."),
        ("line.mft-cluster", "$MFT: cluster {numberBefore} becomes {numberAfter}"),
        ("line.mirror-cluster", "its mirror: cluster {numberBefore} becomes {numberAfter}"),
        ("step.restore-sector", "Bring the boot sector of {volume} back from its backup copy."),
        ("line.sector-of-copy", "sector 0 of {volume}: {fileSystem} parameters and code of the copy"),
        ("step.rebuild-sector", "Rebuild the boot sector of {volume} from its {source}."),
        (
            "line.sector-rebuilt",
            "boot sector and backup copy: parameters as the file system says, new serial number, new code for {loader}"),
        ("step.write-sector-code", "Write new boot code for {loader} on {volume}."),
        (
            "line.sector-parameters-stay",
            "boot sector of {volume} and its backup copy: the parameters of the file system stay as they are"),
        ("step.mend-mirror", "Write the first records of {isFirst?$MFT over their mirror|the mirror over $MFT} on {volume}."),
        ("line.four-records", "four file records; the other side was not whole, or older"),
        ("step.spread-fat", "Write the {isFirst?first|second} table of {volume} over the {isFirst?second|first}."),
        ("line.fat-leads-to-all", "the {isFirst?first|second} one leads to every file; files stay as they are"),
        ("step.format", "Format {volume}, the EFI system partition, as {fileSystem}: label {label}, serial {serial}."),
        ("line.kept-in-logbook", "what is overwritten is kept in the logbook"),
        ("line.loss-unknown", "its files can't be read, so nothing can be listed that is lost"),
        ("line.nothing-lost", "no files are lost: it is empty"),
        ("line.lost", "LOST: {path}"),
        ("line.lost-more", "LOST: {fileCount} more"),
        ("line.lost-unread", "LOST: and more that can't be read"),
        ("line.own-deleted", "deleted: {fileCount:file|files} of Windows' own, which are recreated"),

        // boot files
        ("step.renew-files", "Recreate the boot files for {firmware} on {volume} from {source}."),
        ("step.renew-all", "Recreate all boot files on {volume} from the copies in {source}."),
        ("step.renew-manager", "Recreate the boot manager on {volume} from the copies in {source}."),
        ("step.renew-fallback", "Recreate the fallback file on {volume} from the copies in {source}."),
        ("step.renew-from-twin", "Recreate {path} on {volume} from {otherPath}, which is the same program."),
        ("step.make-loadable", "Write {path} on {volume} anew, where boot code finds it."),
        ("line.same-bytes", "{path} on {volume}: the same {sizeBytes} bytes, under its own short name"),
        ("line.file", "{path} on {volume}: {change}"),
        ("file.new", "new[; the folder in its place is now {otherPath}], {sizeBytes:byte|bytes}"),
        ("file.replaced", "replaced, had {numberBefore:byte|bytes}, {sizeBytes:byte|bytes}"),
        ("line.more-files", "and {fileCount:more file|more files}, {sizeBytes} bytes in all"),
        ("line.files-same", "{fileCount:file is|files are} there already, the same as the copy"),
        ("line.files-newer", "{fileCount:file is|files are} newer than the copy, and left alone; --all replaces them too"),
        ("step.attributes", "Give {path} on {volume} other attributes."),
        ("line.attributes", "{before} becomes {after}"),
        ("step.correct-attributes", "Take the attributes off that hide or lock boot files."),
        ("line.attributes-of", "{path} on {volume}: {before} becomes {after}"),

        // the store
        ("step.rebuild-store", "Build a new store on {volume} from the {installationCount?installation|installations} found."),
        ("step.store-built", "Build the store anew, with {entryCount:Windows entry|Windows entries}."),
        ("step.empty-store", "Make an empty store."),
        ("step.make-store", "Make a store on {volume}, since there is none."),
        ("step.store-anew", "Write the store anew, with all its entries."),
        ("step.store-from-log", "Write the store anew, with what its log holds."),
        ("line.store-made", "{path} on {volume}: new, {sizeBytes:byte|bytes}[, {entryCount:Windows entry|Windows entries}]"),
        ("line.store-changed", "{path} on {volume}: changed, {sizeBytes:byte|bytes}"),
        ("line.entries-kept", "all {entryCount:entry|entries} kept"),
        ("line.set-aside", "{path}: set aside as {otherPath}[ on {volume}]"),
        ("line.installations-found", "Installations found: {installationCount}"),
        ("line.installation", "{product}[, build {build}] - {isListed?already listed|new}[, left out{isLeftOut?|}]"),
        ("line.kept", "kept: {title}"),
        ("step.add-manager-entry", "Make the boot manager's entry again, and list {entryCount:Windows entry|Windows entries}."),
        ("step.prefer", "Prefer the entry \"{title}\"."),
        ("step.prefer-none", "Prefer no entry, since the one preferred is gone."),
        ("step.menu-waits", "Let the menu wait {seconds:second|seconds}."),
        ("step.menu-without-gone", "Take the entries that are gone out of the menu."),
        ("step.drop-twins", "Drop {entryCount:entry that is|entries that are} there twice: \"{title}\"."),
        ("step.correct-entry", "Let \"{title}\" start {path}."),
        ("step.repoint-entries", "Point the entries at the volumes that are here now."),
        ("line.device-becomes", "{title}: {device} becomes {volume} of disk {identity}"),

        // the firmware's entries
        ("step.drop-stale-entries", "Drop {entryCount:firmware entry|firmware entries} whose disk or file is gone."),
        ("step.drop-firmware-entries", "Drop {entryCount:firmware entry|firmware entries}."),
        ("step.first-in-order", "Put {firmwareEntry} \"{title}\" first in the firmware's start order."),
        (
            "step.add-firmware-entry",
            "Add the firmware entry {firmwareEntry} \"{title}\", {isLast?last|first} in the start order."),
        (
            "step.place-firmware-entry",
            "{firmwareEntry} \"{title}\" is there already: put it {isLast?last|first} in the start order."),
        ("step.change-order", "Change the firmware's start order."),
        ("step.start-next", "Start {firmwareEntry} \"{title}\" the next time, and that time alone."),
        ("line.order-stays", "the start order stays as it is"),
        ("line.start-order", "start order: {names}"),
        ("line.entry", "{firmwareEntry} \"{title}\": {said}"),
        ("line.firmware-entry", "{firmwareEntry}: {path} on {volume}, partition {identity}"),
        ("line.disks-looked-at", "looked at: {disks}; if the machine has other disks, name them with --with first"),

        // Windows
        ("step.restore-program", "Replace {path} by the installation's own spare copy."),
        ("line.spare-copy", "from {path}, version {version}[, written {written}][; the damaged one says {otherVersion}]"),
        ("step.apply-hive-log", "Write into the SYSTEM hive what its log still has."),
        ("line.hive-whole", "{path} on {volume}: {sizeBytes:byte|bytes}; nothing is lost"),
        ("step.hive-from-backup", "Bring the SYSTEM hive back from the automatic backup copy[ of {written}]."),
        ("line.hive-copy", "{path} on {volume}: the copy[ of {written}], {sizeBytes:byte|bytes}"),
        ("line.hive-lost", "LOST: settings, drivers and services changed[ after {written}][ up to {lastWritten}]"),
        ("step.use-control-set", "Let the SYSTEM hive use {controlSet}, which is in it."),
        ("line.select-becomes", "Select, {setting}: {numberBefore} becomes {numberAfter}"),
        ("step.switch-on-drivers", "Let {names} start with Windows."),
        ("step.start-type", "Start {driver} {start}."),
        ("line.start-becomes", "{controlSet}, {driver}, {setting}: {numberBefore} becomes {numberAfter}"),
        ("line.start-is", "{controlSet}, {driver}: its start type is {numberAfter} already")
    ];
}
