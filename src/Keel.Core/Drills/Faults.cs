using Keel.Core.Errors;
using Keel.Core.Machines;

namespace Keel.Core.Drills;

/// <summary>Every fault that a practice disk can have.</summary>
public static class Faults
{
    private static readonly string[] NotForChance = [
        "none",
        "layout-firmware-mismatch",
        "volume-unclean",
        "volume-hibernated",
        .. EncryptionFaults.All.Select(fault => fault.Id),
        .. SourceFaults.All.Select(fault => fault.Id),
        .. SignatureFaults.All.Select(fault => fault.Id),
        "system-volume-full",
        "update-half-done",
        "clone-beside-original",
        "store-redirected",
        "recovery-image-missing",
        "recovery-image-damaged",
        "software-hive-missing",
        "software-hive-snapshot",
        "system-hive-snapshot",
        "driver-snapshot",
        "start-driver-key-missing",
        "esp-missing",
        "esp-no-file-system",
        "volume-unlisted",
        "partition-wrong-type",
        "partition-read-only",
        "partition-too-small",
        "windows-volume-sector-wiped",
        "windows-folder-renamed",
        "mft-mirror-differs",
        "foreign-mbr-code",
        "setup-broken-off",
        "profile-set-aside",
        "windows-volume-full",
        "kernel-other-build",
        "manager-older-than-loader"
    ];

    /// <summary>The parts of the chain, in its order.</summary>
    private static readonly IReadOnlyList<Fault>[] Groups = [
        [.. BootCodeFaults.All, .. GptFaults.All, .. TableFaults.All],
        BootFileFaults.All,
        StoreFaults.All,
        [.. WindowsFaults.All, .. SessionFaults.All]
    ];

    /// <summary>Every fault, in the order of the tickets.</summary>
    public static IReadOnlyList<Fault> All { get; } =
    [
        new("none", "BF-1040", "Gangway desk, {0}", "It starts. I was told to have it looked at before the season.", _ => { }),
        .. StoreFaults.All,
        .. BootCodeFaults.All,
        .. GptFaults.All,
        .. BootFileFaults.All,
        .. WindowsFaults.All,
        .. TableFaults.All,
        .. InsideFaults.All,
        .. RecoveryFaults.All,
        .. Nt5Faults.All,
        .. LogonFaults.All,
        .. SnapshotFaults.All,
        .. SessionFaults.All,
        .. SourceFaults.All,
        .. SignatureFaults.All,
        .. EncryptionFaults.All
    ];

    /// <summary>A fault by its id or its ticket.</summary>
    /// <exception cref="WrongUsageException">There is none of that name.</exception>
    public static Fault Find(string name) =>
        All.FirstOrDefault(fault =>
            fault.Id.Equals(name, StringComparison.OrdinalIgnoreCase)
                || fault.Ticket.Equals(name, StringComparison.OrdinalIgnoreCase))
        ?? throw new WrongUsageException(
            $"There is no drill \"{name}\".",
            "Drills are known by their ticket, or by the fault's own name.",
            "Run 'keel drill list' for the tickets, with --answers for the faults.");

    /// <summary>Faults by their names, parted by plus signs: one disk with all of them.</summary>
    /// <exception cref="WrongUsageException">There is none of one name, or no firmware has them all.</exception>
    public static Fault FindAll(string names)
    {
        var faults = names
            .Split('+', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            .Select(Find)
            .ToList();
        return faults.Count == 1 ? faults[0] : Together(faults);
    }

    /// <summary>One to three faults of different parts of the chain, which keel can mend.</summary>
    public static (Fault Fault, IReadOnlyList<string> Answer) Random(FirmwareKind firmware, Random random)
    {
        var groups =
            Groups
                .Select(group => group.Where(fault => fault.AppliesTo(firmware) && !NotForChance.Contains(fault.Id)).ToList())
                .Where(group => group.Count > 0)
                .ToList();
        var chosen = groups
            .OrderBy(_ => random.Next())
            .Take(random.Next(1, 4))
            .Select(group => group[random.Next(group.Count)])
            .ToList();
        var ordered = All.Where(chosen.Contains).ToList();
        return (ordered.Count == 1 ? ordered[0] : Together(ordered), [.. ordered.Select(fault => fault.Id)]);
    }

    /// <summary>What lies later in the chain is broken first, so that each fault still finds what it needs.</summary>
    private static Fault Together(List<Fault> faults)
    {
        var only = faults.Select(fault => fault.Only).Where(kind => kind is not null).Distinct().ToList();
        if (only.Count > 1)
        {
            throw new WrongUsageException(
                "These faults can't be on one disk.",
                "Some are of BIOS machines, others of UEFI machines.",
                "'keel drill list --answers' shows the faults.");
        }

        if (faults.Any(fault => fault.IsNt5 != faults[0].IsNt5))
        {
            throw new WrongUsageException(
                "These faults can't be on one disk.",
                "Some are of machines of NT 5, others of later ones.",
                "'keel drill list --answers' shows the faults.");
        }

        var latestFirst = faults.OrderByDescending(fault => Array.FindIndex(Groups, group => group.Contains(fault))).ToList();
        return new Fault(
            string.Join('+', faults.Select(fault => fault.Id)),
            faults[0].Ticket,
            faults[0].Caller,
            string.Join(" And: ", faults.Select(fault => fault.Words)),
            machine => latestFirst.ForEach(fault => fault.Apply(machine)))
        {
            Only = only.Count == 1 ? only[0] : null,
            Stages = [.. latestFirst.Select(fault => fault.Apply)],
            NeedsVariables = faults.Any(fault => fault.NeedsVariables),
            Remembered = memory => faults.ForEach(fault => fault.Remembered?.Invoke(memory)),
            WithClone = faults.Any(fault => fault.WithClone),
            WithMedium = faults.Any(fault => fault.WithMedium),
            IsInside = faults.Any(fault => fault.IsInside),
            IsEncrypted = faults.Any(fault => fault.IsEncrypted),
            IsSuspended = faults.Any(fault => fault.IsSuspended),
            BehindLock = machine => latestFirst.ForEach(fault => fault.BehindLock?.Invoke(machine)),
            IsNt5 = faults.Any(fault => fault.IsNt5)
        };
    }
}
