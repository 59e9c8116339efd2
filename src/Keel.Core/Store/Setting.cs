namespace Keel.Core.Store;

/// <summary>A setting under keel's own name.</summary>
/// <param name="Element">The number of its element.</param>
/// <param name="Scope">Which entries have it.</param>
/// <param name="Name">Its name.</param>
/// <param name="Meaning">What it does to a start.</param>
/// <param name="Choices">Words for its numbers, from 0; empty where it is a plain number.</param>
public sealed record Setting(uint Element, SettingScope Scope, string Name, string Meaning, params string[] Choices)
{
    /// <summary>The format of its element.</summary>
    public SettingFormat Format => FormatOf(Element);

    /// <summary>The format of an element, by its number.</summary>
    public static SettingFormat FormatOf(uint element) =>
        (element >> 24 & 0xF) is var format and <= 7 ? (SettingFormat)format : SettingFormat.Other;
}
