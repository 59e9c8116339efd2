namespace Keel.Cli.Wording;

/// <summary>Why something was left as it is, and what to do about it.</summary>
internal static class LeftWords
{
    private const string Image = "Make an image of the disk, and have the data recovered from it before anything else.";

    private const string BringHive =
        "Bring the SYSTEM hive from a restore point or a backup of this machine; one of another machine does not fit.";

    private const string BringSoftware =
        "Bring the SOFTWARE hive from a backup of this machine; one of another machine does not fit.";

    private const string Format =
        "Format it and recreate its files: keel files renew DISK --new-file-system (it shows first what would be lost)";

    private const string BringProgram =
        "Mount an installation medium of the same build ({build}) and processor: 'keel mend DISK --from FOLDER' takes {names} "
            + "from it (or name its install.wim). Or copy it from a sister machine to {path} on {volume}.";

    private const string SavedCopy = "Bring the table back from a saved copy.";

    public static readonly (string Id, string Text)[] All =
    [
        .. Left("error", "{what} {why}[{reason^}.]", "{todo}"),
        .. Left("beyond", "keel does not change this.", "{todo}"),
        .. Left(
            "no-repair",
            "keel has no safe repair for this.",
            "'keel explain' with the name of this finding says what it leads to and what else to look at, at {link}."),
        .. Left(
            "not-made-for",
            "The repair met something that it was not made for ({exception}).",
            "Please report it, with what 'keel diagnose' says."),
        .. Left(
            "no-help",
            "The repair was tried in memory, and what is wrong still stood after it.",
            "'keel explain' with the name of this finding says what else to look at."),
        .. Left(
            "session-open",
            "Windows is hibernated on {volume}, and has its volumes open; resuming over changes would damage them.",
            "Start it, and shut it down fully. If it neither resumes nor starts, add --give-up-session."),
        .. Left(
            "stops-earlier",
            "The repair was tried in memory, and the machine would then stop earlier, at {link}.",
            "Mend what comes before it first."),
        .. Left(
            "chain-stays-broken",
            "The chain behind the entry stays broken, and the machine may start in another way as it is.",
            "Mend what is broken behind it first; the entry is put right then."),
        .. Left(
            "system-volume-not-known",
            "The system volume is not known.",
            "'keel survey' shows the volumes, and 'keel layout show' what no table lists."),
        .. Left(
            "system-volume-unreadable",
            "The system volume can't be read.",
            "See what is wrong with it first: 'keel sector show' and 'keel layout show'."),
        .. Left(
            "foreign-code",
            "{reason^}; replacing it could take another system's start away.",
            "If only Windows is to start from this disk, run the same command with --replace-foreign."),
        .. Left(
            "none-to-activate",
            "No volume holds boot files, so none can be told to be the system volume.",
            "Name it: keel mbr activate DISK --volume N"),
        .. Left(
            "table-not-told",
            "The file systems on the disk do not tell where the partitions should be.",
            "If this is an image, compare its size with the disk's: it may be cut short. Otherwise bring the table back from "
                + "a saved copy."),
        .. Left(
            "table-disk-fails",
            "The disk gives read errors, and a search for lost volumes would strain it.",
            Image),
        .. Left(
            "table-is-volume",
            "It is a volume from its first sector on: there is no room for a table.",
            "Name the whole disk, or an image of the whole disk, that this volume belongs to."),
        .. Left(
            "table-two-readings",
            "What stands on {disk} can be read in two ways, and both are as well borne out.",
            "See both, and choose: keel layout rescue {disk}"),
        .. Left(
            "table-nothing-found",
            "No volume was found at the places where volumes usually begin.",
            "Let every sector be searched: keel layout rescue {disk} --thorough"),
        .. Left(
            "table-not-certain",
            "Volumes were found on {disk}, and not all of them for certain.",
            "See what speaks for each, and decide: keel layout rescue {disk} --thorough"),
        .. Left(
            "table-no-system",
            "The volumes that were found on {disk} hold nothing that a machine starts from; others may be missing.",
            "Let every sector be searched: keel layout rescue {disk} --thorough"),
        .. Left(
            "table-no-room",
            "The table can't list what was found: more than four primary partitions, no place for the chain of the others, or a "
                + "volume where a copy of the table belongs.",
            "Copy the volumes to another disk from an image of this one, or bring the table back from a saved copy."),
        .. Left(
            "table-link-not-found",
            "The link that names the logical partition of {volume} was not found.",
            "Mend the chain of logical partitions first: keel diagnose DISK"),
        .. Left(
            "partition-no-room",
            "Behind {volume} is no room for the whole file system.",
            "Make an image of the disk, and look for what stands behind the partition: keel layout show DISK --thorough"),
        .. Left(
            "entry-several-fit",
            "\"{title}\" may mean any of these: {installations;}.",
            "Say which of them by its number: keel mend DISK --installation N"),
        .. Left(
            "mirror-not-enough",
            "More of $MFT of {volume} is gone than its mirror holds, and the volume can't be read with that alone.",
            "Make an image of the disk, and have the data recovered from it; keel writes nothing there."),
        .. Left("gpt-not-guessed", "The entries of a GPT are not guessed at.", SavedCopy),
        .. Left(
            "gpt-past-end",
            "Partitions end beyond the disk, so its end is not where the backup table belongs.",
            "If this is an image, compare its size with the disk's: it is cut short. A smaller disk wants a layout of its own "
                + "first."),
        .. Left(
            "gpt-copies-differ",
            "The two copies of the GPT name different partitions, and neither can be told to be the right one.",
            "Compare both with the file systems that are on the disk, and bring the right one back with a partition program."),
        .. Left(
            "gpt-no-room",
            "A partition stands where a copy of the table belongs, at an end of the disk: nothing is written over a partition.",
            "Shrink that partition by a few MiB with the system that uses it, or copy the disk to a larger one; the table "
                + "mends itself then."),
        .. Left(
            "gpt-no-room.type",
            "A partition stands where a copy of the table belongs, at an end of the disk: nothing is written over a partition.",
            "Set the type of the partition with a partition program, once there is room."),
        .. Left("gpt-no-sound-copy", "Neither copy of the GPT is sound.", SavedCopy),
        .. Left(
            "records-elsewhere",
            "The records do not stand where they say, so neither they nor the boot sector can be trusted.",
            Image),
        .. Left("sector-nothing-to-rebuild", "Neither a backup copy nor $MFT nor a pair of FATs was found on {volume}.", Image),
        .. Left("mft-both-damaged", "Neither $MFT's first records nor their mirror are whole.", Image),
        .. Left("esp-nothing-to-restore", "Neither a FAT file system nor a backup copy of its boot sector is there.", Format),
        .. Left(
            "esp-no-windows",
            "No Windows of NT 6 or later was found, so nothing could be put on a new EFI system partition.",
            "Name the machine's other disks with --with."),
        .. Left(
            "esp-on-other-disk",
            "{volume} of {disk} is an EFI system partition; the machine may start from that disk.",
            "Name that disk first: keel diagnose {disk} --with the others"),
        .. Left(
            "esp-no-free-space",
            "There are no 100 MiB of free space on the disk for a new one, and keel shrinks nothing.",
            "Shrink a volume with the system that uses it, or move the last one; then run keel mend again."),
        .. Left(
            "esp-holds-traces",
            "At byte {atByte} of it stands something that looks like {type}, so files may be left on it.",
            "Make an image of the disk first. If nothing there is wanted: keel files renew DISK --new-file-system"),
        .. Left("esp-both-tables-bad", "Neither of its two tables leads to every file.", Format),
        .. Left("esp-tables-alike", "Its two tables are alike, so neither can mend the other.", Format),
        .. Left(
            "esp-of-mbr",
            "The old partition table has another way to mark it.",
            "Set its type to EF with a partition program."),
        .. Left("store-unreadable", "The store can't be read.", "Mend the store first."),
        .. Left(
            "nothing-says",
            "Nothing here says what would be right.",
            "Look at the entries with 'keel store list', and change them with 'keel store change'."),
        .. Left(
            "no-such-volume",
            "No volume here holds what the entry names.",
            "If Windows lies on another disk of the machine, add it with --with; otherwise its disk is missing: check cable "
                + "and firmware settings."),
        .. Left(
            "no-installation",
            "No Windows installation was found: {volumeCount:volume was|volumes were} looked at.",
            "If Windows lies on another disk, add it with --with; if its volume is encrypted or damaged, that comes first."),
        .. Left(
            "no-boot-file-copies",
            "No Windows on the disks given has copies of the boot files ({installationCount} looked at).",
            "Bring an installation medium of the same Windows, mount it, and run: keel files renew DISK --from FOLDER"),
        .. Left(
            "copies-damaged",
            "No copy of {path} that was found is sound: {files}.",
            "Bring an installation medium of the same Windows, mount it, and run: keel files renew DISK --from FOLDER"),
        .. Left(
            "signature-taken",
            "The store knows the disk as {signature}, and {otherDisk} has that signature.",
            "Take the other disk out, and run the same command again."),
        .. Left(
            "entry-elsewhere",
            "\"{title}\" means {device}, which is not here.",
            "If it lies on another disk of the machine, name that with --with. If it is gone for good, take the entry out: "
                + "keel store drop DISK ENTRY"),
        .. Left(
            "entry-twins",
            "\"{title}\" means {device}, which is not here, and several Windows here may be the one: {installations}.",
            "Say which: keel store change DISK ENTRY windows-volume=volume:N program-volume=volume:N"),
        .. Left(
            "entry-locked",
            "\"{title}\" means {device}, which is not here; on a cloned disk it may be behind the lock of {names}.",
            "Unlock it with its recovery key in Windows' own recovery, or decrypt an image of it; then run the same command "
                + "again. If the disk is a clone, say that the entry means it: keel store change DISK ENTRY "
                + "windows-volume=volume:N program-volume=volume:N"),
        .. Left(
            "entry-elsewhere-several",
            "\"{title}\" means {device}, which is not here, and several other entries are sound: {names}.",
            "If it lies on another disk of the machine, name that with --with. Otherwise choose: keel store prefer DISK ENTRY"),
        .. Left(
            "no-trusted-copy",
            "No copy of {path} is at hand that the firmware of this machine would start.",
            "Bring an installation medium that is up to date, mount it, and run: keel files renew DISK --from FOLDER. Where "
                + "the keys were lost, restore the factory keys in the firmware's settings."),
        .. Left("file-volume-unreadable", "The file's volume can't be read.", "Mend the file system first."),
        .. Left(
            "no-spare-copy",
            "The installation keeps no sound spare copy of {names}: its boot file copies, component store and driver store "
                + "were looked through, and the volume's snapshots.",
            BringProgram),
        .. Left(
            "copy-of-other-revision",
            "The only sound copy of {names} is {source}: version {version}, and this Windows is at revision {numberBefore}.",
            "To take it all the same: 'keel mend DISK --other-revision'. Better: a medium of that revision, with --from."),
        .. Left(
            "spare-copy-older",
            "The newest spare copy of {names} is {version}, older than the {otherVersion} that is there.",
            BringProgram),
        .. Left("windows-not-reached", "The Windows that is started is not reached.", "Mend what comes before it."),
        .. Left("hive-first", "The SYSTEM hive comes first.", "Mend what comes before it."),
        .. Left(
            "hive-backup-empty",
            "{path} is empty: since Windows 10 1803 the automatic backup is off unless it was switched on.",
            BringHive),
        .. Left(
            "hive-backup-unusable",
            "Its logs do not have the rest, and the automatic backup copy can't be used: {reason}.",
            BringHive),
        .. Left(
            "snapshots-unread",
            "Windows keeps no sound copy beside it, and its snapshots can't be looked into: {said}",
            "{todo}"),
        .. Left(
            "software-no-copy",
            "Neither a copy that Windows keeps nor a snapshot of the volume has a sound one.",
            BringSoftware),
        .. Left(
            "hive-no-copy",
            "Neither a copy that Windows keeps nor a snapshot of the volume has a sound {path}.",
            "Bring that hive from a backup of this machine; one of another machine does not fit."),
        .. Left(
            "letter-by-hand",
            "Which of the letters are to change places can't be told from the hive.",
            "With the wrong disks taken out, Windows may find its letter by itself; else see MountedDevices in the SYSTEM hive."),
        .. Left("hive-no-control-set", "The hive has no control set at all.", BringHive),
        .. Left(
            "catalog-name-taken",
            "Other catalogs have its names in {path}.",
            "Have Windows install the driver's package again, or bring a newer one: keel services install DISK FOLDER"),
        .. Left(
            "catalog-unsigned",
            "{path} is no catalog any more, or its signature does not fit it.",
            "Bring the driver's package from its maker: keel services install DISK FOLDER"),
        .. Left(
            "controller-not-staged",
            "{path} has no signed driver of a disk controller that could be installed from its own INF.",
            "Bring the driver of this machine's disk controller: keel services install DISK FOLDER. Or set the controller to the "
                + "mode that it had, in the firmware's settings."),
        .. Left(
            "drivers-without-files",
            "None of these drivers has its file.",
            "Bring the driver of the disk's controller, or set the controller to AHCI in the firmware's settings."),
        .. Left(
            "logon-program-gone",
            "The usual program, {path}, is not there itself.",
            "Bring it from a medium of the same Windows: keel files put DISK FILE PATH"),
        .. Left(
            "hive-not-changed",
            "The hive can't be changed in place: {reason}.",
            "Mend what is wrong before it, and run the same command again."),
        .. Left(
            "nt5-no-copy",
            "No sound copy of {path} is on the disks: not among the files of a service pack, nor where Windows keeps copies.",
            "Mount an installation medium of the same Windows, and run: keel files renew --from FOLDER"),
        .. Left(
            "boot-line-several-fit",
            "{device} leads nowhere, and nothing says which of the installations it means.",
            "Change the line yourself: keel bootini list shows the lines, keel bootini change corrects one."),

        // why a command that was asked for is refused
        (
            "no-boot-code",
            "This disk is laid out for UEFI ({reason}), and UEFI firmware uses no boot code: it starts the boot manager's file "
                + "itself."),
        (
            "nt5-no-use",
            "The machine starts through the loader of NT 5 ({reason}): a store, a boot manager or its boot code would be of no "
                + "use to it."),
        ("no-table-on", "{disk} has no partition table: {reason}."),
        (
            "bios-files-on-uefi",
            "Boot files for BIOS were asked for, and this disk is laid out for UEFI ({reason}): BIOS could not start them."),
        ("uefi-finds-nothing", "The disk is laid out for BIOS ({reason}), and UEFI firmware finds nothing on it.")
    ];

    private static (string Id, string Text)[] Left(
        string id,
        string why,
        string todo) => [($"left.{id}", why), ($"left.{id}.todo", todo)];
}
