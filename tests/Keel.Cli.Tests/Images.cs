using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Looks at images from outside.</summary>
internal static class Images
{
    private const int MiB = 1024 * 1024;
    private static readonly string[] StorePath = ["Boot/BCD"];

    public static Task<string> Hash(string path) => Task.FromResult(SparseHash.Of(path));

    /// <summary>Copies a part of an image into a file.</summary>
    public static string Part(string image, Scratch scratch, string name, int startMiB, int lengthMiB)
    {
        using var from = File.OpenRead(image);
        using var to = File.Create(scratch[name]);
        from.Position = (long)startMiB * MiB;
        var buffer = new byte[MiB];
        for (var part = 0; part < lengthMiB; part++)
        {
            from.ReadExactly(buffer);
            if (buffer.AsSpan().IndexOfAnyExcept((byte)0) < 0)
                to.Position += MiB;
            else
                to.Write(buffer);
        }

        to.SetLength((long)lengthMiB * MiB);
        return scratch[name];
    }

    /// <summary>Lets the file systems and the table of a practice disk be judged by their own tools.</summary>
    public static async Task OthersAgree(string image, Scratch scratch)
    {
        (await Tool.MustAgree("sfdisk", "--verify", image)).ShouldContain("No errors");
        await Tool.MustAgree("ntfsfix", "-n", Part(image, scratch, "system.volume", 1, 64));
        await Tool.MustAgree("ntfsfix", "-n", Part(image, scratch, "windows.volume", 65, 256));
    }

    /// <summary>Takes the store off a practice disk with ntfscat, and lets hivex and libregf read it.</summary>
    public static async Task<string> StoreXml(string image, Scratch scratch)
    {
        var volume = Part(image, scratch, "system.volume", 1, 64);
        await Tool.MustAgree("sh", "-c", $"ntfscat -f {volume} {StorePath[0]} > {scratch["BCD"]}");
        await Tool.MustAgree("regfinfo", scratch["BCD"]);
        return await Tool.MustAgree("hivexml", scratch["BCD"]);
    }

    /// <summary>Where a partition begins, in bytes, as sfdisk says.</summary>
    public static async Task<long> StartOf(string disk, int number)
    {
        var table = await Tool.MustAgree("sfdisk", "--json", disk);
        var partitions = JsonDocument.Parse(table).RootElement.GetProperty("partitiontable").GetProperty("partitions");
        return partitions[number - 1].GetProperty("start").GetInt64() * 512;
    }
}
