namespace Keel.Cli.Wording;

/// <summary>What was seen where something is wrong: half sentences, which views put into their own.</summary>
internal static class FindingWords
{
    /// <summary>Behind what was seen of a file: why the start needs it.</summary>
    private const string Whose = "[, and {neededBy} needs it][ (driver {driver})][, which may fail{mayFail?|}]";

    private const string AlteredQuietly =
        "{path} on {volume} is in no catalog, and {otherPath}, of the same version {version}, is, and differs";

    private const string Unlisted = "{path} on {volume} is in no catalog, and most of its neighbours are";

    public static readonly (string Id, string Text)[] All =
    [
        ("error", "{what} {why}[{reason^}.]"),
        ("link-not-judged", "keel met something that it was not made for ({what}: {said})"),
        ("disk-read-errors", "{disk}: {sectorCount:sector|sectors} of those that were read can't be: {sectors#6}"),
        ("sector", "{sector}"),
        ("sector.in-volume", "{sector} (in {volume})"),

        // the master boot record and the active mark
        ("mbr-mark-missing", "bytes 510 and 511 of the first sector are not 55 AA"),
        ("mbr-code-wiped", "the first 440 bytes of the disk are zero"),
        ("foreign-mbr-code", "the code is that of {code}"),
        ("mbr-code-unknown", "the code is neither keel's nor Windows', nor of a loader that is known here"),
        (
            "volume-unlisted",
            "{disk}: {fileSystem} begins at byte {atByte}, {sizeBytes%} long, and no partition lists it"),
        (
            "gpt-overwritten",
            "sector 0 lists {partitionCount:partition|partitions} where no volumes are; those of the GPT behind it are there"),
        ("partition-protective-type", "{volume} holds {fileSystem}, its type is {type}, and neither end of the disk has a GPT"),
        ("sector-wrong-fields", "the boot sector of {volume} is wrong in: {names}"),
        ("volume-wrong-fields", "the boot sector of {volume} is wrong in: {names}"),
        ("esp-wrong-fields", "the boot sector of {volume} is wrong in: {names}"),
        (
            "medium-alone",
            "{volume} is a medium: it starts by its fallback file, and no Windows is here; one on another disk is named with "
                + "--with"),
        ("medium.nothing-behind", "a medium has nothing of a Windows behind its fallback file"),
        ("partition-read-only", "{volume} holds Windows, and is marked {attributes}"),
        ("partition-wrong-type", "{volume} holds {fileSystem} with Windows, and its type is {type}"),
        (
            "windows-volume-sector-wiped",
            "{volume}: its first sector is none; the backup copy of its {fileSystem} boot sector is there"),
        ("windows-volume-sector-wiped.rebuilt", "{volume}: its first sector is none, nor is its backup; $MFT is there"),
        ("windows-volume-no-file-system", "{volume}: neither a boot sector, nor a copy of one, nor $MFT is there"),
        (
            "partition-too-small",
            "partition {partition} has {sizeBytes} bytes, and the file system in it says {neededBytes}"),
        ("entry-incomplete", "\"{title}\" lacks, or has cut short: {settings&}"),
        ("entry-wrong-volume", "\"{title}\" looks for {folder} on {volume}; the Windows in it is on {otherVolume}"),
        ("entry-wrong-volume.program", "\"{title}\" looks for {path} on {volume}; its Windows is on {otherVolume}"),
        ("entry-wrong-path", "\"{title}\" names {path}, which is not on {volume}; {otherPath} is"),
        ("windows-folder-renamed", "{folder} is not on {volume}; {otherPath} is, and remembers {folder} as its own name"),
        ("inside-entry-missing", "{entryCount:entry|entries}, none of them of a Windows"),
        ("inside-file-moved", "\"{title}\" starts from {path}, and {otherPath} lies on {volume}"),
        ("inside-file-missing", "\"{title}\" starts from {path}, which is nowhere to be found"),
        ("inside-file-damaged", "\"{title}\" starts from {path} on {volume}: {reason}"),
        ("inside-parent-missing", "\"{title}\" starts from {path} on {volume}: {reason}"),
        ("inside-volume-gone", "\"{title}\" starts from {path} on {volume}, which has no such volume in it"),
        ("inside-no-room", "{path} may grow by {neededBytes%}, and {volume} has {freeBytes%} free"),
        ("logon-shell-wrong", "the desktop is \"{said}\", and no such program is there"),
        ("logon-shell-other", "the desktop is \"{said}\""),
        ("userinit-wrong", "users are signed in by \"{said}\"; a program of it is not there, or userinit is not named"),
        ("boot-execute-wrong", "the session manager runs \"{said}\", and a program of it is not there"),
        ("boot-execute-other", "the session manager runs \"{said}\""),
        ("debugger-on-start-program", "{title} is handed to \"{said}\" instead of being started"),
        ("debugger-on-sign-in-program", "{title} is handed to \"{said}\" instead of being started"),
        (
            "windows-letter-elsewhere",
            "Windows calls itself {title}, and gives {volume}[ {otherTitle}][; {title} is given to {otherVolume}]"),
        ("setup-broken-off", "the setup has not ended, and people have worked on this Windows before; it would run \"{said}\""),
        ("setup-marked-failed", "setup.exe is marked as begun and not come back; it would run \"{said}\""),
        ("setup-pending", "the setup goes on with \"{said}\""),
        ("profile-set-aside", "{title}, of {folder}"),
        ("windows-volume-full", "{volume} has less than {neededBytes%} free"),
        ("class-filter-without-driver", "{names&} in {settings&}"),
        ("input-filter-without-driver", "{names&} in {settings&}"),
        (
            "kernel-other-build",
            "{path} is of {version}, and [the files beside it are of {otherVersion}][the Windows in force is at {numberBefore}]"),
        ("manager-older-than-loader", "{path} is of {version}, and the loader is of {otherVersion}"),
        ("hive.not-closed", "{path} was not closed properly, and its logs come first"),
        ("recovery-entry-missing", "\"{title}\": {reason}; {path} is on {volume}"),
        ("recovery-image-missing", "\"{title}\": {reason}; no {path} was found"),
        ("recovery-image-damaged", "{path} on {volume} can't be unpacked: it is cut short, or no image"),
        ("recovery.not-named", "the entry names no recovery environment"),
        ("recovery.entry-gone", "the entry names a recovery environment that the store does not have"),
        ("recovery.no-ramdisk", "\"{title}\" starts from no ramdisk"),
        ("recovery.wrong-loader", "\"{title}\" names the loader of the other firmware"),
        ("recovery.volume-gone", "the image of \"{title}\" is on a partition that is not here"),
        ("recovery.file-gone", "{path} is not on {volume}"),
        ("recovery.no-options", "the options of its ramdisk are missing"),
        ("recovery.options-volume-gone", "the options of its ramdisk name a partition that is not here"),
        ("entry-on-virtual-disk", "\"{title}\" starts from a disk in a file"),
        ("preferred-starts-nothing", "the preferred entry is \"{title}\" ({type})"),
        ("preferred-other-system", "the preferred entry is \"{title}\" ({type})"),
        ("preferred-recovery", "the preferred entry is \"{title}\""),
        ("store-redirected", "the boot manager's entry names the store {path}"),
        ("sector-code-differs", "{volume}: {differentBytes:byte|bytes} of the code are not as in the backup copy"),
        ("start-driver-key-missing", "no key for {names&}"),
        ("manager.zeros", "{path} on {volume} holds nothing but zeros"),
        ("manager.text", "{path} on {volume} holds text, not a program"),
        (
            "manager.altered-proven",
            "{path} on {volume} is not as it was made; {otherPath} in the installation is, as a catalog signed by {signer} says"),
        (
            "manager.proven",
            "{path} on {volume} is as it was made, as a catalog signed by {signer} says; {otherPath} in the installation "
                + "differs"),
        ("manager.copy-lost", "sectors are empty in {otherPath} in the installation that {path} on {volume} has"),
        (
            "manager.not-proven",
            "{path} on {volume} and {otherPath} in the installation differ, and nothing proves which of them is right"),
        ("disk-signature-missing", "the signature of {disk} is zero; it is remembered as {signature}"),
        ("manager.altered", "{path} on {volume} has the size of {otherPath} in the installation, and not all of its bytes"),
        ("program.kept-elsewhere", "{path} on {volume} is packed by Windows; its contents can't be checked here"),
        ("program.no-loader", "{path} on {volume} is a program that runs under Windows, or its kernel, and no loader"),
        ("table-active-wrong", "partition {partition} is active; boot files are on {volume}"),

        // the disk as a whole
        ("clone-beside-original", "{disk} and {otherDisk} both are disk {identity}"),
        ("disk-dynamic", "partition {partition} says {type}"),
        ("disk-in-pool", "partition {partition} says {type}"),
        (
            "layout-firmware-mismatch.uefi",
            "the machine starts through UEFI, and the disk is for BIOS ({reason}): UEFI firmware looks for an EFI system "
                + "partition, and there is none"),
        (
            "layout-firmware-mismatch.bios",
            "the machine starts through BIOS, and the disk is for UEFI ({reason}): BIOS looks for boot code and an active "
                + "partition, and there are none"),

        // the boot sector
        ("encryption.on", "protected"),
        ("encryption.suspended", "protection is suspended"),
        ("encryption.converting", "being encrypted or decrypted"),
        ("encryption.onwrite", "encrypted only where something was written"),
        ("encryption.unknown", "in a state that is not known"),
        (
            "system-volume-encrypted",
            "{volume} has the mark of BitLocker[: {method}, {encryption}][; recovery key {recoveryKeys&}]"),
        (
            "sector-both-copies-gone",
            "the first sector of {volume} is {isReadable?not a boot sector of NTFS or FAT|unreadable}, and no backup copy was "
                + "found"),
        (
            "sector-wiped",
            "the first sector of {volume} is {isReadable?not a boot sector of NTFS or FAT|unreadable}; a backup copy of "
                + "{backup} is there"),
        ("disk-large-sectors", "{disk} has sectors of {sectorBytes} bytes"),
        ("sector-mark-missing", "bytes 510 and 511 of the first sector of {volume} are not 55 AA"),
        ("sector-wrong-hidden", "{volume} says {hiddenSectors:hidden sector|hidden sectors}; it starts at sector {sector}"),
        (
            "sector-wrong-mft",
            "{volume} says that $MFT begins at cluster {cluster} and its mirror at {mirrorCluster}; their own records say "
                + "{ownCluster} and {ownMirrorCluster}"),
        ("sector-code-missing", "the code of {volume}: {code}"),
        ("sector-code-foreign", "the code of {volume} is that of {code}"),
        ("sector-code-unknown", "the code of {volume} is neither keel's nor Windows', nor of a loader that is known here"),
        ("sector-nt5-code", "the code of {volume} looks for NTLDR, which is not there; BOOTMGR is"),
        ("nt5-sector-loads-bootmgr", "the code of {volume} looks for BOOTMGR; the machine starts through NTLDR"),
        ("ntldr-compressed", "{path} on {volume} is compressed or encrypted"),
        ("ntldr-not-loadable", "{path} is on {volume}, and boot code would stop: {said}"),
        ("ntldr.no-code", "{path} on {volume} does not begin with 16-bit code"),
        ("ntldr.too-short", "{path} on {volume} is too short for a loader"),
        ("ntldr.cut-short", "{path} on {volume} ends before the program in it does"),
        ("boot-list-long", "boot.ini has {entryCount:line|lines}, and the loader reads ten"),
        ("boot-line-wrong-partition", "{device} is {volume}, and no Windows is there"),
        ("boot-line-wrong-partition.not-here", "{device} names a disk or partition that is not here"),
        ("boot-line-wrong-folder", "{device}: {volume} has no Windows in {folder}, and one in another folder"),
        ("boot-line-other-system", "\"{title}\" is preferred, which starts another system"),
        ("older-system-broken", "{reason} ({link})"),
        ("boot-line-unlisted", "{device} is preferred, and no line names it"),
        ("nt5-machine", "{path} is on {volume}, and no boot manager"),
        ("nt5-machine.code", "the boot code of {volume} looks for NTLDR, and no boot manager is there"),
        ("nt5-machine.installation", "{product}, of build {build}"),

        // the firmware's entries
        ("firmware-entry-missing", "none of its {entryCount:entry|entries} starts the boot manager on {volume}"),
        ("firmware-order-wrong", "{firmwareEntry} \"{title}\" is {isInOrder?switched off|not in the start order}"),
        ("firmware-entries-stale", "{firmwareEntries#4}: the disk or the file is gone"),
        ("firmware-entry.name", "{firmwareEntry} \"{title}\""),
        ("firmware-other-first", "{firmwareEntry} \"{title}\" comes before {otherFirmwareEntry} \"{otherTitle}\""),

        // the system volume and its files
        ("esp-wrong-type", "{volume} holds \\EFI\\Microsoft\\Boot, and its type is {type}"),
        (
            "esp-no-file-system",
            "{volume} holds no file system that firmware reads[, it is {fileSystem}][; a backup copy of its {backup} boot "
                + "sector is there]"),
        ("esp-fat-damaged", "{volume}: {said}[; the two copies of the table differ{tablesDiffer?|}]"),
        ("esp-formatted", "{volume}, {fileSystem}, has no folder \\EFI"),
        ("esp-fat-copies-differ", "{volume}: the second copy of the table is not like the first, which leads to every file"),
        ("system-mft-mirror-differs", "record {record} on {volume}"),
        ("manager-compressed", "{path} on {volume} is {isCompressed?compressed|encrypted}"),
        ("manager-not-trusted", "{path} on {volume} {reason}"),
        ("trust.unsigned", "has no signature"),
        ("trust.signature-damaged", "has a signature that does not fit it"),
        ("trust.program-forbidden", "is a program that the firmware was told to refuse (dbx)"),
        ("trust.signer-forbidden", "is signed by {signer}, whom the firmware was told to refuse (dbx)"),
        ("trust.signer-unknown", "is signed by {signer}, whom the firmware does not know (db)"),
        ("manager-not-loadable", "{path} on {volume}: {said}"),
        ("system-volume-full", "{volume} has {freeBytes:byte|bytes} free"),
        ("files-hidden-locked", "on {volume}: {files;}"),
        ("file.attributes", "{path} is {attributes}"),
        ("inside.parent-missing", "it differs from {otherPath}, which is not beside it"),
        ("file.missing", "{path} is not on {volume}" + Whose),
        ("file.folder", "{path} on {volume} is a folder" + Whose),
        ("file.empty", "{path} on {volume} has 0 bytes" + Whose),
        (
            "file.beginning",
            "{path} on {volume} has {sizeBytes:byte|bytes}, and they are the beginning of {otherPath} of "
                + "{neededBytes:byte|bytes}"),

        // the store
        ("store-truncated", "it has {sizeBytes:byte|bytes} of the {neededBytes} that its header speaks of"),
        ("store-bad-checksum", "the checksum of its base block is wrong"),
        ("store-cells-damaged", "{said}"),
        ("store-empty", "[{path} on {volume} ]is a valid hive with no entry in it"),
        ("store.said", "{path}[ on {volume}]: {said}"),
        ("store.too-short", "{path} on {volume} has {sizeBytes:byte|bytes}; a store has at least {neededBytes}"),
        ("manager-entry-missing", "the store has no entry {entry}"),
        ("preferred-dangling", "the boot manager prefers {entry}, which is not in the store"),
        ("order-dangling", "the menu lists {entries&}, which {entries?is|are} not in the store"),
        ("manager-stale-volume", "the boot manager is said to lie on {device}, which is not here"),
        ("wait-zero-no-menu", "menu-seconds is 0, and the menu has {entryCount:entry|entries}"),
        ("once-only-dangling", "once-only names {entries&}, which {entries?is|are} not in the store"),
        ("entry-safe-start", "\"{title}\" has {settings&}"),
        ("entry-memory-withheld", "\"{title}\" has {settings&}"),
        ("entry-debugger-let-in", "\"{title}\" has {settings&}"),
        ("entry-last-good", "\"{title}\" has {settings&}"),
        ("entry-test-signatures", "\"{title}\" has {settings&}"),
        ("entry-named-file-missing", "\"{title}\" has {settings&}, and no such file is in its Windows"),
        ("entry-missing", "none of {entryCount:entry|entries} starts Windows"),
        ("entry-unlisted", "\"{title}\" is in the store, and not in the menu"),
        ("entry-stale-volume", "\"{title}\" is said to lie on {device}, which is not here"),
        ("device-other-disk", "\"{title}\" is said to lie on {device}, which is not here"),
        ("entry-wrong-loader-kind", "\"{title}\" starts {path}, and this is a {firmware} machine"),
        ("entry-wrong-folder", "\"{title}\" names {folder}, which is not on {volume}"),
        ("entry-duplicate", "\"{title}\" is in the menu {entryCount:time|times}, for {folder} on {volume}"),
        ("entry-target-missing", "\"{title}\" lies on {device}, which is not here"),
        ("entry-target-missing.file", "\"{title}\" starts {path}, which is not on {volume}"),
        ("entry-listed-nowhere", "\"{title}\" is in the store, and in no menu"),
        ("setting-wrong-type", "{title}: {setting}"),

        // the Windows volume
        ("volume-encrypted", "{volume} is locked[: {method}, {encryption}][; recovery key {recoveryKeys&}]"),
        ("volume-encrypted-keyless", "{volume} is locked[: {method}, {encryption}]"),
        (
            "encryption-unfinished",
            "{volume} is not encrypted as a whole[: {method}, {encryption}][; recovery key {recoveryKeys&}]"),
        (
            "encryption-metadata-damaged",
            "{damagedBlocks:block|blocks} of the encryption metadata of {volume} can't be used; one whole one opens it"),
        ("encryption-metadata-lost", "no block of the encryption metadata of {volume} is whole: no key opens it"),
        ("prompt-by-settings", "\"{title}\" has {settings&}: BitLocker may ask for the recovery key with that"),
        (
            "prompt-by-secure-boot",
            "Secure Boot is off, and {volume} is bound to the TPM: where it was on before, switch it on again"),
        (
            "prompt-by-boot-code",
            "the code in the master boot record is {code}, and {volume} is bound to the TPM: one start with the key, then "
                + "suspend and resume the protection"),
        (
            "mft-mirror-differs",
            "record {record} on {volume}; $MFT is {isWhole?whole|damaged}, the mirror is {mirrorIsWhole?whole|damaged}"),
        ("volume-unclean", "{volume} carries the mark"),
        ("volume-hibernated", "{path} on {volume} holds a session"),
        ("volume-hibernated.resumes", "{path} on {volume} holds a session, and the manager entry wants to resume it"),

        // programs
        ("program.sound", "{path} on {volume}, {sizeBytes:byte|bytes}, for {processor}[; {content}]"),
        (
            "program.too-large",
            "{path} on {volume} says that it has {sizeBytes} bytes, far more than a program of Windows has" + Whose),
        (
            "program.zeros",
            "{path} on {volume} has {sizeBytes:byte|bytes}, and all of them are zero" + Whose),
        (
            "program.no-header",
            "{path} on {volume}, {sizeBytes:byte|bytes}, has no program header" + Whose),
        (
            "program.cut-short",
            "{path} on {volume} has {sizeBytes:byte|bytes} and needs {neededBytes}" + Whose),
        (
            "program.other-processor",
            "{path} on {volume} is a program for {processor}, and this Windows is for {otherProcessor}" + Whose),
        ("program.altered", "{path} on {volume}: {content}" + Whose),
        ("program.packed-damaged", "{path} on {volume}: {why}" + Whose),
        ("program.unreadable", "{path} on {volume}: {what} {why}" + Whose),
        ("start-file-unreadable", "{path} on {volume}, at byte {atBytes} of the file"),
        ("content.signed", "as signed by {signer}, certificate until {expires}"),
        ("proof.zeros", "it is nothing but zeros"),
        ("proof.cut-short", "it ends before its own sections do"),
        ("proof.other-than-copy", "it is another than a copy of the same version that is as signed"),
        ("content.signature-damaged", "its signature is damaged"),
        ("content.not-as-signed", "its content is not what was signed"),
        ("content.checksum-wrong", "its checksum does not fit"),
        ("content.checksum-fits", "its checksum fits"),
        ("content.unchecked", "nothing in it can be checked"),

        // the SYSTEM hive, and hives in general
        ("hive.missing", "{path} is not there[ on {volume}]"),
        ("hive.too-short", "{path}[ on {volume}] has {sizeBytes:byte|bytes}; a hive has at least {neededBytes}"),
        ("hive.no-mark", "{path}[ on {volume}] does not begin with the mark of a hive"),
        ("hive.cut-short", "{path}[ on {volume}] has {sizeBytes:byte|bytes} of the {neededBytes} that its header speaks of"),
        (
            "hive.log-pending",
            "{path}[ on {volume}] is whole; its log holds changes that Windows takes over at the next start (sequence "
                + "{sequence} and {otherSequence})"),
        (
            "hive.no-log",
            "{path}[ on {volume}] is whole, and was not closed (sequence {sequence} and {otherSequence}); no log is there"),
        ("hive.torn", "{path}[ on {volume}] was being written (sequence {sequence} and {otherSequence}); its log has the rest"),
        (
            "hive.torn-without-log",
            "{path}[ on {volume}] was being written (sequence {sequence} and {otherSequence}), and no log has the rest"),
        ("hive.checksum", "the checksum in the base block of {path}[ on {volume}] is wrong"),
        ("hive.checksum-without-log", "the checksum in the base block of {path}[ on {volume}] is wrong, and no log has it right"),
        ("hive.said", "{path}[ on {volume}]: {said}"),
        ("hive.no-current", "{path}[ on {volume}] does not say which control set is in use"),
        (
            "hive.no-control-set",
            "{path}[ on {volume}] says that {controlSet} is in use, which is not in it[; there {controlSets?is|are} "
                + "{controlSets}]"),
        ("hive.no-drivers", "{path}[ on {volume}]: {controlSet} lists no drivers"),

        // drivers
        ("storage-driver-disabled", "{drivers}; none of them starts with Windows"),
        ("storage-driver-off", "{drivers}: right only where the disk is on another kind of controller"),
        ("start-driver-disabled", "{drivers}"),
        (
            "controller-driver-absent",
            "none of its drivers is one that reaches a disk: not by name, not by group, and not by what it imports"),

        ("driver.file-not-beside", "the driver's file {path} is not there beside its INF"),
        ("driver.file-damaged", "the driver's file {path} is no sound program"),
        ("driver.other-processor", "the driver's file {path} is for {processor}, and this Windows is for {otherProcessor}"),
        (
            "driver.unsigned",
            "the driver's file {path} carries no signature that fits, and its catalog does not list it: Windows would stop with "
                + "0xC0000428"),
        ("driver.imports-missing", "the driver's file {path} needs {names}, which this Windows does not have"),
        ("driver.hive-not-changed", "{reason}"),
        ("driver.hive-damaged", "{path} is not whole, and writing it anew would lose what can't be read of it"),

        (
            "controller-driver-not-proven",
            "{names}: build {build} matches devices by a database of its own, and no package there has {names?it|them}"),

        // start files and catalogs
        ("kernel-altered-quietly", AlteredQuietly),
        ("driver-altered-quietly", AlteredQuietly),
        ("kernel-in-no-catalog", Unlisted),
        ("driver-in-no-catalog", Unlisted),
        (
            "driver-catalog-gone",
            "{path} on {volume} is listed by {otherPath} only, which is where its package lies and not where Windows looks"),
        ("driver.starts", "{driver} is {start}"),
        ("driver.no-start", "{driver} is without a start type")
    ];
}
