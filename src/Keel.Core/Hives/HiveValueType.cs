namespace Keel.Core.Hives;

/// <summary>The types of registry values; others occur and are kept as numbers.</summary>
public enum HiveValueType : uint
{
    None = 0,
    Text = 1,
    ExpandableText = 2,
    Binary = 3,
    Number = 4,
    BigEndianNumber = 5,
    Link = 6,
    TextList = 7,
    LongNumber = 11
}
