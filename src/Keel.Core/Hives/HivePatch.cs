namespace Keel.Core.Hives;

/// <summary>Bytes to be written over a hive's file.</summary>
/// <param name="At">Where, in bytes from the beginning of the file.</param>
/// <param name="Bytes">What.</param>
public sealed record HivePatch(long At, byte[] Bytes);
