using System.Text;

namespace Keel.Core.BootLists;

/// <summary>The code pages in which the titles of such lists are written.</summary>
public static class BootListPages
{
    /// <summary>That of western languages, where nothing tells another.</summary>
    public const int Usual = 850;

    /// <summary>The code page of that number; the usual one where it is not known.</summary>
    public static Encoding Of(int number) => Known(number) ?? Known(Usual)!;

    private static Encoding? Known(int number)
    {
        try
        {
            return CodePagesEncodingProvider.Instance.GetEncoding(number);
        }
        catch (Exception e) when (e is ArgumentException or NotSupportedException)
        {
            return null;
        }
    }
}
