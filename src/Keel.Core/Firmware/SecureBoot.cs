namespace Keel.Core.Firmware;

/// <summary>Whether a firmware starts signed programs only, and whose.</summary>
/// <param name="IsOn">Whether it does; null where the variables do not tell.</param>
/// <param name="Allowed">The variable db.</param>
/// <param name="Forbidden">The variable dbx.</param>
public sealed record SecureBoot(bool? IsOn, SignatureDatabase Allowed, SignatureDatabase Forbidden)
{
    /// <summary>What is so where no variables are known.</summary>
    public static SecureBoot Unknown { get; } = new(null, SignatureDatabase.Empty, SignatureDatabase.Empty);
}
