namespace Keel.Core.Store;

/// <summary>Where a device value says that a volume lies which is inside a virtual disk file.</summary>
/// <param name="Holder">The volume that the file is on.</param>
/// <param name="File">The path of the file.</param>
/// <param name="PartitionGuid">The partition inside, on a disk with a GPT; else null.</param>
/// <param name="StartBytes">Where the partition inside begins, in bytes, on a disk with an MBR; else null.</param>
public sealed record VirtualPlace(BootDevice Holder, string File, Guid? PartitionGuid, long? StartBytes);
