namespace Keel.Core.Disks;

/// <summary>A whole disk of this computer, as the kernel describes it; nothing of it was read.</summary>
/// <param name="Path">The device, such as /dev/sda.</param>
/// <param name="SizeBytes">Its size, in bytes.</param>
/// <param name="Bus">How it is connected.</param>
/// <param name="IsRemovable">Whether it is shown to be plugged in from outside, or its medium to be taken out.</param>
/// <param name="Traits">Model and serial number.</param>
public sealed record ComputerDisk(string Path, long SizeBytes, DiskBus Bus, bool IsRemovable, DiskTraits Traits);
