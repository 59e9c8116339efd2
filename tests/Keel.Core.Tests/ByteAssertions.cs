namespace Keel.Core.Tests;

/// <summary>Compares whole disks without listing them.</summary>
internal static class ByteAssertions
{
    public static void ShouldHold(this byte[] actual, byte[] expected, string? what = null)
    {
        actual.Length.ShouldBe(expected.Length, what);
        var different = actual.AsSpan().CommonPrefixLength(expected);
        different.ShouldBe(expected.Length, $"the first byte that differs; {what}");
    }
}
