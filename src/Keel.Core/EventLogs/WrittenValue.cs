using System.Text;

namespace Keel.Core.EventLogs;

/// <summary>A value of an event that is to be written.</summary>
/// <param name="Name">Its name; empty for values that are known by their place.</param>
/// <param name="Type">Its type, one of <see cref="BinaryXmlType"/>.</param>
/// <param name="Data">Its bytes.</param>
internal sealed record WrittenValue(string Name, byte Type, byte[] Data)
{
    public static WrittenValue Text(string name, string text) => new(name, BinaryXmlType.Text, Encoding.Unicode.GetBytes(text));

    public static WrittenValue Number(string name, uint number) =>
        new(name, BinaryXmlType.UInt32, BitConverter.GetBytes(number));

    public static WrittenValue Hex(string name, ulong number) => new(name, BinaryXmlType.Hex64, BitConverter.GetBytes(number));

    public static WrittenValue Time(string name, DateTimeOffset time) =>
        new(name, BinaryXmlType.FileTime, BitConverter.GetBytes(time.ToFileTime()));
}
