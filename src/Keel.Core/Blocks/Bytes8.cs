using System.Runtime.CompilerServices;

namespace Keel.Core.Blocks;

/// <summary>Eight bytes in a packed record, such as a mark.</summary>
[InlineArray(8)]
internal struct Bytes8
{
    private byte first;

    public static Bytes8 Of(ReadOnlySpan<byte> bytes)
    {
        var result = default(Bytes8);
        bytes.CopyTo(result);
        return result;
    }
}
