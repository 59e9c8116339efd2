using System.Globalization;
using System.Xml;
using Keel.Core.Errors;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>What a Windows remembers of its recovery environment.</summary>
/// <param name="Entry">The entry that starts it; null where none is told.</param>
/// <param name="IsOff">Somebody switched it off, so that it has no entry on purpose.</param>
/// <param name="Folder">The folder of its image; null where none is told.</param>
/// <param name="OffsetBytes">Where the partition of the image begins on its disk.</param>
public sealed record RecoverySettings(EntryId? Entry, bool IsOff, string? Folder, long? OffsetBytes)
{
    private const int MostBytes = 64 * 1024;

    /// <summary>Whether it remembers one that is on: only then its Windows misses it.</summary>
    public bool IsTold => !IsOff && (Entry is not null || Folder is not null || OffsetBytes is not null);

    /// <summary>Nothing is remembered.</summary>
    public static RecoverySettings None { get; } = new(null, IsOff: false, null, null);

    /// <summary>Reads them from the folder of a Windows; what is missing or damaged is taken as not told.</summary>
    /// <param name="files">The files of its volume.</param>
    /// <param name="windowsFolder">Such as <c>\Windows</c>.</param>
    public static RecoverySettings Read(IVolume files, string windowsFolder)
    {
        var path = $@"{windowsFolder}\System32\Recovery\ReAgent.xml";
        try
        {
            return files.Find(path) is { IsFolder: false, SizeBytes: > 0 and <= MostBytes } ? Read(files.ReadFile(path)) : None;
        }
        catch (Exception e) when (e is KeelException or XmlException)
        {
            return None;
        }
    }

    private static RecoverySettings Read(byte[] file)
    {
        var settings = None;
        using var stream = new MemoryStream(file);
        var terms = new XmlReaderSettings { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null };
        using var reader = XmlReader.Create(stream, terms);
        while (reader.Read())
        {
            if (reader.NodeType != XmlNodeType.Element) continue;
            settings = reader.Name switch
            {
                "WinreBCD" => settings with { Entry = IdOf(reader.GetAttribute("id")) },
                "InstallState" => settings with { IsOff = reader.GetAttribute("state") == "0" },
                "WinreLocation" => settings with
                {
                    Folder = reader.GetAttribute("path") is { Length: > 0 } folder ? folder.TrimEnd('\\') : null,
                    OffsetBytes = NumberOf(reader.GetAttribute("offset"))
                },
                _ => settings
            };
        }

        return settings;
    }

    private static EntryId? IdOf(string? text) => EntryId.TryParse(text) is { } id && id.Value != default ? id : null;

    private static long? NumberOf(string? text) =>
        long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) && number > 0 ? number : null;
}
