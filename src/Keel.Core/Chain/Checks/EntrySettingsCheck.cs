using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Chain.Checks;

/// <summary>Settings of the started entry that stop or cripple a start: most were switched on for once, and left.</summary>
internal static class EntrySettingsCheck
{
    public static readonly FindingKind SafeStart = new(
        "entry-safe-start",
        Link.WindowsEntry,
        Severity.Warning,
        "The Windows entry starts in safe mode every time.");

    public static readonly FindingKind MemoryWithheld = new(
        "entry-memory-withheld",
        Link.WindowsEntry,
        Severity.Warning,
        "The Windows entry keeps memory from Windows, which may have too little to start.");

    public static readonly FindingKind Debugger = new(
        "entry-debugger-let-in",
        Link.WindowsEntry,
        Severity.Warning,
        "The Windows entry lets a debugger in, and a start may wait for one for ever.");

    public static readonly FindingKind LastGood = new(
        "entry-last-good",
        Link.WindowsEntry,
        Severity.Warning,
        "The Windows entry starts with the last configuration that worked every time, and so forgets what was changed.");

    public static readonly FindingKind TestSignatures = new(
        "entry-test-signatures",
        Link.WindowsEntry,
        Severity.Note,
        "The Windows entry takes drivers with test signatures.");

    public static readonly FindingKind NamedFileMissing = new(
        "entry-named-file-missing",
        Link.WindowsEntry,
        Severity.Error,
        "The Windows entry names a kernel or a hardware layer that is not there, and the usual one is.",
        StartupScreens.NoSuchFile,
        StartupScreens.NameNotFound)
    { HidesFrom = Link.KernelFiles };

    public static IReadOnlyList<FindingKind> Kinds =>
    [
        SafeStart, MemoryWithheld, Debugger, LastGood, TestSignatures, NamedFileMissing
    ];

    /// <summary>The settings behind each finding that one by itself is enough for.</summary>
    private static readonly (FindingKind Kind, uint[] Elements)[] Telling =
    [
        (SafeStart, [Element.SafeStart, Element.SafeStartPrompt]),
        (MemoryWithheld, [Element.MemoryCeiling, Element.WithheldMemory]),
        (Debugger, [Element.EarlyDebugging, Element.KernelDebugging]),
        (LastGood, [Element.LastGoodConfiguration]),
        (TestSignatures, [Element.AcceptTestSignatures])
    ];

    /// <summary>What is found at the started entry.</summary>
    public static IEnumerable<Finding> Of(Machine machine, BootEntry entry)
    {
        foreach (var (kind, _) in Telling)
        {
            if (SettingsOf(kind, entry) is { Count: > 0 } set)
                yield return kind.At(Fact.Title.Is(entry.Title ?? ""), Fact.Settings.Is(NamesOf(set)));
        }

        if (NamesNothing(machine, entry) is { Count: > 0 } named)
            yield return NamedFileMissing.At(Fact.Title.Is(entry.Title ?? ""), Fact.Settings.Is(NamesOf(named)));
    }

    /// <summary>The settings of an entry that a finding is about.</summary>
    public static IReadOnlyList<uint> SettingsOf(FindingKind kind, BootEntry entry) =>
    [
        .. Telling.FirstOrDefault(one => one.Kind == kind).Elements?.Where(element => IsOn(entry, element)) ?? []
    ];

    /// <summary>The settings that name a file of the Windows folder which is not there, where the usual one is.</summary>
    public static IReadOnlyList<uint> NamesNothing(Machine machine, BootEntry entry)
    {
        if (machine.VolumeOf(entry.Device(Element.WindowsVolume))?.Files is not { } files
            || entry.Text(Element.WindowsFolder)?.TrimEnd('\\') is not { Length: > 0 } folder)
        {
            return [];
        }

        (uint Element, string Usual)[] named =
            [(Element.KernelFile, "ntoskrnl.exe"), (Element.HardwareLayerFile, "hal.dll")];
        return
        [
            .. named
                .Where(one => entry.Text(one.Element) is { } name
                    && !files.FileExists($@"{folder}\System32\{name}")
                    && files.FileExists($@"{folder}\System32\{one.Usual}"))
                .Select(one => one.Element)
        ];
    }

    public static string[] NamesOf(IEnumerable<uint> elements) =>
        [.. elements.Select(element => Settings.NameOf(element, EntryType.Windows))];

    /// <summary>A safe start of kind 0 is one too; the others count where they are not 0.</summary>
    private static bool IsOn(BootEntry entry, uint element) =>
        entry.Number(element) is { } value && (element == Element.SafeStart || value > 0);
}
