using System.Buffers.Binary;
using System.Text;

namespace Keel.Core.EventLogs;

/// <summary>Reads on through bytes. Past the end it gives zeros and remembers that it failed: a loop needs one check.</summary>
internal ref struct ByteCursor(ReadOnlySpan<byte> bytes, int at)
{
    private readonly ReadOnlySpan<byte> bytes = bytes;

    /// <summary>Where it stands, in bytes.</summary>
    public int At { get; private set; } = at;

    /// <summary>Whether anything was asked for that is not there, or that makes no sense.</summary>
    public bool Failed { get; private set; }

    /// <summary>Whether it stands at or behind a place.</summary>
    public readonly bool IsPast(int end) => Failed || At >= end;

    public void Fail() => Failed = true;

    public ReadOnlySpan<byte> Take(int count)
    {
        if (Failed || count < 0 || At < 0 || At > bytes.Length || count > bytes.Length - At)
        {
            Failed = true;
            return default;
        }

        var taken = bytes.Slice(At, count);
        At += count;
        return taken;
    }

    public void Skip(int count) => Take(count);

    public byte Byte() => Take(sizeof(byte)) is [var value] ? value : (byte)0;

    public ushort UInt16() =>
        Take(sizeof(ushort)) is { Length: > 0 } taken ? BinaryPrimitives.ReadUInt16LittleEndian(taken) : (ushort)0;

    public uint UInt32() => Take(sizeof(uint)) is { Length: > 0 } taken ? BinaryPrimitives.ReadUInt32LittleEndian(taken) : 0;

    /// <summary>A number that must be a place in these bytes, or a count of them.</summary>
    public int Offset()
    {
        var value = UInt32();
        if (value <= (uint)bytes.Length) return (int)value;
        Failed = true;
        return 0;
    }

    /// <summary>UTF-16 text of so many characters.</summary>
    public string Text(int characters) => Encoding.Unicode.GetString(Take(characters * sizeof(char)));
}
