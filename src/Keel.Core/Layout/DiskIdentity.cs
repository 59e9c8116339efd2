namespace Keel.Core.Layout;

/// <summary>By what Windows and the store know a disk: the signature of its MBR or the GUID of its GPT.</summary>
public readonly record struct DiskIdentity(uint Signature, Guid Guid)
{
    /// <summary>A disk without identity: its table is missing, or its signature is 0.</summary>
    public static readonly DiskIdentity None;

    /// <summary>The identity of a disk with a master boot record.</summary>
    public static DiskIdentity OfMbr(uint signature) => new(signature, default);

    /// <summary>The identity of a disk with a GUID partition table.</summary>
    public static DiskIdentity OfGpt(Guid guid) => new(0, guid);

    /// <summary>Whether the disk has no identity.</summary>
    public bool IsNone => Signature == 0 && Guid == default;

    /// <summary>As it is told to people: a signature of eight hexadecimal digits, a GUID, or "none".</summary>
    public override string ToString() => IsNone ? "none" : Guid != default ? Guid.ToString() : $"{Signature:x8}";
}
