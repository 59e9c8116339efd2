namespace Keel.Core.Store;

/// <summary>The identifier of an entry; in a store it is written with braces.</summary>
public readonly record struct EntryId(Guid Value)
{
    /// <summary>The boot manager.</summary>
    public static readonly EntryId Manager = Of("9dea862c-5cdd-4e70-acc1-f32b344d4795");

    /// <summary>The firmware's own list.</summary>
    public static readonly EntryId FirmwareList = Of("a5a30fa2-3d06-4e9f-b5f4-a01df9d1fcba");

    public static readonly EntryId MemoryTest = Of("b2721d73-1db4-4c62-bf78-c548a880142d");

    public static readonly EntryId Nt5Loader = Of("466f5a88-0af2-4f76-9038-095b170dc21c");

    /// <summary>Settings that all entries may inherit.</summary>
    public static readonly EntryId EverySettings = Of("7ea2e1ac-2e61-4728-aaa3-896d9d0a9f0e");

    /// <summary>Settings that entries for Windows inherit.</summary>
    public static readonly EntryId WindowsSettings = Of("6efb52bf-1766-41db-a6b3-0ee5eff72bd7");

    /// <summary>Settings that entries for resuming inherit.</summary>
    public static readonly EntryId ResumeSettings = Of("1afa9c49-16ab-4a5c-901b-212802da9460");

    /// <summary>Settings of the kernel debugger.</summary>
    public static readonly EntryId DebuggerSettings = Of("4636856e-540f-4170-a130-a84776f4c654");

    /// <summary>Settings of emergency management over a serial line.</summary>
    public static readonly EntryId SerialSettings = Of("0ce4991b-e6b3-4b16-b23c-5e0d9250e5d9");

    /// <summary>The list of bad memory.</summary>
    public static readonly EntryId BadMemorySettings = Of("5189b25c-5558-4bf2-bca4-289b11bd29e2");

    /// <summary>Settings of the hypervisor.</summary>
    public static readonly EntryId VirtualisationSettings = Of("7ff607e0-4395-11db-b0de-0800200c9a66");

    /// <summary>Options of devices that are RAM disks.</summary>
    public static readonly EntryId OptionsOfRamdisks = Of("ae5534e0-a924-466c-b836-758539a3ee3a");

    /// <summary>Reads "{guid}"; nothing where it is something else.</summary>
    public static EntryId? TryParse(string? text) =>
        Guid.TryParseExact(text, "B", out var guid) || Guid.TryParseExact(text, "D", out guid) ? new EntryId(guid) : null;

    /// <summary>The GUID in braces, as the key's name has it.</summary>
    public override string ToString() => Value.ToString("B");

    private static EntryId Of(string text) => new(Guid.Parse(text));
}
