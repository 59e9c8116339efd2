using System.Buffers.Binary;
using System.Reflection.PortableExecutable;
using System.Text;

namespace Keel.Core.Drills;

/// <summary>
/// Makes programs that are valid to look at (PE headers, version resource, checksum) and do nothing: the start files of practice
/// disks.
/// </summary>
internal sealed class StandInProgram
{
    private const int FileAlignment = 0x200, SectionAlignment = 0x1000;
    private const int HeadersBytes = 0x400;

    private const int NewHeaderAt =
        0x80, OptionalAt =
            NewHeaderAt + 24, OptionalBytes = 240, SectionsAt = OptionalAt + OptionalBytes, ChecksumAt = OptionalAt + 64;

    private const byte ReturnInstruction = 0xC3;
    private const uint CodeFlags = 0x60000020, DataFlags = 0x40000040;

    /// <summary>The bytes of a program.</summary>
    /// <param name="name">The original file name in the version resource.</param>
    /// <param name="version">Four numbers, as in 10.0.19041.1.</param>
    /// <param name="subsystem">What it runs under.</param>
    /// <param name="machine">The processor that it is for.</param>
    /// <param name="bodyBytes">How much content it carries besides; the content follows from the name.</param>
    /// <param name="start">The code it begins with; without it, it returns at once.</param>
    /// <param name="finish">Changes the finished code section.</param>
    /// <param name="imports">The files that it says it needs.</param>
    public static byte[] Make(
        string name,
        string version,
        Subsystem subsystem,
        Machine machine = Machine.Amd64,
        int bodyBytes = 20_000,
        byte[]? start = null,
        Action<byte[]>? finish = null,
        string[]? imports = null)
    {
        var code = Body(name, Align(bodyBytes, FileAlignment));
        (start ?? [ReturnInstruction]).CopyTo(code, 0);
        finish?.Invoke(code);
        var codeAddress = SectionAlignment;
        var resourceAddress = codeAddress + Align(code.Length, SectionAlignment);
        var versionPart = Pad(VersionResource(name, version, resourceAddress), 16);
        var needed = imports is { Length: > 0 } ? Imports(imports, resourceAddress + versionPart.Length) : [];
        var resource = Pad([.. versionPart, .. needed], FileAlignment);
        var file = new byte[HeadersBytes + code.Length + resource.Length];
        WriteHeaders(file, machine, subsystem, code.Length, resource.Length, resourceAddress);
        if (needed.Length > 0)
        {
            Put(file, OptionalAt + 112 + 8, resourceAddress + versionPart.Length);
            Put(file, OptionalAt + 112 + 12, needed.Length);
        }

        code.CopyTo(file, HeadersBytes);
        resource.CopyTo(file, HeadersBytes + code.Length);
        BinaryPrimitives.WriteUInt32LittleEndian(file.AsSpan(ChecksumAt), Checksum(file));
        return file;
    }

    /// <summary>The checksum of a PE file: a folded sum of its words, its own field left out, plus its length.</summary>
    internal static uint Checksum(ReadOnlySpan<byte> file)
    {
        uint sum = 0;
        for (var at = 0; at + 1 < file.Length; at += 2)
        {
            if (at is ChecksumAt or ChecksumAt + 2) continue;
            sum += BinaryPrimitives.ReadUInt16LittleEndian(file[at..]);
            sum = (sum & 0xFFFF) + (sum >> 16);
        }

        return (ushort)(sum + (sum >> 16)) + (uint)file.Length;
    }

    private static void WriteHeaders(
        byte[] file,
        Machine machine,
        Subsystem subsystem,
        int codeBytes,
        int resourceBytes,
        int resourceAddress)
    {
        var imageBytes = resourceAddress + Align(resourceBytes, SectionAlignment);
        "MZ"u8.CopyTo(file);
        Put(file, 0x3C, NewHeaderAt);
        "PE\0\0"u8.CopyTo(file.AsSpan(NewHeaderAt));
        PutShort(file, NewHeaderAt + 4, (ushort)machine);
        PutShort(file, NewHeaderAt + 6, 2);
        PutShort(file, NewHeaderAt + 20, OptionalBytes);
        PutShort(file, NewHeaderAt + 22, 0x22);                  // executable, large addresses
        PutShort(file, OptionalAt, 0x20B);                       // PE32+
        Put(file, OptionalAt + 4, codeBytes);
        Put(file, OptionalAt + 8, resourceBytes);
        Put(file, OptionalAt + 16, SectionAlignment);            // entry point
        Put(file, OptionalAt + 20, SectionAlignment);            // base of code
        BinaryPrimitives.WriteUInt64LittleEndian(file.AsSpan(OptionalAt + 24), 0x140000000);
        Put(file, OptionalAt + 32, SectionAlignment);
        Put(file, OptionalAt + 36, FileAlignment);
        PutShort(file, OptionalAt + 40, 10);
        PutShort(file, OptionalAt + 48, 10);
        Put(file, OptionalAt + 56, imageBytes);
        Put(file, OptionalAt + 60, HeadersBytes);
        PutShort(file, OptionalAt + 68, (ushort)subsystem);
        Put(file, OptionalAt + 108, 16);                         // directories
        Put(file, OptionalAt + 112 + 16, resourceAddress);       // the third: resources
        Put(file, OptionalAt + 112 + 20, resourceBytes);
        WriteSection(file, 0, ".text", SectionAlignment, HeadersBytes, codeBytes, CodeFlags);
        WriteSection(file, 1, ".rsrc", resourceAddress, HeadersBytes + codeBytes, resourceBytes, DataFlags);
    }

    private static void WriteSection(byte[] file, int index, string name, int address, int offset, int size, uint flags)
    {
        const int sectionBytes = 40;
        var at = SectionsAt + (index * sectionBytes);
        Encoding.ASCII.GetBytes(name).CopyTo(file, at);
        Put(file, at + 8, size);
        Put(file, at + 12, address);
        Put(file, at + 16, size);
        Put(file, at + 20, offset);
        BinaryPrimitives.WriteUInt32LittleEndian(file.AsSpan(at + 36), flags);
    }

    /// <summary>A resource directory with one version resource (type 16, id 1, language 1033).</summary>
    private static byte[] VersionResource(string name, string version, int address)
    {
        const int directoryBytes =
            24, versionType = 16, english = 0x409, dataEntryAt = directoryBytes * 3, dataAt = dataEntryAt + 16;
        var info = VersionInfo(name, version);
        var resource = new byte[dataAt + info.Length];
        ReadOnlySpan<int> ids = [versionType, 1, english];
        for (var level = 0; level < ids.Length; level++)
        {
            var at = level * directoryBytes;
            PutShort(resource, at + 14, 1);
            Put(resource, at + 16, ids[level]);
            var next = level < 2 ? unchecked((int)0x80000000) | ((level + 1) * directoryBytes) : dataEntryAt;
            Put(resource, at + 20, next);
        }

        Put(resource, dataEntryAt, address + dataAt);
        Put(resource, dataEntryAt + 4, info.Length);
        info.CopyTo(resource, dataAt);
        return resource;
    }

    /// <summary>An import directory that names files and takes nothing from them.</summary>
    private static byte[] Imports(string[] names, int address)
    {
        const int descriptorBytes = 20, nameAt = 12;
        var directory = new byte[(names.Length + 1) * descriptorBytes];
        var texts = new List<byte>();
        for (var index = 0; index < names.Length; index++)
        {
            Put(directory, (index * descriptorBytes) + nameAt, address + directory.Length + texts.Count);
            texts.AddRange(Encoding.ASCII.GetBytes(names[index] + "\0"));
        }

        return [.. directory, .. texts];
    }

    private static byte[] VersionInfo(string name, string version)
    {
        var numbers = version.Split('.').Select(ushort.Parse).ToArray();
        var fixedInfo = new byte[52];
        Put(fixedInfo, 0, unchecked((int)0xFEEF04BD));
        Put(fixedInfo, 4, 0x10000);
        Put(fixedInfo, 8, (numbers[0] << 16) | numbers[1]);
        Put(fixedInfo, 12, (numbers[2] << 16) | numbers[3]);
        Put(fixedInfo, 16, (numbers[0] << 16) | numbers[1]);
        Put(fixedInfo, 20, (numbers[2] << 16) | numbers[3]);
        Put(fixedInfo, 32, 0x40004);
        Put(fixedInfo, 36, 1);
        byte[] strings = [
            .. Text("FileVersion", version),
            .. Text("OriginalFilename", name),
            .. Text("ProductName", "Practice disk stand-in")
        ];
        var table = Block("040904B0", [], isText: true, strings);
        return Block("VS_VERSION_INFO", fixedInfo, isText: false, Block("StringFileInfo", [], isText: true, table));
    }

    private static byte[] Text(string key, string value) => Block(key, Encoding.Unicode.GetBytes(value + "\0"), isText: true, []);

    /// <summary>
    /// A block of a version resource: length, length of the value, kind, key, value, children, each at a multiple of four.
    /// </summary>
    private static byte[] Block(string key, byte[] value, bool isText, byte[] children)
    {
        var head = Pad([0, 0, 0, 0, 0, 0, .. Encoding.Unicode.GetBytes(key + "\0")], 4);
        byte[] block = [.. head, .. Pad(value, 4), .. children];
        PutShort(block, 0, (ushort)block.Length);
        PutShort(block, 2, (ushort)(isText ? value.Length / 2 : value.Length));
        PutShort(block, 4, isText ? (ushort)1 : (ushort)0);
        return block;
    }

    /// <summary>Bytes that differ from file to file and never repeat by chance: a simple generator seeded by the name.</summary>
    private static byte[] Body(string name, int length)
    {
        var state = name.Aggregate(2166136261u, (hash, letter) => (hash ^ letter) * 16777619u) | 1;
        var body = new byte[length];
        for (var at = 0; at < length; at++)
        {
            state ^= state << 13;
            state ^= state >> 17;
            state ^= state << 5;
            body[at] = (byte)state;
        }

        return body;
    }

    private static int Align(int value, int unit) => (value + unit - 1) / unit * unit;

    private static byte[] Pad(byte[] bytes, int unit)
    {
        Array.Resize(ref bytes, Align(bytes.Length, unit));
        return bytes;
    }

    private static void Put(byte[] bytes, int at, int value) => BinaryPrimitives.WriteInt32LittleEndian(bytes.AsSpan(at), value);

    private static void PutShort(byte[] bytes, int at, ushort value) =>
        BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(at), value);
}
