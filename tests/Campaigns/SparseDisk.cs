using Keel.Core.Blocks;

namespace Keel.Campaigns;

/// <summary>A disk image in memory of which only the blocks that are not zero are kept; many variants share it.</summary>
internal sealed class SparseDisk : IReadableBlocks
{
    public const int BlockBytes = 4096;
    private static readonly byte[] Zeros = new byte[BlockBytes];
    private readonly byte[]?[] blocks;

    private SparseDisk(byte[]?[] blocks, long lengthBytes, int sectorBytes)
    {
        this.blocks = blocks;
        LengthBytes = lengthBytes;
        SectorBytes = sectorBytes;
    }

    public long LengthBytes { get; }

    public int SectorBytes { get; }

    /// <summary>The numbers of the blocks that are not zero.</summary>
    public IReadOnlyList<int> Used => [.. Enumerable.Range(0, blocks.Length).Where(number => blocks[number] is not null)];

    public static SparseDisk Load(string path, int sectorBytes)
    {
        using var file = File.OpenRead(path);
        var blocks = new byte[]?[(file.Length + BlockBytes - 1) / BlockBytes];
        var block = new byte[BlockBytes];
        for (var number = 0; number < blocks.Length; number++)
        {
            var count = file.ReadAtLeast(block, BlockBytes, throwOnEndOfStream: false);
            if (block.AsSpan(0, count).ContainsAnyExcept((byte)0)) blocks[number] = block.AsSpan().ToArray();
        }

        return new SparseDisk(blocks, file.Length, sectorBytes);
    }

    public ReadOnlySpan<byte> Block(long number) => blocks[number] ?? Zeros;

    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        while (buffer.Length > 0)
        {
            var within = (int)(offsetBytes % BlockBytes);
            var count = Math.Min(buffer.Length, BlockBytes - within);
            Block(offsetBytes / BlockBytes).Slice(within, count).CopyTo(buffer);
            buffer = buffer[count..];
            offsetBytes += count;
        }
    }
}
