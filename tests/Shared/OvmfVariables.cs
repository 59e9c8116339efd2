using System.Buffers.Binary;
using System.Text;

namespace Keel.Tests;

/// <summary>
/// The variables that OVMF keeps in its flash image, in EDK II's form (VariableFormat.h, authenticated variables): taken out as
/// files, and put in.
/// </summary>
internal static class OvmfVariables
{
    private const string Template = "/usr/share/OVMF/OVMF_VARS.fd";
    private const int VolumeHeaderLengthAt = 0x30, StoreHeaderBytes = 28, HeaderBytes = 60, AttributeBytes = 4;
    private const int StateAt = 2, AttributesAt = 4, NameBytesAt = 36, DataBytesAt = 40, VendorAt = 44;
    private const ushort Start = 0x55AA;
    private const byte Added = 0x3F;

    /// <summary>A flash image with the start variables of a folder; without a folder, with none.</summary>
    public static void Make(string flash, string? folder)
    {
        var bytes = File.ReadAllBytes(Template);
        var at = End(bytes);
        foreach (var path in folder is null ? [] : Directory.GetFiles(folder))
        {
            var (name, file) = (Path.GetFileName(path), File.ReadAllBytes(path));
            var text = Encoding.Unicode.GetBytes(name[..^37] + "\0");
            var header = new byte[HeaderBytes];
            BinaryPrimitives.WriteUInt16LittleEndian(header, Start);
            header[StateAt] = Added;
            file.AsSpan(0, AttributeBytes).CopyTo(header.AsSpan(AttributesAt));
            BinaryPrimitives.WriteInt32LittleEndian(header.AsSpan(NameBytesAt), text.Length);
            BinaryPrimitives.WriteInt32LittleEndian(header.AsSpan(DataBytesAt), file.Length - AttributeBytes);
            Guid.Parse(name[^36..]).TryWriteBytes(header.AsSpan(VendorAt));
            byte[] whole = [.. header, .. text, .. file[AttributeBytes..]];
            whole.CopyTo(bytes, at);
            at += (whole.Length + 3) & ~3;
        }

        File.WriteAllBytes(flash, bytes);
    }

    /// <summary>Writes the start variables of a flash image into a folder, as Linux would show them.</summary>
    public static void Extract(string flash, string folder) => Extract(flash, folder, "Boot");

    /// <summary>Writes the variables whose names begin so.</summary>
    public static void Extract(string flash, string folder, string beginning)
    {
        Directory.CreateDirectory(folder);
        var bytes = File.ReadAllBytes(flash);
        foreach (var (at, name, data) in All(bytes))
        {
            if (bytes[at + StateAt] != Added || !name.StartsWith(beginning, StringComparison.Ordinal)) continue;
            File.WriteAllBytes(
                Path.Combine(folder, $"{name}-{new Guid(bytes.AsSpan(at + VendorAt, 16))}"),
                [.. bytes.AsSpan(at + AttributesAt, AttributeBytes), .. data]);
        }
    }

    private static int End(byte[] bytes)
    {
        var end = First(bytes);
        foreach (var (at, name, data) in All(bytes)) end = at + Length(name, data);
        return end;
    }

    private static IEnumerable<(int At, string Name, byte[] Data)> All(byte[] bytes)
    {
        for (var at = First(bytes); BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(at)) == Start;)
        {
            var nameBytes = BinaryPrimitives.ReadInt32LittleEndian(bytes.AsSpan(at + NameBytesAt));
            var dataBytes = BinaryPrimitives.ReadInt32LittleEndian(bytes.AsSpan(at + DataBytesAt));
            var name = Encoding.Unicode.GetString(bytes, at + HeaderBytes, nameBytes - 2);
            var data = bytes[(at + HeaderBytes + nameBytes)..(at + HeaderBytes + nameBytes + dataBytes)];
            yield return (at, name, data);
            at += Length(name, data);
        }
    }

    private static int Length(string name, byte[] data) => (HeaderBytes + ((name.Length + 1) * 2) + data.Length + 3) & ~3;

    private static int First(byte[] bytes) =>
        BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(VolumeHeaderLengthAt)) + StoreHeaderBytes;
}
