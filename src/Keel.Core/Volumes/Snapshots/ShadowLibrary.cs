using System.Runtime.InteropServices;
using System.Text;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Snapshots;

/// <summary>The calls of libvshadow and libbfio that keel uses, found when the first snapshots are looked at.</summary>
/// <remarks>Signatures from the libraries' headers libvshadow.h and libbfio.h (20190323, 20170123; unchanged since).</remarks>
internal sealed unsafe class ShadowLibrary
{
    public const int ReadAccess = 1;
    private const string Shadow = "libvshadow.so.1", Input = "libbfio.so.1";
    private const int MessageBytes = 512;

    public readonly delegate* unmanaged<nint*, nint*, int> VolumeInitialize;
    public readonly delegate* unmanaged<nint*, nint*, int> VolumeFree;
    public readonly delegate* unmanaged<nint, nint, int, nint*, int> VolumeOpen;
    public readonly delegate* unmanaged<nint, nint*, int> VolumeClose;
    public readonly delegate* unmanaged<nint, int*, nint*, int> StoreCount;
    public readonly delegate* unmanaged<nint, int, nint*, nint*, int> GetStore;
    public readonly delegate* unmanaged<nint*, nint*, int> StoreFree;
    public readonly delegate* unmanaged<nint, ulong*, nint*, int> StoreMade;
    public readonly delegate* unmanaged<nint, byte*, nuint, nint*, int> StoreCopyId;
    public readonly delegate* unmanaged<nint, uint*, nint*, int> StoreFlags;
    public readonly delegate* unmanaged<nint, ulong*, nint*, int> StoreVolumeBytes;
    public readonly delegate* unmanaged<nint, byte*, nuint, long, nint*, nint> StoreRead;

    /// <summary>Free, clone, open, close, read, write, seek, exists, is open, size; then flags.</summary>
    public readonly delegate* unmanaged<
        nint*, nint, nint, nint, nint, nint, nint, nint, nint, nint, nint, nint, byte, nint*, int> HandleInitialize;

    public readonly delegate* unmanaged<nint*, nint*, int> HandleFree;

    private readonly delegate* unmanaged<nint, byte*, nuint, int> errorText;
    private readonly delegate* unmanaged<nint*, void> errorFree;

    private ShadowLibrary(nint shadow, nint input)
    {
        VolumeInitialize = (delegate* unmanaged<nint*, nint*, int>)Get(shadow, "libvshadow_volume_initialize");
        VolumeFree = (delegate* unmanaged<nint*, nint*, int>)Get(shadow, "libvshadow_volume_free");
        VolumeOpen = (delegate* unmanaged<nint, nint, int, nint*, int>)Get(shadow, "libvshadow_volume_open_file_io_handle");
        VolumeClose = (delegate* unmanaged<nint, nint*, int>)Get(shadow, "libvshadow_volume_close");
        StoreCount = (delegate* unmanaged<nint, int*, nint*, int>)Get(shadow, "libvshadow_volume_get_number_of_stores");
        GetStore = (delegate* unmanaged<nint, int, nint*, nint*, int>)Get(shadow, "libvshadow_volume_get_store");
        StoreFree = (delegate* unmanaged<nint*, nint*, int>)Get(shadow, "libvshadow_store_free");
        StoreMade = (delegate* unmanaged<nint, ulong*, nint*, int>)Get(shadow, "libvshadow_store_get_creation_time");
        StoreCopyId = (delegate* unmanaged<nint, byte*, nuint, nint*, int>)Get(shadow, "libvshadow_store_get_copy_identifier");
        StoreFlags = (delegate* unmanaged<nint, uint*, nint*, int>)Get(shadow, "libvshadow_store_get_attribute_flags");
        StoreVolumeBytes = (delegate* unmanaged<nint, ulong*, nint*, int>)Get(shadow, "libvshadow_store_get_volume_size");
        StoreRead = (delegate* unmanaged<nint, byte*, nuint, long, nint*, nint>)Get(
            shadow,
            "libvshadow_store_read_buffer_at_offset");
        errorText = (delegate* unmanaged<nint, byte*, nuint, int>)Get(shadow, "libvshadow_error_sprint");
        errorFree = (delegate* unmanaged<nint*, void>)Get(shadow, "libvshadow_error_free");
        HandleInitialize = (delegate* unmanaged<
            nint*, nint, nint, nint, nint, nint, nint, nint, nint, nint, nint, nint, byte, nint*, int>)Get(
            input,
            "libbfio_handle_initialize");
        HandleFree = (delegate* unmanaged<nint*, nint*, int>)Get(input, "libbfio_handle_free");
    }

    public static bool IsThere => NativeLibrary.TryLoad(Shadow, out _) && NativeLibrary.TryLoad(Input, out _);

    /// <exception cref="UnreadableException">They are not installed, or lack a call.</exception>
    public static ShadowLibrary Load()
    {
        if (!NativeLibrary.TryLoad(Shadow, out var shadow) || !NativeLibrary.TryLoad(Input, out var input))
        {
            throw new UnreadableException(
                "Snapshots can't be read.",
                "The libraries libvshadow and libbfio are not installed.",
                "Install them (on Debian: apt install libvshadow1 libbfio1) and run the same command again.");
        }

        try
        {
            return new ShadowLibrary(shadow, input);
        }
        catch (EntryPointNotFoundException e)
        {
            throw new UnreadableException(
                "Snapshots can't be read.",
                $"The libraries libvshadow and libbfio are not ones that keel can use: {e.Message.TrimEnd('.')}.",
                "Install Debian's (apt install libvshadow1 libbfio1) and run the same command again.");
        }
    }

    /// <summary>The error that a call left, which is freed.</summary>
    public UnreadableException Failed(nint error, KeelException? below)
    {
        if (below is not null)
        {
            errorFree(&error);
            return new UnreadableException("A snapshot can't be read.", $"{below.What} {below.Why}", below.Todo, below);
        }

        var text = stackalloc byte[MessageBytes];
        var length = error == 0 ? 0 : errorText(error, text, MessageBytes);
        var said = length > 1 ? Encoding.UTF8.GetString(text, Math.Min(length, MessageBytes) - 1) : "nothing";
        if (error != 0) errorFree(&error);
        return new UnreadableException(
            "A snapshot can't be read.",
            $"The library says: {said.TrimEnd('.', '\n', '\0')}.",
            "Go on without it, or look into another one.");
    }

    private static nint Get(nint library, string name) => NativeLibrary.GetExport(library, name);
}
