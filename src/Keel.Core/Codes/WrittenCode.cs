namespace Keel.Core.Codes;

/// <summary>A number in a text that may be a code.</summary>
/// <param name="Number">Its value; meaningless where <paramref name="Digits"/> are too many.</param>
/// <param name="Digits">As it is written, in small hexadecimal digits, without 0x; empty for a decimal number.</param>
/// <param name="Form">What in the text says that it is a code.</param>
/// <param name="IsStop">Whether the text says that it is a stop code.</param>
/// <param name="HasMark">Whether it has 0x before it, so that it is hexadecimal and nothing else.</param>
/// <param name="IsCorrected">Whether a letter O was read as zero.</param>
public sealed record WrittenCode(uint Number, string Digits, CodeForm Form, bool IsStop, bool HasMark, bool IsCorrected)
{
    /// <summary>Whether the text itself says that it is a code.</summary>
    public bool IsCertain => Form != CodeForm.Bare;
}
