using System.Runtime.InteropServices;
using Keel.Core.Errors;

namespace Keel.Core.Windows.Media;

/// <summary>The calls of libarchive that keel uses, found when the first image of a medium is opened.</summary>
/// <remarks>Signatures from the library's headers archive.h and archive_entry.h (3.6; unchanged since 3.0).</remarks>
internal sealed unsafe class ArchiveLibrary
{
    /// <summary>What calls answer: done, nothing more, done with a remark.</summary>
    public const int Ok = 0, End = 1, Warned = -20;

    private const string Name = "libarchive.so.13";

    public readonly delegate* unmanaged<nint> New;
    public readonly delegate* unmanaged<nint, int> SupportIso;
    public readonly delegate* unmanaged<nint, int> SupportCabinet;
    public readonly delegate* unmanaged<nint, byte*, nuint, int> OpenFile;
    public readonly delegate* unmanaged<nint, void*, nuint, int> OpenMemory;
    public readonly delegate* unmanaged<nint, nint*, int> NextHeader;
    public readonly delegate* unmanaged<nint, void*, nuint, nint> ReadData;
    public readonly delegate* unmanaged<nint, int> Free;
    public readonly delegate* unmanaged<nint, nint> ErrorText;
    public readonly delegate* unmanaged<nint, nint> EntryPath;
    public readonly delegate* unmanaged<nint, nint> EntryPathPlain;
    public readonly delegate* unmanaged<nint, long> EntrySize;
    public readonly delegate* unmanaged<nint, uint> EntryType;

    private ArchiveLibrary(nint library)
    {
        New = (delegate* unmanaged<nint>)Get(library, "archive_read_new");
        SupportIso = (delegate* unmanaged<nint, int>)Get(library, "archive_read_support_format_iso9660");
        SupportCabinet = (delegate* unmanaged<nint, int>)Get(library, "archive_read_support_format_cab");
        OpenFile = (delegate* unmanaged<nint, byte*, nuint, int>)Get(library, "archive_read_open_filename");
        OpenMemory = (delegate* unmanaged<nint, void*, nuint, int>)Get(library, "archive_read_open_memory");
        NextHeader = (delegate* unmanaged<nint, nint*, int>)Get(library, "archive_read_next_header");
        ReadData = (delegate* unmanaged<nint, void*, nuint, nint>)Get(library, "archive_read_data");
        Free = (delegate* unmanaged<nint, int>)Get(library, "archive_read_free");
        ErrorText = (delegate* unmanaged<nint, nint>)Get(library, "archive_error_string");
        EntryPath = (delegate* unmanaged<nint, nint>)Get(library, "archive_entry_pathname_utf8");
        EntryPathPlain = (delegate* unmanaged<nint, nint>)Get(library, "archive_entry_pathname");
        EntrySize = (delegate* unmanaged<nint, long>)Get(library, "archive_entry_size");
        EntryType = (delegate* unmanaged<nint, uint>)Get(library, "archive_entry_filetype");
    }

    /// <exception cref="UnreadableException">It is not installed, or lacks a call.</exception>
    public static ArchiveLibrary Load()
    {
        if (!NativeLibrary.TryLoad(Name, out var library))
        {
            throw new UnreadableException(
                "Images of media and packed files can't be read.",
                "The library libarchive is not installed.",
                "Install it (on Debian: apt install libarchive13), or mount the image and name its folder.");
        }

        try
        {
            return new ArchiveLibrary(library);
        }
        catch (EntryPointNotFoundException e)
        {
            throw new UnreadableException(
                "Images of media and packed files can't be read.",
                $"The library libarchive is not one that keel can use: {e.Message.TrimEnd('.')}.",
                "Install Debian's (apt install libarchive13), or mount the image and name its folder.");
        }
    }

    private static nint Get(nint library, string name) => NativeLibrary.GetExport(library, name);
}
