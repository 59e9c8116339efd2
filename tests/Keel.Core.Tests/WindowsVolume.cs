using System.IO.Compression;
using Keel.Core.Disks;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>A volume that Windows itself encrypted, with its keys and the sum of what it holds.</summary>
/// <param name="Name">Which of them.</param>
/// <param name="Password">A password that opens it; null where there is none.</param>
/// <param name="RecoveryKey">The recovery key.</param>
/// <param name="StartupKey">The file of a startup key that opens it; null where there is none.</param>
/// <param name="Sum">The SHA-256 of the plain volume; null where nobody says it.</param>
internal sealed record WindowsVolume(string Name, string? Password, string RecoveryKey, string? StartupKey, string? Sum)
{
    /// <summary>All of them.</summary>
    public static IReadOnlyList<WindowsVolume> All { get; } =
    [
        .. File.ReadLines(Place("volumes.txt"))
            .Where(line => !line.StartsWith('#'))
            .Select(line => line.Split(" | ").Select(word => word == "-" ? null : word).ToArray())
            .Select(words => new WindowsVolume(words[0]!, words[1], words[2]!, words[3], words[4]))
    ];

    public static WindowsVolume Of(string name) => All.First(volume => volume.Name == name);

    /// <summary>A file beside the volumes.</summary>
    public static string Place(string name) => Path.Combine(AppContext.BaseDirectory, "Encrypted", name);

    /// <summary>The volume as a file, with holes where it has zeros.</summary>
    public static string Write(Scratch scratch, string name)
    {
        var pieces = Unpack(name);
        using var file = File.Create(scratch["volume"]);
        file.SetLength(pieces[^1].At);
        foreach (var (at, bytes) in pieces.SkipLast(1))
        {
            file.Position = at;
            file.Write(bytes);
        }

        return scratch["volume"];
    }

    public static DiskFile Open(Scratch scratch, string name) => DiskFile.Open(Write(scratch, name));

    /// <summary>The pieces, and last of all the length of the volume.</summary>
    public static List<(long At, byte[] Bytes)> Unpack(string name)
    {
        using var packed = File.OpenRead(Place($"{name}.gz"));
        using var plain = new GZipStream(packed, CompressionMode.Decompress);
        using var bytes = new MemoryStream();
        plain.CopyTo(bytes);
        using var reader = new BinaryReader(new MemoryStream(bytes.ToArray()));
        var length = reader.ReadInt64();
        var pieces = new List<(long, byte[])>();
        while (reader.BaseStream.Position < reader.BaseStream.Length)
        {
            var at = reader.ReadInt64();
            pieces.Add((at, reader.ReadBytes(reader.ReadInt32())));
        }

        pieces.Add((length, []));
        return pieces;
    }
}
