using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>A write that the log of a VHDX holds, and that may not have been done yet.</summary>
/// <param name="Range">Where in the file.</param>
/// <param name="Bytes">What is written there; null for zeros.</param>
internal sealed record VhdxLogWrite(ByteRange Range, byte[]? Bytes);
