using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>Puts libntfs-3g on top of blocks: the library's table of device operations, answered from an overlay.</summary>
internal sealed unsafe class NtfsDevice : IDisposable
{
    private const int OperationCount = 10;
    private const int StateAt = 8, PrivateAt = 24;               // struct ntfs_device: d_ops, d_state, d_name, d_private
    private const long OpenBit = 1 << 0, ReadOnlyBit = 1 << 1;
    private const int AccessMask = 3;
    private const int IoError = 5, InvalidArgument = 22, NotSupported = 95;
    private readonly IWritableBlocks blocks;
    private readonly nint* operations;
    private GCHandle self;
    private long position;

    public NtfsDevice(IWritableBlocks blocks)
    {
        this.blocks = blocks;
        self = GCHandle.Alloc(this);
        operations = (nint*)NativeMemory.Alloc(OperationCount, (nuint)sizeof(nint));
        Fill(operations);
    }

    /// <summary>
    /// Kept out of the caller: where the runtime's compiler merges this into it, the addresses come out as those for managed
    /// callers.
    /// </summary>
    [MethodImpl(MethodImplOptions.NoInlining | MethodImplOptions.NoOptimization)]
    private static void Fill(nint* operations)
    {
        operations[0] = (nint)(delegate* unmanaged[Cdecl]<nint, int, int>)&Open;
        operations[1] = (nint)(delegate* unmanaged[Cdecl]<nint, int>)&Close;
        operations[2] = (nint)(delegate* unmanaged[Cdecl]<nint, long, int, long>)&Seek;
        operations[3] = (nint)(delegate* unmanaged[Cdecl]<nint, byte*, long, long>)&Read;
        operations[4] = (nint)(delegate* unmanaged[Cdecl]<nint, byte*, long, long>)&Write;
        operations[5] = (nint)(delegate* unmanaged[Cdecl]<nint, byte*, long, long, long>)&ReadAt;
        operations[6] = (nint)(delegate* unmanaged[Cdecl]<nint, byte*, long, long, long>)&WriteAt;
        operations[7] = (nint)(delegate* unmanaged[Cdecl]<nint, int>)&Sync;
        operations[8] = (nint)(delegate* unmanaged[Cdecl]<nint, nint, int>)&Stat;
        operations[9] = (nint)(delegate* unmanaged[Cdecl]<nint, ulong, nint, int>)&Control;
    }

    /// <summary>
    /// What went wrong in the blocks below since <see cref="Forget"/>, since the library only passes a number on, or nothing at
    /// all.
    /// </summary>
    public KeelException? Fault { get; private set; }

    /// <summary>Begins a call whose faults count by themselves.</summary>
    public void Forget() => Fault = null;

    public nint* Operations => operations;

    public nint Private => GCHandle.ToIntPtr(self);

    public void Dispose()
    {
        NativeMemory.Free(operations);
        self.Free();
    }

    private static NtfsDevice Of(nint device) => (NtfsDevice)GCHandle.FromIntPtr(*(nint*)(device + PrivateAt)).Target!;

    private static int Fail(int error)
    {
        Marshal.SetLastSystemError(error);
        return -1;
    }

    private long Transfer(long offset, byte* buffer, long count, bool write)
    {
        if (offset < 0 || count < 0) return Fail(InvalidArgument);
        var length = (int)Math.Min(Math.Min(count, int.MaxValue), Math.Max(0, blocks.LengthBytes - offset));
        try
        {
            if (write)
                blocks.Write(offset, new ReadOnlySpan<byte>(buffer, length));
            else
                blocks.Read(offset, new Span<byte>(buffer, length));
            return length;
        }
        catch (KeelException e)
        {
            Fault ??= e;
            return Fail(IoError);
        }
        catch (Exception e)
        {
            // Nothing may be thrown through the library.
            Fault ??= new UnreadableException(
                "The volume can't be read.",
                $"keel met something that it was not made for ({e.GetType().Name}).",
                "Please report it.",
                e);
            return Fail(IoError);
        }
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static int Open(nint device, int flags)
    {
        *(long*)(device + StateAt) |= OpenBit | ((flags & AccessMask) == 0 ? ReadOnlyBit : 0);
        return 0;
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static int Close(nint device)
    {
        *(long*)(device + StateAt) &= ~OpenBit;
        return 0;
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static long Seek(nint device, long offset, int whence)
    {
        var one = Of(device);
        var target = whence switch { 0 => offset, 1 => one.position + offset, 2 => one.blocks.LengthBytes + offset, _ => -1 };
        if (target < 0) return Fail(InvalidArgument);
        return one.position = target;
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static long Read(nint device, byte* buffer, long count)
    {
        var one = Of(device);
        var done = one.Transfer(one.position, buffer, count, write: false);
        if (done > 0) one.position += done;
        return done;
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static long Write(nint device, byte* buffer, long count)
    {
        var one = Of(device);
        var done = one.Transfer(one.position, buffer, count, write: true);
        if (done > 0) one.position += done;
        return done;
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static long ReadAt(nint device, byte* buffer, long count, long offset) =>
        Of(device).Transfer(offset, buffer, count, write: false);

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static long WriteAt(nint device, byte* buffer, long count, long offset) =>
        Of(device).Transfer(offset, buffer, count, write: true);

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static int Sync(nint device) => 0;

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static int Stat(nint device, nint result) => Fail(NotSupported);

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static int Control(nint device, ulong request, nint argument) => Fail(NotSupported);
}
