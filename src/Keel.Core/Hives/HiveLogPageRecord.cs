using System.Runtime.InteropServices;

namespace Keel.Core.Hives;

/// <summary>Which bytes of a hive a log entry has: 8 bytes.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct HiveLogPageRecord
{
    public uint Offset;                 // from the end of the base block
    public uint Size;
}
