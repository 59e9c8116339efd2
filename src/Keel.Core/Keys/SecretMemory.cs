using System.Runtime.InteropServices;
using System.Security.Cryptography;

namespace Keel.Core.Keys;

/// <summary>A page of memory that is neither swapped nor dumped; zeroed when nobody holds it any more.</summary>
internal sealed unsafe partial class SecretMemory : SafeHandle
{
    /// <summary>Its length in bytes.</summary>
    public const int PageBytes = 4096;

    private const int DoNotDump = 16;                       // MADV_DONTDUMP, asm-generic/mman-common.h

    public SecretMemory()
        : base(IntPtr.Zero, ownsHandle: true)
    {
        CoreDumps.Forbid();
        var start = NativeMemory.AlignedAlloc(PageBytes, PageBytes);
        _ = Lock(start, PageBytes);                         // a limit on locked memory is no reason to refuse a repair
        _ = Advise(start, PageBytes, DoNotDump);
        SetHandle((IntPtr)start);
        Bytes.Clear();
    }

    /// <inheritdoc/>
    public override bool IsInvalid => handle == IntPtr.Zero;

    /// <summary>The bytes themselves.</summary>
    public Span<byte> Bytes => new((void*)handle, PageBytes);

    /// <inheritdoc/>
    protected override bool ReleaseHandle()
    {
        CryptographicOperations.ZeroMemory(Bytes);
        _ = Unlock((void*)handle, PageBytes);
        NativeMemory.AlignedFree((void*)handle);
        return true;
    }

    [LibraryImport("libc", EntryPoint = "mlock")]
    private static partial int Lock(void* start, nuint length);

    [LibraryImport("libc", EntryPoint = "munlock")]
    private static partial int Unlock(void* start, nuint length);

    [LibraryImport("libc", EntryPoint = "madvise")]
    private static partial int Advise(void* start, nuint length, int advice);
}
