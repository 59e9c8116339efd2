using System.Globalization;
using System.IO.Hashing;

namespace Keel.Core.Blocks;

/// <summary>A fast checksum (XXH128): it tells accidents, not attacks.</summary>
public readonly record struct Checksum(UInt128 Value)
{
    /// <summary>The checksum of these bytes.</summary>
    public static Checksum Of(ReadOnlySpan<byte> bytes) => new(XxHash128.HashToUInt128(bytes));

    /// <summary>Reads what <see cref="ToString"/> wrote; null where it is something else.</summary>
    public static Checksum? TryParse(string? text) =>
        text?.Length == 32 && UInt128.TryParse(text, NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var value)
            ? new Checksum(value)
            : null;

    /// <summary>32 hexadecimal digits.</summary>
    public override string ToString() => Value.ToString("x32", CultureInfo.InvariantCulture);
}
