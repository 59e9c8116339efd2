namespace Keel.Core.BootCode.Loading;

/// <summary>A run of a stream.</summary>
/// <param name="Clusters">How many.</param>
/// <param name="First">The first cluster on the volume; null where nothing is stored.</param>
internal readonly record struct NtfsRun(long Clusters, long? First);
