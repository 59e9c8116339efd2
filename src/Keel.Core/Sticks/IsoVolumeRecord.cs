using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Text;

namespace Keel.Core.Sticks;

/// <summary>The primary volume descriptor of a CD image: 2048 bytes in its sector 16 (ECMA-119, 8.4).</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct IsoVolumeRecord
{
    public const int SectorBytes = 2048, AtBytes = 16 * SectorBytes, Size = SectorBytes;

    /// <summary>Where the field for programs' own use begins in the record, and its length, in bytes.</summary>
    public const int ProgramFieldAt = 883, ProgramFieldBytes = 512;

    private const byte PrimaryKind = 1;

    public byte Kind;
    public MarkField Mark;                  // "CD001"
    public byte Version;
    public byte Unused;
    public LabelField System;
    public LabelField Label;
    private readonly RestField rest;

    public readonly bool IsPrimary => Kind == PrimaryKind && Mark.IsUsual;

    /// <summary>The mark of a CD image.</summary>
    [InlineArray(5)]
    public struct MarkField
    {
        private byte first;

        public readonly bool IsUsual => ((ReadOnlySpan<byte>)this).SequenceEqual("CD001"u8);
    }

    /// <summary>A name, filled up with spaces.</summary>
    [InlineArray(32)]
    public struct LabelField
    {
        private byte first;

        public override readonly string ToString() => Encoding.Latin1.GetString(this).TrimEnd(' ', '\0');
    }

    /// <summary>What keel does not read.</summary>
    [InlineArray(Size - 72)]
    private struct RestField
    {
        private byte first;
    }
}
