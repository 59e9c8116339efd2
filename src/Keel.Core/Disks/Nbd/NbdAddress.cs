using Keel.Core.Errors;

namespace Keel.Core.Disks.Nbd;

/// <summary>The address of a disk that is served over NBD (the NBD URI specification).</summary>
/// <param name="Host">The computer; null for a socket of this one.</param>
/// <param name="Port">Its port.</param>
/// <param name="Socket">The path of a socket; null for another computer.</param>
/// <param name="Export">The name of the disk; may be empty.</param>
internal sealed record NbdAddress(string? Host, int Port, string? Socket, string Export)
{
    private const int UsualPort = 10809;
    private const string Remote = "nbd://", Local = "nbd+unix://";

    /// <summary>Whether a disk's name is such an address.</summary>
    public static bool IsOne(string disk) =>
        disk.StartsWith(Remote, StringComparison.OrdinalIgnoreCase) || disk.StartsWith(Local, StringComparison.OrdinalIgnoreCase);

    /// <exception cref="WrongUsageException">It lacks something.</exception>
    public static NbdAddress Parse(string disk)
    {
        if (!Uri.TryCreate(disk, UriKind.Absolute, out var uri)) throw Wrong(disk, "It is no address.");
        var export = Uri.UnescapeDataString(uri.AbsolutePath.TrimStart('/'));
        if (disk.StartsWith(Remote, StringComparison.OrdinalIgnoreCase))
        {
            return uri.Host.Length > 0
                ? new NbdAddress(uri.Host.Trim('[', ']'), uri.Port > 0 ? uri.Port : UsualPort, Socket: null, export)
                : throw Wrong(disk, "It names no computer.");
        }

        const string name = "socket=";
        var socket = uri.Query.TrimStart('?').Split('&')
            .Where(part => part.StartsWith(name, StringComparison.Ordinal))
            .Select(part => Uri.UnescapeDataString(part[name.Length..]))
            .FirstOrDefault(path => path.Length > 0);
        return socket is null
            ? throw Wrong(disk, "It names no socket.")
            : new NbdAddress(Host: null, Port: 0, socket, export);
    }

    private static WrongUsageException Wrong(string disk, string why) => new(
        $"{disk} is no address of a disk.",
        why,
        "Such an address is nbd://HOST/EXPORT, or nbd+unix:///EXPORT?socket=PATH.");
}
