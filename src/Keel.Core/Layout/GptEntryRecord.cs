using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Text;

namespace Keel.Core.Layout;

/// <summary>An entry of a GUID partition table: 128 bytes (UEFI specification, "GPT Partition Entry").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct GptEntryRecord
{
    public Guid Type;                   // zero where the entry is unused
    public Guid Id;
    public long FirstSector;
    public long LastSector;             // belongs to the partition
    public ulong Attributes;
    public NameField Name;

    public readonly bool IsUsed => Type != Guid.Empty;

    /// <summary>The name, in UTF-16, ended by zeros where it is shorter than 36 letters.</summary>
    [InlineArray(Bytes)]
    public struct NameField
    {
        private const int Bytes = 72;
        private byte first;

        public static NameField Of(string name)
        {
            var field = default(NameField);
            Encoding.Unicode.GetBytes(name, field);
            return field;
        }

        public override readonly string ToString() => Encoding.Unicode.GetString(this).TrimEnd('\0');
    }
}
