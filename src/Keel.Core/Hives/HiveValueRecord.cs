using System.Runtime.InteropServices;

namespace Keel.Core.Hives;

/// <summary>A value's cell up to its name: 20 bytes (published notes on the regf format, "Key value").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct HiveValueRecord
{
    /// <summary>"vk".</summary>
    public const ushort UsualMark = 0x6B76;

    /// <summary>Set in the size where the data stands in the place of its cell.</summary>
    public const uint InlineFlag = 0x80000000;

    /// <summary>Set in the flags where the name has one byte a letter.</summary>
    public const ushort AsciiName = 1;

    public ushort Mark;
    public ushort NameLength;           // bytes
    public uint Size;
    public uint Data;
    public uint Type;
    public ushort Flags;
    public ushort Spare;
}
