namespace Keel.Core.Store;

/// <summary>How the value of an element is kept (bits 24 to 27 of its number).</summary>
public enum SettingFormat
{
    Other = 0,
    Device = 1,
    Text = 2,
    Entry = 3,
    EntryList = 4,
    Number = 5,
    YesNo = 6,
    NumberList = 7
}
