namespace Keel.Core.Store;

/// <summary>A recovery environment that gets an entry.</summary>
/// <param name="Volume">The volume of the image.</param>
/// <param name="File">The path of the image.</param>
/// <param name="SdiVolume">The volume of the file that a ramdisk begins with.</param>
/// <param name="SdiFile">The path of that file.</param>
/// <param name="Id">The entry that its Windows looks for; null where that is not known.</param>
public sealed record RecoveryToList(BootDevice Volume, string File, BootDevice SdiVolume, string SdiFile, EntryId? Id);
