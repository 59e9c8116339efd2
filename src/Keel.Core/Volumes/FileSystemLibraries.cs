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

    /// <summary>
    /// Refuses to go on without one: every volume would look as if its files were gone.
    /// </summary>
    /// <exception cref="UnreadableException">It isn't installed, or is one that keel can't use; says how to get
    /// it.</exception>
    public static void Require()
    {
        NtfsLibrary.Require();
        if (Array.Exists(Checksums, name => NativeLibrary.TryLoad(name, out _))) return;
        throw new UnreadableException(
            "Windows' programs can't be judged.",
            "The library OpenSSL (libssl) is not installed, which makes the sums that they are signed by.",
            "Install it (on Debian: apt install libssl3) and run the same command again.");
    }
}
