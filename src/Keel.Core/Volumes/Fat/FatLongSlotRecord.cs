using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Fat;

/// <summary>13 letters of a long name: 32 bytes (Microsoft FAT specification 1.03, "Long Directory Entries").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct FatLongSlotRecord
{
    /// <summary>How many letters a slot holds.</summary>
    public const int LetterCount = 13;

    public byte Number;                 // from 1; the last part has a bit of its own, and stands first
    public Letters5 First;
    public byte Marks;
    public byte Type;                   // 0
    public byte Checksum;               // of the short name
    public Letters6 Second;
    public ushort Cluster;              // 0
    public Letters2 Third;

    /// <summary>A letter of the part, 0 to 12.</summary>
    public ushort this[int index]
    {
        readonly get => index < 5 ? First[index] : index < 11 ? Second[index - 5] : Third[index - 11];
        set
        {
            if (index < 5) First[index] = value;
            else if (index < 11) Second[index - 5] = value;
            else Third[index - 11] = value;
        }
    }

    [InlineArray(5)]
    public struct Letters5
    {
        private ushort first;
    }

    [InlineArray(6)]
    public struct Letters6
    {
        private ushort first;
    }

    [InlineArray(2)]
    public struct Letters2
    {
        private ushort first;
    }
}
