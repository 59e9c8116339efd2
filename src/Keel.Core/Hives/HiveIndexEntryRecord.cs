using System.Runtime.InteropServices;

namespace Keel.Core.Hives;

/// <summary>A key in an index: 8 bytes, of which "li" and "ri" have the first 4.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct HiveIndexEntryRecord
{
    public uint Cell;
    public uint Hint;                   // letters of the name, or its hash
}
