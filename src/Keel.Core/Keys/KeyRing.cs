namespace Keel.Core.Keys;

/// <summary>The keys that a command was given, and what they opened so far: opening one takes a second of arithmetic.</summary>
public sealed class KeyRing : IDisposable
{
    private readonly List<VolumeKey> keys = [];
    private readonly Dictionary<string, IDisposable?> opened = new(StringComparer.Ordinal);
    private readonly HashSet<VolumeKey> used = [];

    /// <summary>The keys, in the order given.</summary>
    public IReadOnlyList<VolumeKey> Keys => keys;

    /// <summary>
    /// Those that have opened nothing, and were meant for these disks; none of a page that has another one which did.
    /// </summary>
    public IReadOnlyList<VolumeKey> Unused =>
        [.. keys.Where(key => !key.IsFromList && !used.Contains(key) && !IsOfUsedPage(key))];

    private bool IsOfUsedPage(VolumeKey key) => key.IsOneOfSeveral && used.Any(other => other.From == key.From);

    /// <summary>Adds a key; volumes that nothing opened are tried again.</summary>
    public void Add(VolumeKey key)
    {
        var isKnown = keys.Exists(known => known.Kind == key.Kind
            && known.Protector == key.Protector
            && known.Content.Bytes.SequenceEqual(key.Content.Bytes));
        if (isKnown)
        {
            key.Content.Dispose();
            return;
        }

        keys.Add(key);
        foreach (var failed in opened.Where(pair => pair.Value is null).Select(pair => pair.Key).ToList()) opened.Remove(failed);
    }

    /// <summary>Forgets a key that opened nothing.</summary>
    public void Drop(VolumeKey key)
    {
        if (keys.Remove(key)) key.Content.Dispose();
    }

    /// <summary>What a volume was opened with; null where no key fits. It is kept, and disposed of with the ring.</summary>
    /// <param name="seal">What seals the volume's key, as a word to know it again by.</param>
    /// <param name="open">Tries the keys; the one that fits comes with it.</param>
    internal T? Open<T>(string seal, Func<(T Opened, VolumeKey? By)?> open)
        where T : class, IDisposable
    {
        if (opened.TryGetValue(seal, out var known)) return (T?)known;
        var found = open();
        if (found?.By is { } by) used.Add(by);
        opened[seal] = found?.Opened;
        return found?.Opened;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var key in keys) key.Content.Dispose();
        foreach (var one in opened.Values) one?.Dispose();
        keys.Clear();
        opened.Clear();
    }
}
