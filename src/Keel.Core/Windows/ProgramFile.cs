using System.Reflection.PortableExecutable;
using Keel.Core.Blocks;

namespace Keel.Core.Windows;

/// <summary>What a start program says of itself in its PE headers.</summary>
/// <param name="Machine">What processor it is for.</param>
/// <param name="NeededBytes">The end of its last section: a shorter file was cut short.</param>
public sealed record ProgramFile(Machine Machine, Subsystem Subsystem, long NeededBytes)
{
    /// <summary>Reads the headers; nothing where the file is not a program.</summary>
    public static ProgramFile? TryRead(IReadableBlocks file)
    {
        const int headersLimit = 64 * 1024;
        var head = file.TryRead(0, (int)Math.Min(file.LengthBytes, headersLimit));
        if (head is null) return null;
        try
        {
            using var stream = new MemoryStream(head, writable: false);
            var headers = new PEHeaders(stream);
            if (headers.PEHeader is null) return null;
            var end = headers.SectionHeaders.Select(section => (long)section.PointerToRawData + section.SizeOfRawData).DefaultIfEmpty(0).Max();
            return new ProgramFile(headers.CoffHeader.Machine, headers.PEHeader.Subsystem, end);
        }
        catch (Exception e) when (e is BadImageFormatException or InvalidOperationException or ArgumentException or IOException)
        {
            return null;
        }
    }
}
