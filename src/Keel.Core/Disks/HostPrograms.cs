namespace Keel.Core.Disks;

/// <summary>Finds the programs of the running system that keel starts.</summary>
public static class HostPrograms
{
    private static readonly string[] Folders = ["/usr/bin", "/usr/sbin", "/bin", "/sbin", "/usr/local/bin", "/usr/local/sbin"];

    /// <summary>
    /// The full path of a program; null where it is not here. For root only the system's own folders count, whatever PATH says:
    /// it may name a folder that anybody can write.
    /// </summary>
    /// <param name="name">Its name, without a folder.</param>
    public static string? Find(string name)
    {
        var named = Environment.IsPrivilegedProcess ? [] : (Environment.GetEnvironmentVariable("PATH") ?? "").Split(':');
        return named.Where(Path.IsPathFullyQualified)
            .Concat(Folders)
            .Select(folder => Path.Combine(folder, name))
            .FirstOrDefault(File.Exists);
    }
}
