using System.Runtime.InteropServices;

namespace Keel.Core.Hives;

/// <summary>The cell of a value that is kept in pieces: 8 bytes (published notes on the regf format, "Big data").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct HivePiecesRecord
{
    /// <summary>"db".</summary>
    public const ushort UsualMark = 0x6264;

    public ushort Mark;
    public ushort Count;
    public uint List;                   // a cell with the cells of the pieces
}
