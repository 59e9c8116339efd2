using System.Globalization;
using System.Text.RegularExpressions;
using Keel.Core.Hives;

namespace Keel.Core.Windows.Updates;

/// <summary>The package of an update, as the SOFTWARE hive keeps it. Texts come from the disk.</summary>
/// <param name="Name">Its identity, as in Package_for_RollupFix~31bf3856ad364e35~amd64~~19041.4046.1.6.</param>
/// <param name="State">How far it is.</param>
/// <param name="StateNumber">The number of its state, as stored.</param>
public sealed partial record UpdatePackage(string Name, UpdateState State, uint StateNumber)
{
    private const string Start = "Package_for_";

    /// <summary>Its number in the knowledge base, as in KB5034763; null where neither name nor place says one.</summary>
    public string? Article { get; private init; }

    /// <summary>When it was installed, or last brought further; null where it does not say.</summary>
    public DateTimeOffset? Time { get; private init; }

    /// <summary>The last error that Windows met with it (an HRESULT); null for none.</summary>
    public uint? Error { get; private init; }

    /// <summary>What it is called in a list: name and version of its identity.</summary>
    public string Title
    {
        get
        {
            var parts = Name.Split('~');
            var name = parts[0].StartsWith(Start, StringComparison.OrdinalIgnoreCase) ? parts[0][Start.Length..] : parts[0];
            return parts.Length > 1 ? $"{name} {parts[^1]}".TrimEnd() : name;
        }
    }

    /// <summary>Whether the next start brings it further.</summary>
    public bool IsPending => State is UpdateState.InstallPending or UpdateState.RemovalPending;

    /// <summary>Whether a key is that of an update, and not one of the thousands of packages that Windows is made of.</summary>
    internal static bool IsUpdate(string name) => name.StartsWith(Start, StringComparison.OrdinalIgnoreCase);

    internal static UpdatePackage Of(HiveKey key)
    {
        var number = key.Value("CurrentState")?.AsNumber() ?? 0;
        string?[] places = [key.Name, key.Value("InstallName")?.AsText(), key.Value("InstallLocation")?.AsText()];
        var article = places.OfType<string>().Select(place => Articles().Match(place)).FirstOrDefault(match => match.Success);
        return new UpdatePackage(key.Name, StateOf(number), number)
        {
            Article = article?.Value.ToUpperInvariant(),
            Time = TimeOf(key.Value("InstallTimeHigh")?.AsNumber(), key.Value("InstallTimeLow")?.AsNumber()),
            Error = key.Value("LastError")?.AsNumber() is { } error and not 0 ? error : null
        };
    }

    private static UpdateState StateOf(uint number) => number switch
    {
        0x05 => UpdateState.RemovalPending,
        0x30 => UpdateState.Staging,
        0x40 => UpdateState.Staged,
        0x50 => UpdateState.Superseded,
        0x60 => UpdateState.InstallPending,
        0x65 => UpdateState.Partial,
        0x70 or 0x80 => UpdateState.Installed,
        _ => UpdateState.Other
    };

    private static DateTimeOffset? TimeOf(uint? high, uint? low)
    {
        var ticks = ((long)(high ?? 0) << 32) | (low ?? 0);
        return ticks > 0 && ticks <= DateTimeOffset.MaxValue.ToFileTime()
            ? DateTimeOffset.FromFileTime(ticks).ToUniversalTime()
            : null;
    }

    /// <inheritdoc/>
    public override string ToString() =>
        string.Create(CultureInfo.InvariantCulture, $"{Article ?? Title} ({State.ToString().ToLowerInvariant()})");

    [GeneratedRegex(@"KB\d{5,8}", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, matchTimeoutMilliseconds: 1000)]
    private static partial Regex Articles();
}
