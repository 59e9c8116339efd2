using System.Runtime.InteropServices;
using System.Security.Cryptography;

namespace Keel.Core.Keys;

/// <summary>Bytes that are kept out of swap and of core dumps, and zeroed afterwards.</summary>
public sealed unsafe partial class Secret : IDisposable
{
    private const int PageBytes = 4096, DoNotDump = 16;     // MADV_DONTDUMP, asm-generic/mman-common.h
    private byte* memory;

    /// <param name="length">Its length in bytes: 4096 at most.</param>
    public Secret(int length)
    {
        ArgumentOutOfRangeException.ThrowIfGreaterThan(length, PageBytes);
        CoreDumps.Forbid();
        Length = length;
        memory = (byte*)NativeMemory.AlignedAlloc(PageBytes, PageBytes);
        _ = Lock(memory, PageBytes);                        // a limit on locked memory is no reason to refuse a repair
        _ = Advise(memory, PageBytes, DoNotDump);
        new Span<byte>(memory, PageBytes).Clear();
    }

    ~Secret() => Forget();

    /// <summary>Its length in bytes.</summary>
    public int Length { get; }

    /// <summary>The bytes themselves; whoever copies them clears the copy.</summary>
    public Span<byte> Bytes
    {
        get
        {
            ObjectDisposedException.ThrowIf(memory is null, this);
            return new Span<byte>(memory, Length);
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
    public void Dispose()
    {
        Forget();
        GC.SuppressFinalize(this);
    }

    private void Forget()
    {
        if (memory is null) return;
        CryptographicOperations.ZeroMemory(new Span<byte>(memory, PageBytes));
        _ = Unlock(memory, PageBytes);
        NativeMemory.AlignedFree(memory);
        memory = null;
    }

    [LibraryImport("libc", EntryPoint = "mlock")]
    private static partial int Lock(void* start, nuint length);

    [LibraryImport("libc", EntryPoint = "munlock")]
    private static partial int Unlock(void* start, nuint length);

    [LibraryImport("libc", EntryPoint = "madvise")]
    private static partial int Advise(void* start, nuint length, int advice);
}
