using System.Security.Cryptography;
using Keel.Core.Blocks;
using Keel.Core.Disks;

namespace Keel.Core.Tests;

/// <summary>What is read back comes from stable storage, at any place and length, holes and all.</summary>
public sealed class StableReaderTests : IDisposable
{
    private const int LengthBytes = 3_000_000;
    private readonly string path = Path.Combine(Path.GetTempPath(), Path.GetRandomFileName());

    public void Dispose() => File.Delete(path);

    [Theory]
    [InlineData(0, 1)]
    [InlineData(0, 4096)]
    [InlineData(511, 2)]
    [InlineData(4095, 4098)]
    [InlineData(100_000, 2_000_000)]
    [InlineData(LengthBytes - 1, 1)]
    [InlineData(LengthBytes - 4097, 4097)]
    [InlineData(0, LengthBytes)]
    public void Any_place_and_length_gives_what_was_written(int offset, int count)
    {
        var bytes = RandomNumberGenerator.GetBytes(LengthBytes);
        File.WriteAllBytes(path, bytes);
        using var reader = new StableReader(path);
        var read = new byte[count];
        reader.Read(offset, read);
        Assert.True(read.AsSpan().SequenceEqual(bytes.AsSpan(offset, count)));
    }

    [Fact]
    public void Holes_read_as_zeros_also_where_data_lies_on_both_sides()
    {
        const int dataBytes = 4096, secondAt = 1024 * 1024;
        using (var file = File.Create(path))
        {
            file.Write(Filled(dataBytes, 1));
            file.Position = secondAt;
            file.Write(Filled(dataBytes, 2));
            file.SetLength(LengthBytes);
        }

        using var reader = new StableReader(path);
        var read = Filled(LengthBytes, 9);
        reader.Read(0, read);
        Assert.True(read.AsSpan(0, dataBytes).SequenceEqual(Filled(dataBytes, 1)));
        Assert.False(read.AsSpan(dataBytes, secondAt - dataBytes).ContainsAnyExcept((byte)0));
        Assert.True(read.AsSpan(secondAt, dataBytes).SequenceEqual(Filled(dataBytes, 2)));
        Assert.False(read.AsSpan(secondAt + dataBytes).ContainsAnyExcept((byte)0));

        var hole = Filled(LengthBytes - secondAt - dataBytes, 9);
        reader.Read(secondAt + dataBytes, hole);
        Assert.False(hole.AsSpan().ContainsAnyExcept((byte)0));
    }

    [Theory]
    [InlineData(LengthBytes, 1)]
    [InlineData(LengthBytes - 100, 101)]
    [InlineData(0, LengthBytes + 1)]
    public void Beyond_the_end_is_an_error_not_zeros(int offset, int count)
    {
        using (var file = File.Create(path)) file.SetLength(LengthBytes);
        using var reader = new StableReader(path);
        Assert.Throws<IOException>(() => reader.Read(offset, new byte[count]));
    }

    [Fact]
    public void A_disk_image_gives_holes_as_zeros_and_says_what_is_no_hole()
    {
        const int dataAt = 1_048_576, dataBytes = 4096;
        using (var file = File.Create(path))
        {
            file.Position = dataAt;
            file.Write(Filled(dataBytes, 7));
            file.SetLength(LengthBytes);
        }

        using var disk = DiskFile.Open(path);
        Assert.False(disk.ReadBytes(0, dataAt).AsSpan().ContainsAnyExcept((byte)0));
        Assert.Equal(Filled(dataBytes, 7), disk.ReadBytes(0, dataAt + dataBytes)[dataAt..]);
    }

    private static byte[] Filled(int count, byte value)
    {
        var bytes = new byte[count];
        bytes.AsSpan().Fill(value);
        return bytes;
    }
}
