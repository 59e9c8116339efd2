namespace Keel.Cli.Wording;

/// <summary>What a check of a recovery medium found.</summary>
internal static class StickWords
{
    public static readonly (string Id, string Text)[] All =
    [
        (
            "stick.no-checksum",
            "It carries no checksum of its own: whether it is whole shows beside its image, with --image FILE."),
        (
            "stick.checksum-wrong",
            "It does not fit the checksum that it carries: something on it has changed, or can't be read right."),
        ("stick.too-short", "It has {sizeBytes:byte|bytes}, and what was written to it {neededBytes}."),
        ("stick.differs", "At byte {atBytes} it is not what the image is."),
        ("stick.no-boot-code", "Its first sector has no boot code: a machine with BIOS does not start it."),
        ("stick.no-efi-partition", "It has no EFI system partition: a machine with UEFI does not start it."),
        ("stick.efi-unreadable", "The EFI system partition, {volume}, can't be read: a machine with UEFI does not start it."),
        ("stick.no-firmware-file", "{path} is not on {volume}: a machine with UEFI does not start it."),
        ("stick.firmware-file-bad", "{path} on {volume} is damaged: a machine with UEFI does not start it."),
        (
            "stick.no-log",
            "It has no partition KEELLOG: what a repair overwrites is kept in memory there, and gone after a restart."),
        ("stick.log-unreadable", "The file system of {volume}, for the logbook, can't be read.")
    ];
}
