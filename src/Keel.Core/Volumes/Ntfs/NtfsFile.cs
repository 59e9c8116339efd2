using System.Runtime.InteropServices;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>The contents of one file on an NTFS volume, or of another attribute of it.</summary>
internal sealed unsafe class NtfsFile : IReadableBlocks, IDisposable
{
    public const uint DataType = 0x80, VolumeInformationType = 0x70, StandardInformationType = 0x10, ReparseType = 0xC0;

    /// <summary>In larger pieces the library gives up on a volume whose free space is in crumbs.</summary>
    private const int PieceBytes = 4 * 1024, ReadBytesAtOnce = 1024 * 1024;
    public const int SizeAt = 56;                               // struct _ntfs_attr: …, allocated_size, data_size
    private readonly NtfsLibrary library;
    private readonly NtfsInode inode;
    private readonly string path;
    private readonly NtfsDevice? device;
    private nint attribute;

    public NtfsFile(
        NtfsLibrary library,
        NtfsInode inode,
        string path,
        uint type = DataType,
        NtfsDevice? device = null,
        string? stream = null)
    {
        this.device = device;
        this.library = library;
        this.inode = inode;
        this.path = path;
        device?.Forget();
        attribute = stream is null ? library.AttrOpen(inode.Handle, type, library.Unnamed, 0) : OpenNamed(type, stream);
        if (attribute == 0) throw Failed("opened");
        LengthBytes = *(long*)(attribute + SizeAt);
    }

    private nint OpenNamed(uint type, string stream)
    {
        fixed (char* name = stream) return library.AttrOpen(inode.Handle, type, (nint)name, (uint)stream.Length);
    }

    public long LengthBytes { get; private set; }

    public int SectorBytes => 512;

    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        if (buffer.Length == 0) return;     // the library calls that an invalid argument
        device?.Forget();
        fixed (byte* start = buffer)
        {
            if (library.AttrPread(attribute, offsetBytes, buffer.Length, start) != buffer.Length) throw Failed("read");
        }
    }

    public void Replace(ReadOnlySpan<byte> contents)
    {
        if (library.AttrTruncate(attribute, 0) != 0) throw Failed("written");
        WriteAt(0, contents);
        End(contents.Length);
    }

    /// <summary>The same, piece by piece.</summary>
    public void Replace(IReadableBlocks contents)
    {
        if (library.AttrTruncate(attribute, 0) != 0) throw Failed("written");
        var buffer = new byte[ReadBytesAtOnce];
        for (var done = 0L; done < contents.LengthBytes;)
        {
            var piece = buffer.AsSpan(0, (int)Math.Min(buffer.Length, contents.LengthBytes - done));
            contents.Read(done, piece);
            WriteAt(done, piece);
            done += piece.Length;
        }

        End(contents.LengthBytes);
    }

    private void WriteAt(long offsetBytes, ReadOnlySpan<byte> bytes)
    {
        while (bytes.Length > 0)
        {
            fixed (byte* start = bytes)
            {
                var count = library.AttrPwrite(attribute, offsetBytes, Math.Min(PieceBytes, bytes.Length), start);
                if (count <= 0) throw Failed("written");
                bytes = bytes[(int)count..];
                offsetBytes += count;
            }
        }
    }

    private void End(long lengthBytes)
    {
        if (library.AttrPclose(attribute) != 0) throw Failed("written");     // ends the last block of a compressed file
        LengthBytes = lengthBytes;
    }

    public void Patch(long offsetBytes, ReadOnlySpan<byte> bytes)
    {
        this.CheckRange(offsetBytes, bytes.Length);
        fixed (byte* start = bytes)
        {
            if (library.AttrPwrite(attribute, offsetBytes, bytes.Length, start) != bytes.Length) throw Failed("written");
        }
    }

    /// <summary>Makes the file longer, without holes: Windows starts from no sparse file.</summary>
    public void Grow(long lengthBytes)
    {
        if (lengthBytes <= LengthBytes) return;
        if (library.AttrTruncateSolid(attribute, lengthBytes) != 0) throw Failed("made longer");
        LengthBytes = lengthBytes;
    }

    /// <summary>Makes it longer by a hole; false where the library does not.</summary>
    public bool Extend(long lengthBytes)
    {
        if (library.AttrTruncate(attribute, lengthBytes) != 0) return false;
        LengthBytes = lengthBytes;
        return true;
    }

    public void Dispose()
    {
        if (attribute == 0) return;
        library.AttrClose(attribute);
        attribute = 0;
        inode.Dispose();
    }

    private KeelException Failed(string verb) => device?.Fault is ReadFailedException failed ? failed.In(path)
        : device?.Fault is { } fault
        ? new UnreadableException($"{path} can't be {verb}.", $"{fault.What} {fault.Why}", fault.Todo, fault)
        : new UnreadableException(
        $"{path} can't be {verb}.",
        $"The file system says: {Marshal.GetPInvokeErrorMessage(Marshal.GetLastSystemError())}",
        "Check the volume's file system; where it is damaged, copy the data off first.");
}
