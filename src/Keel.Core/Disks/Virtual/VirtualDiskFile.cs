using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>A virtual disk in a file of this computer, with the files that it differs from.</summary>
internal sealed class VirtualDiskFile : IDisk
{
    private readonly DiskFile file;
    private readonly IVirtualDisk disk;
    private readonly IReadOnlyList<IDisposable> parents;

    /// <param name="file">Its file; disposed of with it.</param>
    /// <param name="disk">The disk in it.</param>
    /// <param name="form">What it is.</param>
    /// <param name="parents">What it differs from; disposed of with it.</param>
    public VirtualDiskFile(DiskFile file, IVirtualDisk disk, DiskForm form, IReadOnlyList<IDisposable> parents)
    {
        this.file = file;
        this.disk = disk;
        this.parents = parents;
        Form = form;
    }

    /// <inheritdoc/>
    public string Path => file.Path;

    /// <inheritdoc/>
    public DiskForm Form { get; }

    /// <inheritdoc/>
    public BlockCounters Counters => file.Counters;

    /// <inheritdoc/>
    public DiskTraits Traits => file.Traits;

    /// <inheritdoc/>
    public long LengthBytes => disk.LengthBytes;

    /// <inheritdoc/>
    public int SectorBytes => disk.SectorBytes;

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer) => disk.Read(offsetBytes, buffer);

    /// <inheritdoc/>
    public void ReadBack(long offsetBytes, Span<byte> buffer) => disk.ReadBack(offsetBytes, buffer);

    /// <inheritdoc/>
    public void Write(long offsetBytes, ReadOnlySpan<byte> data) => disk.Write(offsetBytes, data);

    /// <inheritdoc/>
    public long NextData(long offsetBytes) => disk.NextData(offsetBytes);

    /// <inheritdoc/>
    public void Flush() => disk.Flush();

    /// <inheritdoc/>
    public void ForgetCached() => file.ForgetCached();

    /// <inheritdoc/>
    public void Dispose()
    {
        file.Dispose();
        foreach (var parent in parents) parent.Dispose();
    }
}
