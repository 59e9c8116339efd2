using System.Runtime.CompilerServices;

namespace Keel.Core.Blocks;

/// <summary>Eleven bytes in a packed record, such as a short name or a label.</summary>
[InlineArray(11)]
internal struct Bytes11
{
    private byte first;

    public static Bytes11 Of(ReadOnlySpan<byte> bytes)
    {
        var result = default(Bytes11);
        bytes.CopyTo(result);
        return result;
    }
}
