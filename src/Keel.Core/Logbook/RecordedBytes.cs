using System.Security.Cryptography;

namespace Keel.Core.Logbook;

/// <summary>The bytes of one recorded range, before and after.</summary>
/// <param name="Disk">Index into the record's disks.</param>
/// <param name="Start">In bytes from the start of that disk.</param>
internal sealed record RecordedBytes(int Disk, long Start, byte[] Before, byte[] After)
{
    public static string Sha256(byte[] bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes));
}
