namespace Keel.Core.Windows;

/// <summary>A program or service that starts by itself once Windows runs.</summary>
/// <param name="Name">The name of the value, the file, or the service.</param>
/// <param name="Place">Where it is named.</param>
/// <param name="Source">The hive and the key, or the folder.</param>
/// <param name="User">Whose it is; null where it starts for everybody.</param>
/// <param name="Command">What is started.</param>
/// <param name="IsOn">Whether it starts.</param>
public sealed record StartupProgram(
    string Name,
    StartupPlace Place,
    StartupSource Source,
    string? User,
    string Command,
    bool IsOn)
{
    /// <summary>Whether Windows itself switched it off, or a user in Windows.</summary>
    public bool IsOffByWindows { get; init; }

    /// <summary>The program's file on the volume of Windows; null where it lies elsewhere, or nothing says where.</summary>
    public string? File { get; init; }

    /// <summary>Whether that file is there; null where it lies elsewhere.</summary>
    public bool? IsThere { get; init; }

    /// <summary>Who made it, as its file says.</summary>
    public string? Company { get; init; }

    /// <summary>Who signed it, where it carries a signature of its own that fits it; null where it does not.</summary>
    public string? Signer { get; init; }

    /// <summary>Whether it carries a signature that does not fit it: it was changed, or the signature was.</summary>
    public bool IsSignatureBroken { get; init; }

    /// <summary>When its file was written.</summary>
    public DateTimeOffset? Written { get; init; }

    /// <summary>Services whose program lies in the folder of Windows are mostly its own, and many are needed.</summary>
    public bool IsOfWindows => Place == StartupPlace.Service
        && (File is null || File.Contains(@"\System32\", StringComparison.OrdinalIgnoreCase)
            || File.Contains(@"\SysWOW64\", StringComparison.OrdinalIgnoreCase));

    /// <summary>What tells it from all others, from one start to the next.</summary>
    public string Id => $"{Place}|{Source.Container}|{Source.Key}|{Name}";
}
