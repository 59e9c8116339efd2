using System.Buffers.Binary;
using System.Text;

namespace Keel.Core.Firmware;

/// <summary>One node of a device path (UEFI specification, "Device Path Protocol").</summary>
/// <param name="Type">Its type (UEFI specification, "Device Path Protocol").</param>
/// <param name="SubType">Its subtype (UEFI specification, "Device Path Protocol").</param>
/// <param name="Data">What follows the 4 bytes of type and length.</param>
public sealed record DevicePathNode(byte Type, byte SubType, byte[] Data)
{
    private const byte HardwareType =
        1, AcpiType = 2, MessagingType = 3, MediaType = 4, BiosType = 5, EndType = 0x7F, WholeEnd = 0xFF;

    private const byte HardDriveSubType = 1, FilePathSubType = 4;
    private const int HeaderBytes = 4;

    /// <summary>Whether it ends the path (UEFI specification, "Generic Device Path Structures").</summary>
    public bool IsEnd => Type == EndType;

    /// <summary>The partition that a hard-drive node names; null for other nodes.</summary>
    public HardDrivePlace? HardDrive => Type == MediaType && SubType == HardDriveSubType ? HardDrivePlace.TryRead(Data) : null;

    /// <summary>The path that a file-path node names; null for other nodes.</summary>
    public string? FilePath =>
        Type == MediaType && SubType == FilePathSubType
            ? Encoding.Unicode.GetString(Data.AsSpan(0, Data.Length & ~1)).TrimEnd('\0')
            : null;

    /// <summary>What kind of thing it names, for a person.</summary>
    public string Kind => (Type, SubType) switch
    {
        (HardwareType, _) => "hardware",
        (AcpiType, _) => "firmware device",
        (MessagingType, 11 or 12 or 13 or 24) => "network",
        (MessagingType, 5 or 16 or 17) => "USB",
        (MessagingType, 23) => "NVMe",
        (MessagingType, 18) => "SATA",
        (MessagingType, _) => "bus",
        (MediaType, HardDriveSubType) => "partition",
        (MediaType, 2) => "CD",
        (MediaType, FilePathSubType) => "file",
        (MediaType, 6 or 7) => "part of the firmware",
        (MediaType, _) => "medium",
        (BiosType, _) => "BIOS device",
        _ => $"node {Type:x2} {SubType:x2}"
    };

    /// <summary>The node for a partition of a hard drive.</summary>
    public static DevicePathNode Of(HardDrivePlace place) => new(MediaType, HardDriveSubType, place.ToBytes());

    /// <summary>The node for a file's path, in UTF-16 with a zero at its end.</summary>
    public static DevicePathNode OfFile(string path) => new(MediaType, FilePathSubType, Encoding.Unicode.GetBytes(path + "\0"));

    /// <summary>The nodes up to the end of the whole path; nothing where their lengths don't fit.</summary>
    public static IReadOnlyList<DevicePathNode>? TryRead(ReadOnlySpan<byte> bytes)
    {
        var nodes = new List<DevicePathNode>();
        while (bytes.Length >= HeaderBytes)
        {
            var length = BinaryPrimitives.ReadUInt16LittleEndian(bytes[2..]);
            if (length < HeaderBytes || length > bytes.Length) return null;
            if (bytes[0] == EndType && bytes[1] == WholeEnd) return nodes;
            nodes.Add(new DevicePathNode(bytes[0], bytes[1], bytes[HeaderBytes..length].ToArray()));
            bytes = bytes[length..];
        }

        return null;
    }

    /// <summary>Nodes with their end, as the firmware keeps them.</summary>
    public static byte[] ToBytes(IEnumerable<DevicePathNode> nodes)
    {
        var bytes = new List<byte>();
        foreach (var node in nodes.Append(new DevicePathNode(EndType, WholeEnd, [])))
        {
            var length = (ushort)(HeaderBytes + node.Data.Length);
            bytes.AddRange([node.Type, node.SubType, (byte)length, (byte)(length >> 8), .. node.Data]);
        }

        return [.. bytes];
    }
}
