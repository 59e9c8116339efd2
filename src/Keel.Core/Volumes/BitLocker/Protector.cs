namespace Keel.Core.Volumes.BitLocker;

/// <summary>One of the protectors of an encrypted volume.</summary>
/// <param name="Id">Its identifier, by which a recovery key is looked up.</param>
/// <param name="Kind">What it is.</param>
/// <param name="Added">When it was added; null where that makes no sense.</param>
public sealed record Protector(Guid Id, ProtectorKind Kind, DateTimeOffset? Added)
{
    private const int LookUpDigits = 8;

    /// <summary>The first eight digits of the identifier: what the recovery prompt shows, and a helpdesk asks for.</summary>
    public string LookUp => Id.ToString("D")[..LookUpDigits].ToUpperInvariant();
}
