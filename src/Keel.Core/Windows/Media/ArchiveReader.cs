using System.Buffers;
using System.Runtime.InteropServices;
using System.Text;
using Keel.Core.Errors;

namespace Keel.Core.Windows.Media;

/// <summary>Goes once through an ISO 9660 image or a cabinet, in the order of its entries.</summary>
internal sealed unsafe class ArchiveReader : IDisposable
{
    private const int BlockBytes = 64 * 1024, PieceBytes = 1 << 20;
    private const uint TypeMask = 0xF000, FolderType = 0x4000, FileType = 0x8000;
    private readonly ArchiveLibrary library = ArchiveLibrary.Load();
    private readonly string name;
    private readonly MemoryHandle memory;
    private nint archive;

    private ArchiveReader(string name, byte[]? contents)
    {
        this.name = name;
        archive = library.New();
        if (archive == 0) throw Failed("It has no memory for it");
        _ = library.SupportIso(archive);
        _ = library.SupportCabinet(archive);
        if (contents is not null) memory = contents.AsMemory().Pin();
        try
        {
            Check(contents is null ? OpenFile(name) : library.OpenMemory(archive, memory.Pointer, (nuint)contents.Length));
        }
        catch
        {
            Dispose();
            throw;
        }
    }

    /// <exception cref="UnreadableException">It can't be read, or is neither image nor cabinet.</exception>
    public static ArchiveReader OfFile(string path) => new(path, contents: null);

    /// <exception cref="UnreadableException">It is neither image nor cabinet.</exception>
    public static ArchiveReader OfBytes(string name, byte[] contents) => new(name, contents);

    /// <summary>The next file or folder; null behind the last.</summary>
    /// <exception cref="UnreadableException">It is damaged.</exception>
    public ArchiveEntry? Next()
    {
        while (true)
        {
            nint entry = 0;
            var answer = library.NextHeader(archive, &entry);
            if (answer == ArchiveLibrary.End) return null;
            Check(answer);
            var type = library.EntryType(entry) & TypeMask;
            if (type is not (FolderType or FileType) || PathOf(entry) is not { } path) continue;
            return new ArchiveEntry(path, type == FolderType, library.EntrySize(entry));
        }
    }

    /// <summary>The contents of the file that <see cref="Next"/> gave.</summary>
    /// <exception cref="UnreadableException">It is damaged, or longer than that.</exception>
    public byte[] Read(int limitBytes)
    {
        using var contents = new MemoryStream();
        var piece = new byte[PieceBytes];
        fixed (byte* start = piece)
        {
            while (true)
            {
                var count = library.ReadData(archive, start, (nuint)piece.Length);
                if (count == 0) return contents.ToArray();
                if (count < 0) throw Failed(Said());
                if (contents.Length + count > limitBytes) throw Failed($"A file in it has more than {limitBytes} bytes");
                contents.Write(piece, 0, (int)count);
            }
        }
    }

    public void Dispose()
    {
        if (archive != 0) _ = library.Free(archive);
        archive = 0;
        memory.Dispose();
    }

    private int OpenFile(string path)
    {
        fixed (byte* text = Encoding.UTF8.GetBytes(path + "\0"))
        {
            return library.OpenFile(archive, text, BlockBytes);
        }
    }

    private string? PathOf(nint entry)
    {
        var text = library.EntryPath(entry);
        if (text == 0) text = library.EntryPathPlain(entry);
        var path = Marshal.PtrToStringUTF8(text)?.Replace('/', '\\').Trim('\\');
        return path is null or "" or "." ? null : path;
    }

    private void Check(int answer)
    {
        if (answer is not (ArchiveLibrary.Ok or ArchiveLibrary.Warned)) throw Failed(Said());
    }

    private string Said() => $"The library says: {Marshal.PtrToStringUTF8(library.ErrorText(archive)) ?? "nothing"}";

    private UnreadableException Failed(string why) => new(
        $"{name} can't be copied from.",
        $"{why.TrimEnd('.')}.",
        "Name an image of an installation medium, or the folder where it is mounted.");
}
