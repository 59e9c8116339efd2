using System.Runtime.InteropServices;
using Keel.Core.Errors;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Volumes;

/// <summary>The libraries of the running system without which volumes can't be judged.</summary>
public static class FileSystemLibraries
{
    /// <summary>The names under which the framework looks for OpenSSL; without it, it ends the process.</summary>
    private static readonly string[] Checksums =
        ["libssl.so.3", "libssl.so.1.1", "libssl.so.1.0.2", "libssl.so.1.0.0", "libssl.so.10", "libssl.so"];

    /// <summary>Whether OpenSSL is here: asked before anything that would end the process without it.</summary>
    public static bool HasOpenSsl => Array.Exists(Checksums, name => NativeLibrary.TryLoad(name, out _));

    /// <summary>Refuses to open an encrypted volume without it.</summary>
    /// <exception cref="UnreadableException">It isn't installed; says how to get it.</exception>
    public static void RequireForKeys()
    {
        if (HasOpenSsl) return;
        throw new UnreadableException(
            "Encrypted volumes can't be opened.",
            "The library OpenSSL (libssl) is not installed, which decrypts them.",
            "Install it (on Debian: apt install libssl3) and run the same command again.");
    }

    /// <summary>
    /// Refuses to go on without one: every volume would look as if its files were gone.
    /// </summary>
    /// <exception cref="UnreadableException">It isn't installed, or is one that keel can't use; says how to get
    /// it.</exception>
    public static void Require()
    {
        NtfsLibrary.Require();
        if (HasOpenSsl) return;
        throw new UnreadableException(
            "Windows' programs can't be judged.",
            "The library OpenSSL (libssl) is not installed, which makes the sums that they are signed by.",
            "Install it (on Debian: apt install libssl3) and run the same command again.");
    }
}
