using System.Buffers.Binary;
using System.Text;
using Keel.Core.Store;

namespace Keel.Core.Firmware;

/// <summary>A start entry of the firmware (UEFI specification, "Load Options").</summary>
/// <param name="Attributes">Bit 0: active. Bit 3: hidden.</param>
/// <param name="Title">What the firmware's menu shows.</param>
/// <param name="Path">Where the program is.</param>
/// <param name="OptionalData">What is handed to the program.</param>
public sealed record LoadOption(uint Attributes, string Title, IReadOnlyList<DevicePathNode> Path, byte[] OptionalData)
{
    /// <summary>Set where firmware may start it without being asked (LOAD_OPTION_ACTIVE).</summary>
    public const uint ActiveBit = 1;
    private const int TitleAt = 6;
    private const int TitleLimit = 1024;

    /// <summary>Whether firmware may start it without being asked.</summary>
    public bool IsActive => (Attributes & ActiveBit) != 0;

    /// <summary>The partition it names; null where it names none.</summary>
    public HardDrivePlace? HardDrive => Path.Select(node => node.HardDrive).FirstOrDefault(place => place is not null);

    /// <summary>The file it names; null where it names none.</summary>
    public string? FilePath => Path.Select(node => node.FilePath).Where(path => path is not null).LastOrDefault();

    /// <summary>Whether it hands the Windows boot manager its own entry in the store.</summary>
    public bool IsForWindows => OptionalData.AsSpan().StartsWith("WINDOWS\0"u8);

    /// <summary>The entry of the Windows boot manager in a file of a partition.</summary>
    public static LoadOption OfWindows(string title, HardDrivePlace place, string file) =>
        new(ActiveBit, title, [DevicePathNode.Of(place), DevicePathNode.OfFile(file)], WindowsData());

    /// <summary>Reads an entry; nothing where its parts do not fit its length.</summary>
    public static LoadOption? TryRead(ReadOnlySpan<byte> data)
    {
        if (data.Length < TitleAt + 2) return null;
        var pathBytes = BinaryPrimitives.ReadUInt16LittleEndian(data[4..]);
        var end = TitleAt;
        while (end + 1 < data.Length && (data[end] != 0 || data[end + 1] != 0) && end < TitleAt + (2 * TitleLimit)) end += 2;
        var pathAt = end + 2;
        if (pathAt + pathBytes > data.Length) return null;
        return DevicePathNode.TryRead(data.Slice(pathAt, pathBytes)) is not { } path
            ? null
            : new LoadOption(
                BinaryPrimitives.ReadUInt32LittleEndian(data),
                Encoding.Unicode.GetString(data[TitleAt..end]),
                path,
                data[(pathAt + pathBytes)..].ToArray());
    }

    /// <summary>As a variable holds it (UEFI specification, EFI_LOAD_OPTION).</summary>
    public byte[] ToBytes()
    {
        var path = DevicePathNode.ToBytes(Path);
        var head = new byte[TitleAt];
        BinaryPrimitives.WriteUInt32LittleEndian(head, Attributes);
        BinaryPrimitives.WriteUInt16LittleEndian(head.AsSpan(4), (ushort)path.Length);
        return [.. head, .. Encoding.Unicode.GetBytes(Title + "\0"), .. path, .. OptionalData];
    }

    /// <summary>What Windows puts behind its entry: a mark, lengths, the object of the store, and an empty device path.</summary>
    private static byte[] WindowsData()
    {
        const int textAt = 20, pathAt = 0x78, pathBytes = 16;
        var data = new byte[pathAt + pathBytes];
        "WINDOWS\0"u8.CopyTo(data);
        BinaryPrimitives.WriteUInt32LittleEndian(data.AsSpan(8), 1);
        BinaryPrimitives.WriteUInt32LittleEndian(data.AsSpan(12), (uint)data.Length);
        BinaryPrimitives.WriteUInt32LittleEndian(data.AsSpan(16), pathAt);
        Encoding.Unicode.GetBytes($"BCDOBJECT={EntryId.Manager}").CopyTo(data.AsSpan(textAt));
        BinaryPrimitives.WriteUInt32LittleEndian(data.AsSpan(pathAt), 1);
        BinaryPrimitives.WriteUInt32LittleEndian(data.AsSpan(pathAt + 4), pathBytes);
        BinaryPrimitives.WriteUInt32LittleEndian(data.AsSpan(pathAt + 8), 4);
        ((ReadOnlySpan<byte>)[0x7F, 0xFF, 4, 0]).CopyTo(data.AsSpan(pathAt + 12));
        return data;
    }
}
