namespace Keel.Core.Store;

/// <summary>How the value of an element is kept (bits 24 to 27 of its number).</summary>
public enum SettingFormat
{
    /// <summary>A format that is not known.</summary>
    Other = 0,

    Device = 1,

    Text = 2,

    /// <summary>One entry.</summary>
    Entry = 3,

    /// <summary>Several entries, in order.</summary>
    EntryList = 4,

    /// <summary>A number of 64 bits.</summary>
    Number = 5,

    /// <summary>Yes or no.</summary>
    YesNo = 6,

    /// <summary>Several numbers.</summary>
    NumberList = 7
}
