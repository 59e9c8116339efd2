namespace Keel.Core.Store;

/// <summary>
/// A Windows that gets an entry: where it lies, what the menu calls it, its build (which decides the menu's look).
/// </summary>
public sealed record WindowsToList(BootDevice Device, string Folder, string Title, int Build)
{
    /// <summary>Whether it is a server, which keeps every program's data from being executed.</summary>
    public bool IsServer { get; init; }

    /// <summary>Its recovery environment, which gets an entry too; null where it has none.</summary>
    public RecoveryToList? Recovery { get; init; }
}
