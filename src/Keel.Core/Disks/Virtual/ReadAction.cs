namespace Keel.Core.Disks.Virtual;

/// <summary>Fills a buffer from a place of a file, in bytes.</summary>
internal delegate void ReadAction(long offsetBytes, Span<byte> buffer);
