namespace Keel.Core.Disks.Virtual;

/// <summary>A run of a virtual disk that comes from one place.</summary>
/// <param name="Source">Where its bytes come from.</param>
/// <param name="At">Where in the file, in bytes; only where they come from there.</param>
/// <param name="Length">Its length in bytes.</param>
internal readonly record struct DiskPiece(PieceSource Source, long At, int Length);
