using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Volumes;

/// <summary>The libraries of the running system without which volumes can't be judged.</summary>
public static class FileSystemLibraries
{
    /// <summary>
    /// Refuses to go on without one: every volume would look as if its files were gone.
    /// </summary>
    /// <exception cref="Errors.UnreadableException">It isn't installed, or is one that keel can't use; says how to get
    /// it.</exception>
    public static void Require() => NtfsLibrary.Require();
}
