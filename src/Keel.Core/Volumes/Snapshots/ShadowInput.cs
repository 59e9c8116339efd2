using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Snapshots;

/// <summary>Puts the library on top of blocks: its ways to read, answered from an overlay.</summary>
internal sealed unsafe class ShadowInput : IDisposable
{
    private const int Failure = -1, Done = 1;
    private readonly ShadowLibrary library;
    private readonly IReadableBlocks blocks;
    private GCHandle self;
    private nint handle;
    private bool isOpen;
    private long position;

    /// <exception cref="UnreadableException">The library has no memory for it.</exception>
    public ShadowInput(ShadowLibrary library, IReadableBlocks blocks)
    {
        this.library = library;
        this.blocks = blocks;
        self = GCHandle.Alloc(this);
        nint made = 0, error = 0;
        if (Make(library, GCHandle.ToIntPtr(self), &made, &error) != Done)
        {
            self.Free();
            throw library.Failed(error, below: null);
        }

        handle = made;
    }

    /// <summary>The handle that the library reads through.</summary>
    public nint Handle => handle;

    /// <summary>What went wrong in the blocks below, since the library only tells that something did.</summary>
    public KeelException? Fault { get; private set; }

    /// <summary>Begins a call whose faults count by themselves.</summary>
    public void Forget() => Fault = null;

    public void Dispose()
    {
        if (handle == 0) return;
        nint error = 0;
        var freed = handle;
        _ = library.HandleFree(&freed, &error);
        handle = 0;
        self.Free();
    }

    /// <summary>
    /// Kept out of the caller: where the runtime's compiler merges this into it, the addresses come out as those for managed
    /// callers.
    /// </summary>
    [MethodImpl(MethodImplOptions.NoInlining | MethodImplOptions.NoOptimization)]
    private static int Make(ShadowLibrary library, nint self, nint* made, nint* error) => library.HandleInitialize(
        made,
        self,
        (nint)(delegate* unmanaged[Cdecl]<nint*, nint*, int>)&Free,
        (nint)(delegate* unmanaged[Cdecl]<nint*, nint, nint*, int>)&Clone,
        (nint)(delegate* unmanaged[Cdecl]<nint, int, nint*, int>)&Open,
        (nint)(delegate* unmanaged[Cdecl]<nint, nint*, int>)&Close,
        (nint)(delegate* unmanaged[Cdecl]<nint, byte*, nuint, nint*, nint>)&Read,
        (nint)(delegate* unmanaged[Cdecl]<nint, byte*, nuint, nint*, nint>)&Write,
        (nint)(delegate* unmanaged[Cdecl]<nint, long, int, nint*, long>)&Seek,
        (nint)(delegate* unmanaged[Cdecl]<nint, nint*, int>)&Exists,
        (nint)(delegate* unmanaged[Cdecl]<nint, nint*, int>)&IsOpen,
        (nint)(delegate* unmanaged[Cdecl]<nint, ulong*, nint*, int>)&Size,
        0,
        error);

    private static ShadowInput Of(nint self) => (ShadowInput)GCHandle.FromIntPtr(self).Target!;

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static int Free(nint* self, nint* error) => Done;

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static int Clone(nint* target, nint self, nint* error) => Failure;

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static int Open(nint self, int access, nint* error)
    {
        Of(self).isOpen = true;
        return Done;
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static int Close(nint self, nint* error)
    {
        Of(self).isOpen = false;
        return 0;
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static nint Read(nint self, byte* buffer, nuint count, nint* error) => Of(self).ReadOn(buffer, count);

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static nint Write(nint self, byte* buffer, nuint count, nint* error) => Failure;

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static long Seek(nint self, long offset, int whence, nint* error)
    {
        var one = Of(self);
        var target = whence switch { 0 => offset, 1 => one.position + offset, 2 => one.blocks.LengthBytes + offset, _ => -1 };
        return target < 0 ? Failure : one.position = target;
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static int Exists(nint self, nint* error) => Done;

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static int IsOpen(nint self, nint* error) => Of(self).isOpen ? 1 : 0;

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static int Size(nint self, ulong* size, nint* error)
    {
        *size = (ulong)Of(self).blocks.LengthBytes;
        return Done;
    }

    private nint ReadOn(byte* buffer, nuint count)
    {
        var length = (int)Math.Min(Math.Min(count, int.MaxValue), (ulong)Math.Max(0, blocks.LengthBytes - position));
        try
        {
            blocks.Read(position, new Span<byte>(buffer, length));
            position += length;
            return length;
        }
        catch (KeelException e)
        {
            Fault ??= e;
            return Failure;
        }
        catch (Exception e)
        {
            // Nothing may be thrown through the library.
            Fault ??= new UnreadableException(
                "A snapshot can't be read.",
                $"keel met something that it was not made for ({e.GetType().Name}).",
                "Please report it.",
                e);
            return Failure;
        }
    }
}
