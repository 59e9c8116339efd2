using System.Buffers.Binary;
using System.Reflection.PortableExecutable;
using System.Text;
using Keel.Core.Blocks;

namespace Keel.Core.Programs;

/// <summary>What a start program says of itself in its PE headers (Microsoft PE format).</summary>
/// <param name="Machine">What processor it is for.</param>
/// <param name="Subsystem">What it runs under (PE specification, "Windows Subsystem").</param>
/// <param name="NeededBytes">The end of its last section: a shorter file was cut short.</param>
/// <param name="Resources">Where its resources lie in the file, in bytes; empty where it has none.</param>
public sealed record ProgramFile(Machine Machine, Subsystem Subsystem, long NeededBytes, ByteRange Resources)
{
    private const int FirstLookBytes = 4096, HeadersLimitBytes = 64 * 1024, ResourcesLimitBytes = 4 * 1024 * 1024;

    /// <summary>Begins the fixed part of a version resource.</summary>
    private static ReadOnlySpan<byte> VersionMark => [0xBD, 0x04, 0xEF, 0xFE];

    /// <summary>Reads the headers; nothing where the file is not a program.</summary>
    public static ProgramFile? TryRead(IReadableBlocks file) => TryRead(file, FirstLookBytes) ?? TryRead(file, HeadersLimitBytes);

    /// <summary>The version that a program says it has, as in 10.0.19041.1; null where it says none.</summary>
    public static Version? VersionOf(IReadableBlocks file)
    {
        var range = TryRead(file)?.Resources ?? new ByteRange(0, file.LengthBytes);
        if (range.Length <= 0 || file.TryRead(range.Start, (int)Math.Min(range.Length, ResourcesLimitBytes)) is not { } bytes)
            return null;
        const int highAt = 8, lowAt = 12, needed = 16;
        var at = bytes.AsSpan().IndexOf(VersionMark);
        if (at < 0 || at + needed > bytes.Length) return null;
        var high = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(at + highAt));
        var low = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(at + lowAt));
        return new Version((int)(high >> 16), (int)(high & 0xFFFF), (int)(low >> 16), (int)(low & 0xFFFF));
    }

    /// <summary>Who made a program, as its version resource says; null where it says nothing.</summary>
    public static string? CompanyOf(IReadableBlocks file)
    {
        const int mostLetters = 200;
        if (TryRead(file)?.Resources is not { Length: > 0 } range
            || file.TryRead(range.Start, (int)Math.Min(range.Length, ResourcesLimitBytes)) is not { } bytes)
        {
            return null;
        }

        var key = Encoding.Unicode.GetBytes("CompanyName\0");
        var at = bytes.AsSpan().IndexOf(key);
        if (at < 0) return null;
        var length = Math.Min((bytes.Length - at - key.Length) & ~1, 2 * mostLetters);
        var rest = Encoding.Unicode.GetString(bytes.AsSpan(at + key.Length, length));
        return rest.TrimStart('\0').Split('\0')[0] is { Length: > 0 } name ? name : null;
    }

    /// <summary>A processor as people call it.</summary>
    public static string NameOf(Machine machine) => machine switch
    {
        Machine.Amd64 => "x86-64",
        Machine.I386 => "x86, 32 bits",
        Machine.Arm64 => "ARM64",
        _ => machine.ToString()
    };

    private static ProgramFile? TryRead(IReadableBlocks file, int headBytes)
    {
        var head = file.TryRead(0, (int)Math.Min(file.LengthBytes, headBytes));
        if (head is null || !head.AsSpan().StartsWith("MZ"u8)) return null;
        try
        {
            using var stream = new MemoryStream(head, writable: false);
            var headers = new PEHeaders(stream);
            if (headers.PEHeader is not { } header) return null;
            var end =
                headers.SectionHeaders
                    .Select(section => (long)section.PointerToRawData + section.SizeOfRawData)
                    .DefaultIfEmpty(0)
                    .Max();
            return new ProgramFile(headers.CoffHeader.Machine, header.Subsystem, end, ResourcesOf(headers, header));
        }
        catch (Exception e) when (e is BadImageFormatException or InvalidOperationException or ArgumentException or IOException)
        {
            return null;
        }
    }

    private static ByteRange ResourcesOf(PEHeaders headers, PEHeader header)
    {
        var address = header.ResourceTableDirectory.RelativeVirtualAddress;
        var index = address == 0 ? -1 : headers.GetContainingSectionIndex(address);
        if (index < 0) return default;
        var section = headers.SectionHeaders[index];
        var skipped = address - section.VirtualAddress;
        return new ByteRange(
            section.PointerToRawData + skipped,
            Math.Max(0, Math.Min(header.ResourceTableDirectory.Size, section.SizeOfRawData - skipped)));
    }
}
