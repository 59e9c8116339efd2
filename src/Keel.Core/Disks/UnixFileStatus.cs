namespace Keel.Core.Disks;

/// <summary>What the kernel tells of a file (struct statx, linux/stat.h).</summary>
/// <param name="Kind">Ordinary file, folder, device ...</param>
/// <param name="Id">The file itself.</param>
/// <param name="Born">When it was created, in nanoseconds since 1970; null where its file system does not keep that.</param>
/// <param name="Device">For a device file: the device that it stands for.</param>
/// <param name="Permissions">The lower bits of its mode.</param>
internal sealed record UnixFileStatus(UnixFileKind Kind, FileId Id, long? Born, DeviceNumber Device, uint Permissions)
{
    public const int RecordBytes = 256;
    private const int MaskAt = 0, ModeAt = 28, InodeAt = 32, BornSecondsAt = 80, BornNanosecondsAt = 88;
    private const int DeviceMajorAt = 128, DeviceMinorAt = 132, HolderMajorAt = 136, HolderMinorAt = 140;
    private const int TypeMask = 0xF000;
    private const uint HasBirthTime = 0x800;                    // STATX_BTIME
    private const long NanosecondsASecond = 1_000_000_000;

    public static UnixFileStatus Read(ReadOnlySpan<byte> record) => new(
        (UnixFileKind)(BitConverter.ToUInt16(record[ModeAt..]) & TypeMask),
        new FileId(
            BitConverter.ToUInt32(record[HolderMajorAt..]),
            BitConverter.ToUInt32(record[HolderMinorAt..]),
            BitConverter.ToUInt64(record[InodeAt..])),
        BirthTime(record),
        new DeviceNumber(BitConverter.ToUInt32(record[DeviceMajorAt..]), BitConverter.ToUInt32(record[DeviceMinorAt..])),
        (uint)(BitConverter.ToUInt16(record[ModeAt..]) & ~TypeMask));

    private static long? BirthTime(ReadOnlySpan<byte> record)
    {
        if ((BitConverter.ToUInt32(record[MaskAt..]) & HasBirthTime) == 0) return null;
        var seconds = BitConverter.ToInt64(record[BornSecondsAt..]);
        return seconds > 0 ? (seconds * NanosecondsASecond) + BitConverter.ToUInt32(record[BornNanosecondsAt..]) : null;
    }
}
