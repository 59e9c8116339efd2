using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Disks;

/// <summary>A file without a name that an overlay writes to where its memory ends; it is gone with the process.</summary>
public sealed class SpillFile : ISpillRoom
{
    private readonly string folder;
    private readonly FileStream file;
    private long end;

    /// <param name="folder">Where it is made; it is made too, where only its last part is missing.</param>
    /// <exception cref="RefusedException">The folder can't be written to.</exception>
    public SpillFile(string folder)
    {
        this.folder = folder;
        try
        {
            if (!Directory.Exists(folder)) LinuxNative.CreatePrivateFolder(folder);
            var path = Path.Combine(folder, $".keel-{Guid.NewGuid():N}");
            file = HostFile.CreateNew(path);
            File.Delete(path);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw NoRoom(e);
        }
    }

    /// <inheritdoc/>
    public long Take(int length)
    {
        var place = end;
        end += length;
        return place;
    }

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        try
        {
            while (buffer.Length > 0)
            {
                var count = RandomAccess.Read(file.SafeFileHandle, buffer, offsetBytes);
                if (count == 0)
                {
                    buffer.Clear();                             // taken, and never written
                    return;
                }

                buffer = buffer[count..];
                offsetBytes += count;
            }
        }
        catch (IOException e)
        {
            throw NoRoom(e);
        }
    }

    /// <inheritdoc/>
    public void Write(long offsetBytes, ReadOnlySpan<byte> bytes)
    {
        try
        {
            RandomAccess.Write(file.SafeFileHandle, bytes, offsetBytes);
        }
        catch (IOException e)
        {
            throw NoRoom(e);
        }
    }

    private RefusedException NoRoom(Exception e) => new(
        "This repair is larger than the memory that keel takes for it, and nothing was written.",
        $"What it changes is kept in {folder} until it is agreed to. The system says: {e.Message}",
        "Make room there, or name a folder on another disk with --logbook.");
}
