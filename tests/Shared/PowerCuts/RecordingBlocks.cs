using Keel.Core.Blocks;

namespace Keel.Tests;

/// <summary>A disk that writes down what is written to it, in the same order as the logbook's calls.</summary>
internal sealed class RecordingBlocks(IWritableBlocks disk, StorageTrace trace, string name) : IWritableBlocks
{
    public long LengthBytes => disk.LengthBytes;

    public int SectorBytes => disk.SectorBytes;

    public void Read(long offsetBytes, Span<byte> buffer) => disk.Read(offsetBytes, buffer);

    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        trace.Next();
        disk.Write(offsetBytes, data);
        trace.Add(new StorageCall(StorageCallKind.WriteDisk, name) { Offset = offsetBytes, Bytes = data.ToArray() });
    }

    public void Flush()
    {
        trace.Next();
        disk.Flush();
        trace.Add(new StorageCall(StorageCallKind.FlushDisk, name));
    }
}
