namespace Keel.Cli.Wording;

/// <summary>What is wrong with partition tables, and why a disk or volume was taken for what.</summary>
internal static class LayoutWords
{
    public static readonly (string Id, string Text)[] All =
    [
        ("table.first-unreadable", "the first sector can't be read from the disk"),
        (
            "table.is-volume",
            "the first sector is that of a volume: this seems to be a partition or an image of one, not a whole disk"),
        ("table.none", "the first sector holds no partition table"),
        ("table.mark-missing", "the first sector does not end with 55 AA"),
        ("table.bad-mark", "slot {slot} has the mark {mark}, which is neither 80 nor 00"),
        ("table.logical-circle", "the chain of logical partitions comes back to sector {sector}"),
        (
            "table.logical-unreadable",
            "sector {sector}, which continues the chain of logical partitions, can't be read from the disk"),
        ("table.logical-ends", "sector {sector} should continue the chain of logical partitions and does not"),
        ("table.none-active", "no partition carries the active mark"),
        ("table.two-active", "partitions {partitions&} all carry the active mark"),
        ("table.past-end", "partition {partition} ends at byte {endByte}, the disk at byte {diskBytes}"),
        (
            "table.overlap",
            "partition {partition} begins at byte {atByte}, inside partition {otherPartition}, which ends at byte {endByte}"),
        ("table.not-protected", "the first sector does not protect the table"),
        ("table.copy", "{said}"),
        ("table.backup-misplaced", "the backup stands in sector {sector}, the disk ends with sector {lastSector}"),
        ("table.gpt-behind", "a whole GPT stands behind the table: one of the two is a left-over"),
        ("table.copies-differ", "the two copies of the table list different partitions"),

        ("firmware.gpt-esp", "GPT, and partition {partition} is an EFI system partition"),
        ("firmware.gpt-alone", "GPT, though without an EFI system partition"),
        ("firmware.fallback-alone", "{volume} has nothing but the file that UEFI firmware starts on a medium"),
        ("system-volume.medium", "it has the file that firmware starts on a medium"),
        ("firmware.mbr-esp", "MBR without an active partition, but partition {partition} is an EFI system partition"),
        ("firmware.mbr-active", "MBR, and partition {partition} is marked active"),
        ("firmware.mbr-alone", "MBR, though no partition is marked active"),
        ("firmware.no-table", "no partition table, so nothing speaks for UEFI"),

        ("system-volume.esp", "it is the EFI system partition"),
        ("system-volume.esp-of-entry", "the firmware's start order names it"),
        ("system-volume.esp-with-files", "it is the EFI system partition that holds boot files"),
        ("system-volume.efi-files", "it holds the EFI boot files, though its type is another"),
        ("system-volume.no-esp", "there is no EFI system partition"),
        ("system-volume.active-with-files", "it is active and holds boot files"),
        ("system-volume.files", "it holds boot files"),
        ("system-volume.files-not-active", "it holds boot files, and the active one does not"),
        ("system-volume.table-damaged", "the partition table is damaged"),
        ("system-volume.active", "it is active"),
        ("system-volume.only", "it is the only one"),
        ("system-volume.none", "no volume is active, and none holds boot files")
    ];
}
