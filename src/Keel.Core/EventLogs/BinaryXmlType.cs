namespace Keel.Core.EventLogs;

/// <summary>The types of values in binary XML (MS-EVEN6, 2.2.12).</summary>
internal static class BinaryXmlType
{
    public const byte Nothing = 0x00;
    public const byte Text = 0x01;
    public const byte AnsiText = 0x02;
    public const byte Int8 = 0x03;
    public const byte UInt8 = 0x04;
    public const byte Int16 = 0x05;
    public const byte UInt16 = 0x06;
    public const byte Int32 = 0x07;
    public const byte UInt32 = 0x08;
    public const byte Int64 = 0x09;
    public const byte UInt64 = 0x0A;
    public const byte Single = 0x0B;
    public const byte Double = 0x0C;
    public const byte Boolean = 0x0D;
    public const byte Binary = 0x0E;
    public const byte Identifier = 0x0F;
    public const byte Size = 0x10;
    public const byte FileTime = 0x11;
    public const byte SystemTime = 0x12;
    public const byte Sid = 0x13;
    public const byte Hex32 = 0x14;
    public const byte Hex64 = 0x15;
    public const byte Fragment = 0x21;

    /// <summary>The flag: several values of the type.</summary>
    public const byte ArrayFlag = 0x80;
}
