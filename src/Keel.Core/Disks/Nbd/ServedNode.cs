using System.Text.Json;

namespace Keel.Core.Disks.Nbd;

/// <summary>
/// One layer of what a helper serves, resolved to its last file: the helper is told all of it, and follows no name that stands
/// in an image.
/// </summary>
/// <param name="Driver">The format in the helper's words.</param>
/// <param name="Path">Its own file, full and with links followed.</param>
internal sealed record ServedNode(string Driver, string Path)
{
    /// <summary>The file whose blocks count where this one has none; null for none.</summary>
    public ServedNode? Backing { get; init; }

    /// <summary>The file that keeps the data of a qcow2 outside of it; null for none.</summary>
    public string? DataFile { get; init; }

    /// <summary>The parts of a VMDK that is a text; empty for other forms.</summary>
    public IReadOnlyList<VmdkExtent> Extents { get; init; } = [];

    /// <summary>Whether its blocks are packed, so that none can be written in its place.</summary>
    public bool IsPacked { get; init; }

    /// <summary>The files that a write to it changes.</summary>
    public IEnumerable<string> WrittenFiles =>
        [Path, .. DataFile is null ? Array.Empty<string>() : [DataFile], .. Extents.Select(extent => extent.Path)];

    /// <summary>The files that are read only.</summary>
    public IEnumerable<string> ReadFiles => Backing is null ? [] : [.. Backing.WrittenFiles, .. Backing.ReadFiles];

    /// <summary>The same in the helper's words (QAPI, "BlockdevOptions"), as the name that it is given.</summary>
    /// <param name="folder">A private folder for files that it needs besides.</param>
    /// <param name="forWriting">Whether it is to be written. Who only looks takes no locks.</param>
    public string Describe(string folder, bool forWriting)
    {
        using var text = new MemoryStream();
        using (var json = new Utf8JsonWriter(text)) Write(json, folder, depth: 0, forWriting);
        return $"json:{System.Text.Encoding.UTF8.GetString(text.ToArray())}";
    }

    private void Write(Utf8JsonWriter json, string folder, int depth, bool forWriting)
    {
        json.WriteStartObject();
        json.WriteString("driver", Driver);
        json.WriteBoolean("read-only", !forWriting);
        if (!forWriting) json.WriteBoolean("force-share", true);
        var file = Extents.Count > 0 ? VmdkText.WriteResolved(Extents, System.IO.Path.Combine(folder, $"{depth}")) : Path;
        WriteFile(json, "file", file, forWriting);
        if (DataFile is not null) WriteFile(json, "data-file", DataFile, forWriting);
        if (Backing is not null)
        {
            json.WritePropertyName("backing");
            Backing.Write(json, folder, depth + 1, forWriting: false);
        }
        else if (Driver is "qcow2" or "vmdk")
        {
            json.WriteNull("backing");
        }

        json.WriteEndObject();
    }

    private static void WriteFile(Utf8JsonWriter json, string name, string path, bool forWriting)
    {
        json.WriteStartObject(name);
        json.WriteString("driver", DiskPath.IsBlockDevice(path) ? "host_device" : "file");
        json.WriteString("filename", path);
        json.WriteBoolean("read-only", !forWriting);
        json.WriteEndObject();
    }
}
