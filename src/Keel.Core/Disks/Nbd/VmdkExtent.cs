namespace Keel.Core.Disks.Nbd;

/// <summary>A part of a VMDK, as a line of its text names it.</summary>
/// <param name="Sectors">Its length, in sectors of 512 bytes.</param>
/// <param name="Kind">FLAT, VMFS, SPARSE or VMFSSPARSE.</param>
/// <param name="Path">Its file; as it is written in the text, or, once it is resolved, full.</param>
/// <param name="FirstSector">Where a flat part begins in its file, in sectors; null where that is not said.</param>
internal sealed record VmdkExtent(long Sectors, string Kind, string Path, long? FirstSector);
