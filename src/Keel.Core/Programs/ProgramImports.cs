using System.Reflection.PortableExecutable;
using System.Text;
using Keel.Core.Blocks;

namespace Keel.Core.Programs;

/// <summary>The files that a program says it needs (Microsoft PE format, import directory).</summary>
public static class ProgramImports
{
    private const int HeadBytes = 4096, DescriptorBytes = 20, NameAt = 12, DescriptorLimit = 512, NameLimit = 260;

    /// <summary>Whether a name stands for a file, and not for a set of functions.</summary>
    public static bool IsFile(string name) =>
        !name.StartsWith("api-ms-", StringComparison.OrdinalIgnoreCase)
            && !name.StartsWith("ext-ms-", StringComparison.OrdinalIgnoreCase);

    /// <summary>The names, as the program spells them; none where it has no imports, or they can't be followed.</summary>
    public static IReadOnlyList<string> Of(IReadableBlocks file)
    {
        var names = new List<string>();
        try
        {
            var head = file.ReadBytes(0, (int)Math.Min(HeadBytes, file.LengthBytes));
            using var stream = new MemoryStream(head, writable: false);
            var headers = new PEHeaders(stream);
            if (headers.PEHeader is not { } header || header.ImportTableDirectory.RelativeVirtualAddress == 0) return [];
            for (var index = 0; index < DescriptorLimit; index++)
            {
                if (At(
                    file,
                    headers,
                    header.ImportTableDirectory.RelativeVirtualAddress + (index * DescriptorBytes),
                    DescriptorBytes) is not { } descriptor)
                {
                    break;
                }

                var nameAddress = BitConverter.ToInt32(descriptor, NameAt);
                if (nameAddress == 0) break;
                if (At(file, headers, nameAddress, NameLimit) is not { } text) break;
                names.Add(Encoding.ASCII.GetString(text, 0, Math.Max(0, Array.IndexOf(text, (byte)0))));
            }
        }
        catch (Exception e) when (e is BadImageFormatException or InvalidOperationException or ArgumentException or IOException)
        {
            return [];
        }

        return [.. names
            .Where(name => name.Length > 0 && name.All(letter => letter is > ' ' and < (char)127 and not ('\\' or '/')))
            .Distinct(StringComparer.OrdinalIgnoreCase)];
    }

    /// <summary>Bytes at an address of the program in memory; fewer at the end of their section, null outside of all.</summary>
    private static byte[]? At(IReadableBlocks file, PEHeaders headers, int address, int count)
    {
        var index = headers.GetContainingSectionIndex(address);
        if (index < 0) return null;
        var section = headers.SectionHeaders[index];
        var offset = address - section.VirtualAddress;
        var available = Math.Min(count, section.SizeOfRawData - offset);
        if (available <= 0 || file.TryRead(section.PointerToRawData + offset, available) is not { } bytes) return null;
        Array.Resize(ref bytes, count);
        return bytes;
    }
}
