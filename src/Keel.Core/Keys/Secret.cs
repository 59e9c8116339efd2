using System.Security.Cryptography;

namespace Keel.Core.Keys;

/// <summary>Bytes that are kept out of swap and of core dumps, and zeroed afterwards.</summary>
public sealed class Secret : IDisposable
{
    private readonly SecretMemory memory;

    /// <param name="length">Its length in bytes: 4096 at most.</param>
    public Secret(int length)
    {
        ArgumentOutOfRangeException.ThrowIfGreaterThan(length, SecretMemory.PageBytes);
        Length = length;
        memory = new SecretMemory();
    }

    /// <summary>Its length in bytes.</summary>
    public int Length { get; }

    /// <summary>The bytes themselves; whoever copies them clears the copy.</summary>
    /// <exception cref="ObjectDisposedException">They are gone.</exception>
    public Span<byte> Bytes
    {
        get
        {
            ObjectDisposedException.ThrowIf(memory.IsClosed, this);
            return memory.Bytes[..Length];
        }
    }

    /// <summary>A copy of bytes, which are cleared where they stood.</summary>
    public static Secret Taking(Span<byte> bytes)
    {
        var secret = new Secret(bytes.Length);
        bytes.CopyTo(secret.Bytes);
        CryptographicOperations.ZeroMemory(bytes);
        return secret;
    }

    /// <summary>A copy of a part.</summary>
    public Secret Part(int start, int length)
    {
        var part = new Secret(length);
        Bytes.Slice(start, length).CopyTo(part.Bytes);
        return part;
    }

    /// <inheritdoc/>
    public void Dispose() => memory.Dispose();
}
