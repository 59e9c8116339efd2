using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Snapshots;

/// <summary>
/// The head of a volume's snapshots, in the last of its 16 boot sectors: 64 bytes ("Volume header" of the Volume Shadow
/// Snapshot format documentation of libvshadow).
/// </summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct SnapshotHeadRecord
{
    /// <summary>Where it stands, in bytes from the volume's start.</summary>
    public const int At = 0x1E00;

    /// <summary>What every structure of snapshots begins with.</summary>
    public static readonly Guid Mark = new("3808876B-C176-4E48-B7AE-04046E6CC752");

    public Guid Identifier;
    public uint Version;                // 1 or 2
    public SnapshotBlockKind Kind;
    public long Place;                  // of itself
    private readonly long padding1;
    private readonly long padding2;
    public long CatalogAt;              // 0 where no snapshot was ever made
    public long MostBytes;              // that snapshots may take
}
