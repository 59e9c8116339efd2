using Keel.Core.Blocks;
using Keel.Core.Disks;

namespace Keel.Tests;

/// <summary>
/// A file in memory that remembers every call, so that what a power cut leaves of it can be made at any of them.
/// </summary>
internal sealed class MemoryFile : IBackingFile
{
    private readonly List<FileCall> calls = [];
    private byte[] bytes;

    public MemoryFile(byte[] bytes) => this.bytes = bytes;

    /// <summary>What was done to it, in its order.</summary>
    public IReadOnlyList<FileCall> Calls => calls;

    public long LengthBytes => bytes.Length;

    public int SectorBytes => 512;

    public byte[] ToBytes() => (byte[])bytes.Clone();

    public void ForgetCalls() => calls.Clear();

    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        bytes.AsSpan((int)offsetBytes, buffer.Length).CopyTo(buffer);
    }

    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        this.CheckRange(offsetBytes, data.Length);
        calls.Add(new FileCall(offsetBytes, data.ToArray(), 0));
        data.CopyTo(bytes.AsSpan((int)offsetBytes));
    }

    public void Grow(long lengthBytes)
    {
        calls.Add(new FileCall(0, null, lengthBytes));
        Array.Resize(ref bytes, (int)lengthBytes);
    }

    public void Flush() => calls.Add(new FileCall(0, null, 0));

    public long NextData(long offsetBytes) => offsetBytes;

    /// <summary>
    /// The file after a power cut behind a call: what was flushed is there; of the rest nothing, all, or every other call.
    /// </summary>
    public static byte[] After(byte[] before, IReadOnlyList<FileCall> calls, int count, Func<int, bool> reached)
    {
        var flushed = 0;
        for (var number = 0; number < count; number++)
        {
            if (calls[number].IsFlush) flushed = number;
        }

        var left = (byte[])before.Clone();
        for (var number = 0; number < count; number++)
        {
            if (number >= flushed && !reached(number)) continue;
            var call = calls[number];
            if (call.IsGrow && call.Length > left.Length) Array.Resize(ref left, (int)call.Length);
            if (call.Data is not { } data) continue;
            if (call.At + data.Length > left.Length) Array.Resize(ref left, (int)call.At + data.Length);
            data.CopyTo(left, (int)call.At);
        }

        return left;
    }

    /// <summary>A write, a growth, or, with neither, a flush.</summary>
    internal sealed record FileCall(long At, byte[]? Data, long Length)
    {
        public bool IsGrow => Data is null && Length > 0;

        public bool IsFlush => Data is null && Length == 0;
    }
}
