namespace Keel.Core.Programs;

/// <summary>Whose certificate signed a file or a catalog.</summary>
/// <param name="Name">The name in the certificate. Text from the disk.</param>
/// <param name="IsMicrosofts">Whether the certificates that come with it lead to a root of Microsoft's.</param>
public sealed record FileSigner(string Name, bool IsMicrosofts);
