using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using Keel.Core.Errors;

namespace Keel.Core.Blocks;

/// <summary>
/// The one way in and out for records whose layout is a packed struct, as they stand on disks: little-endian, as all machines are
/// that keel runs on.
/// </summary>
internal static class PackedRecords
{
    /// <summary>The record at a place, in bytes.</summary>
    /// <exception cref="UnreadableException">It does not fit there.</exception>
    public static T At<T>(this ReadOnlySpan<byte> bytes, int at)
        where T : unmanaged
    {
        Check<T>(bytes.Length, at);
        return MemoryMarshal.Read<T>(bytes[at..]);
    }

    /// <summary>Puts a record at a place, in bytes; what stands around it stays.</summary>
    /// <exception cref="UnreadableException">It does not fit there.</exception>
    public static void Put<T>(this Span<byte> bytes, int at, in T record)
        where T : unmanaged
    {
        Check<T>(bytes.Length, at);
        MemoryMarshal.Write(bytes[at..], in record);
    }

    private static void Check<T>(int length, int at)
        where T : unmanaged
    {
        if (at < 0 || at > length - Unsafe.SizeOf<T>()) throw CutShort(typeof(T).Name, Unsafe.SizeOf<T>(), length, at);
    }

    /// <summary>Apart from the check, so that the check is as small as it should be.</summary>
    private static UnreadableException CutShort(string name, int size, int length, int at) => new(
        "A structure on the disk is cut short.",
        $"{name} has {size} bytes, and at byte {at} of {length} there are fewer.",
        "If this is an image, compare its size with the disk's.");
}
