namespace Keel.Core.Layout;

/// <summary>By what Windows and the store know a disk: the signature of its MBR or the GUID of its GPT.</summary>
public readonly record struct DiskIdentity(uint Signature, Guid Guid)
{
    public static readonly DiskIdentity None;

    public static DiskIdentity OfMbr(uint signature) => new(signature, default);

    public static DiskIdentity OfGpt(Guid guid) => new(0, guid);

    public bool IsNone => Signature == 0 && Guid == default;

    public override string ToString() => IsNone ? "none" : Guid != default ? Guid.ToString() : $"{Signature:x8}";
}
