namespace Keel.Core.EventLogs;

/// <summary>The tokens of binary XML (MS-EVEN6, 2.2.12), without the flag that more follows.</summary>
internal static class BinaryXmlToken
{
    public const byte End = 0x00;
    public const byte OpenElement = 0x01;
    public const byte CloseStart = 0x02;
    public const byte CloseEmpty = 0x03;
    public const byte EndElement = 0x04;
    public const byte Value = 0x05;
    public const byte Attribute = 0x06;
    public const byte CData = 0x07;
    public const byte Character = 0x08;
    public const byte Entity = 0x09;
    public const byte InstructionTarget = 0x0A;
    public const byte InstructionData = 0x0B;
    public const byte Template = 0x0C;
    public const byte Substitution = 0x0D;
    public const byte OptionalSubstitution = 0x0E;
    public const byte FragmentHeader = 0x0F;

    /// <summary>The flag: an element has attributes, an attribute is not the last.</summary>
    public const byte MoreFlag = 0x40;
}
