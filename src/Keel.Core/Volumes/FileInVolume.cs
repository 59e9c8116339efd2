using Keel.Core.Blocks;
using Keel.Core.Disks;

namespace Keel.Core.Volumes;

/// <summary>A file of a volume as the backing of a virtual disk; what is written to it lands in the volume's overlay.</summary>
/// <param name="volume">Gives the volume's files; they may be opened anew in between.</param>
/// <param name="path">The file.</param>
internal sealed class FileInVolume(Func<IVolume> volume, string path) : IBackingFile
{
    private (IVolume Volume, IReadableBlocks File)? opened;

    /// <inheritdoc/>
    public long LengthBytes => File.LengthBytes;

    /// <inheritdoc/>
    public int SectorBytes => 512;

    private IReadableBlocks File
    {
        get
        {
            var files = volume();
            if (opened is not { } last || last.Volume != files) opened = (files, files.OpenFile(path));
            return opened.Value.File;
        }
    }

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer) => File.Read(offsetBytes, buffer);

    /// <inheritdoc/>
    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        volume().Patch(path, offsetBytes, data);
        opened = null;
    }

    /// <inheritdoc/>
    public void Grow(long lengthBytes)
    {
        volume().Grow(path, lengthBytes);
        opened = null;
    }

    /// <summary>Nothing to do: the disk that the volume is on is flushed as a whole.</summary>
    public void Flush()
    {
    }

    /// <inheritdoc/>
    public long NextData(long offsetBytes) => offsetBytes;
}
