namespace Keel.Core.Hives;

/// <summary>The types of registry values; others occur and are kept as numbers.</summary>
public enum HiveValueType : uint
{
    /// <summary>No type.</summary>
    None = 0,

    /// <summary>Text in UTF-16.</summary>
    Text = 1,

    /// <summary>Text with names of environment variables.</summary>
    ExpandableText = 2,

    /// <summary>Bytes.</summary>
    Binary = 3,

    /// <summary>A number of 32 bits, little-endian.</summary>
    Number = 4,

    /// <summary>A number of 32 bits, big-endian.</summary>
    BigEndianNumber = 5,

    /// <summary>The path of another key.</summary>
    Link = 6,

    /// <summary>Several texts.</summary>
    TextList = 7,

    /// <summary>A number of 64 bits, little-endian.</summary>
    LongNumber = 11
}
