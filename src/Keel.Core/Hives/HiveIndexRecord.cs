using System.Runtime.InteropServices;

namespace Keel.Core.Hives;

/// <summary>How an index of subkeys begins: 4 bytes (published notes on the regf format, "Subkeys list").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct HiveIndexRecord
{
    /// <summary>"lf": each key with the first letters of its name.</summary>
    public const ushort Fast = 0x666C;

    /// <summary>"lh": each key with a hash of its name.</summary>
    public const ushort Hashed = 0x686C;

    /// <summary>"li": keys alone.</summary>
    public const ushort Plain = 0x696C;

    /// <summary>"ri": other indexes.</summary>
    public const ushort Root = 0x6972;

    public ushort Mark;
    public ushort Count;

    public readonly bool IsKnown => Mark is Fast or Hashed or Plain or Root;
}
