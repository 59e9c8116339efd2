using Keel.Core.Chain;
using Keel.Core.Errors;

namespace Keel.Core.Drills;

/// <summary>Every fault that a practice disk can have.</summary>
public static class Faults
{
    public static IReadOnlyList<Fault> All { get; } =
    [
        new("none", "BF-1040", "Gangway desk, {0}", "It starts. I was told to have it looked at before the season.", _ => { }),
        .. StoreFaults.All,
        .. BootCodeFaults.All,
        .. GptFaults.All,
        .. BootFileFaults.All,
        .. WindowsFaults.All
    ];

    /// <summary>A fault by its id or its ticket.</summary>
    /// <exception cref="WrongUsageException">There is none of that name.</exception>
    public static Fault Find(string name) =>
        All.FirstOrDefault(fault => fault.Id.Equals(name, StringComparison.OrdinalIgnoreCase) || fault.Ticket.Equals(name, StringComparison.OrdinalIgnoreCase))
        ?? throw new WrongUsageException($"There is no drill \"{name}\".", "Drills are known by their ticket, or by the fault's own name.", "Run 'keel drill list' for the tickets, with --answers for the faults.");
}
