using System.Runtime.InteropServices;

namespace Keel.Core.Hives;

/// <summary>A key's cell up to its name: 76 bytes (published notes on the regf format, "Key node").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct HiveKeyRecord
{
    /// <summary>"nk".</summary>
    public const ushort UsualMark = 0x6B6E;

    public ushort Mark;
    public ushort Flags;
    public long LastWritten;            // 100 ns since 1601
    public uint Access;
    public uint Parent;
    public uint SubkeyCount;
    public uint VolatileCount;
    public uint SubkeyList;
    public uint VolatileList;
    public uint ValueCount;
    public uint ValueList;
    public uint Security;
    public uint ClassName;
    public uint LongestSubkeyName;      // bytes, as UTF-16
    public uint LongestClassName;
    public uint LongestValueName;
    public uint LongestValueData;
    public uint WorkVar;
    public ushort NameLength;           // bytes
    public ushort ClassLength;          // bytes
}
