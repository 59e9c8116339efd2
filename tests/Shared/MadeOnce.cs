using System.Collections.Concurrent;
using System.Diagnostics;

namespace Keel.Tests;

/// <summary>
/// Files that are slow to make, each made once in a run and copied for every test that wants it, with what was made beside it.
/// </summary>
internal static class MadeOnce
{
    private static readonly ConcurrentDictionary<string, Lazy<Task<string>>> Known = new(StringComparer.Ordinal);

    private static readonly Lazy<string> Folder = new(() =>
    {
        var folder = Directory.CreateTempSubdirectory("keel-made-").FullName;

        // By somebody else: it takes its time, and nobody need wait for it.
        AppDomain.CurrentDomain.ProcessExit += (_, _) => Process.Start("rm", ["-rf", folder]).Dispose();
        return folder;
    });

    /// <summary>Puts a copy where a test wants it.</summary>
    /// <param name="key">What it is made from, whole: the same key is the same file.</param>
    /// <param name="path">Where the copy goes.</param>
    /// <param name="make">Makes it at a path.</param>
    public static async Task Copy(string key, string path, Func<string, Task> make)
    {
        var made = await Known.GetOrAdd(key, _ => new Lazy<Task<string>>(() => Make(make))).Value.ConfigureAwait(false);
        foreach (var one in Directory.GetFileSystemEntries(Path.GetDirectoryName(made)!))
        {
            var target = path + Path.GetFileName(one)[Path.GetFileName(made).Length..];
            if (Path.Exists(target)) throw new IOException($"{target} is there already");
            string[] words = ["--recursive", "--preserve=mode,timestamps", "--sparse=always", one, target];
            await Tool.MustAgree("cp", words).ConfigureAwait(false);
        }
    }

    private static async Task<string> Make(Func<string, Task> make)
    {
        var folder = Directory.CreateDirectory(Path.Combine(Folder.Value, $"{Guid.NewGuid():N}"));
        var path = Path.Combine(folder.FullName, "made.img");
        await make(path).ConfigureAwait(false);
        return path;
    }
}
