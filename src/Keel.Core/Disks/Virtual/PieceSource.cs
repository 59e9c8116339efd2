namespace Keel.Core.Disks.Virtual;

/// <summary>Where the bytes of a run of a virtual disk come from.</summary>
internal enum PieceSource
{
    /// <summary>Nowhere: they are zeros.</summary>
    Zeros,

    /// <summary>The file of the disk itself.</summary>
    File,

    /// <summary>The disk that it differs from.</summary>
    Parent
}
