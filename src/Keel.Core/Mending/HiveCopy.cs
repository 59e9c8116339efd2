namespace Keel.Core.Mending;

/// <summary>A sound copy of a hive.</summary>
/// <param name="Bytes">The whole hive.</param>
/// <param name="Taken">When the copy was taken; null where nothing tells.</param>
/// <param name="Folder">The folder that it stands in; null for one in a snapshot.</param>
internal sealed record HiveCopy(byte[] Bytes, DateTimeOffset? Taken, string? Folder);
