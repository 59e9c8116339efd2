using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;

namespace Keel.Core.Disks;

/// <summary>
/// Reads single sectors of a disk past the kernel's page cache, which gives up a whole page for one bad sector.
/// </summary>
internal sealed unsafe class SectorReader : IDisposable
{
    private const int PageBytes = 4096;
    private readonly SafeFileHandle handle;
    private readonly long lengthBytes;
    private readonly int sectorBytes;
    private readonly byte* page;

    public SectorReader(string path, long lengthBytes, int sectorBytes)
    {
        this.lengthBytes = lengthBytes;
        this.sectorBytes = sectorBytes;
        handle = LinuxNative.OpenForReading(path, direct: true);
        if (handle.IsInvalid) handle = LinuxNative.OpenForReading(path);
        page = (byte*)NativeMemory.AlignedAlloc(PageBytes, PageBytes);
    }

    /// <summary>The bytes of a sector, fewer at the end of an image; null where the device does not give them.</summary>
    public byte[]? TryRead(long sector)
    {
        var start = sector * sectorBytes;
        var wanted = (int)Math.Min(sectorBytes, lengthBytes - start);
        if (handle.IsInvalid || wanted <= 0) return null;
        try
        {
            return RandomAccess.Read(handle, new Span<byte>(page, sectorBytes), start) >= wanted
                ? new Span<byte>(page, wanted).ToArray()
                : null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    public void Dispose()
    {
        handle.Dispose();
        NativeMemory.AlignedFree(page);
    }
}
