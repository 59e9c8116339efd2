using System.Buffers.Binary;
using Keel.Core.Blocks;

namespace Keel.Campaigns;

/// <summary>Changes places of a disk by chance, in the ways in which bytes go wrong.</summary>
internal static class Mutation
{
    private static readonly ulong[] Telling = [
        0,
        1,
        2,
        3,
        0x7F,
        0x80,
        0xFF,
        0x100,
        0x7FFF,
        0x8000,
        0xFFFF,
        0x10000,
        0x7FFFFFFF,
        0x80000000,
        0xFFFFFFFF,
        0x100000000,
        long.MaxValue,
        0x8000000000000000,
        ulong.MaxValue,
        512,
        4096,
        1024 * 1024
    ];

    /// <summary>Changes 1 to 30 places.</summary>
    public static void Apply(ChangedDisk disk, SoundDisk sound, Random chance)
    {
        var count = 1 + chance.Next(chance.Next(4) == 0 ? 30 : 4);
        for (var number = 0; number < count; number++)
        {
            var kind = sound.Places[chance.Next(sound.Places.Count)];
            var range = kind[chance.Next(kind.Count)];
            Change(disk, sound, range.Start + chance.NextInt64(range.Length), chance);
        }
    }

    /// <summary>Changes the bytes of a file, or its length.</summary>
    public static byte[] Of(byte[] file, Random chance)
    {
        if (file.Length == 0 || chance.Next(8) == 0) return file[..chance.Next(file.Length + 1)];
        var result = file.AsSpan().ToArray();
        for (var number = chance.Next(1, 5); number > 0; number--) result[chance.Next(result.Length)] = (byte)chance.Next(256);
        return result;
    }

    private static void Change(ChangedDisk disk, SoundDisk sound, long at, Random chance)
    {
        Span<byte> bytes = stackalloc byte[8];
        switch (chance.Next(7))
        {
            case 0:
                disk.Read(at, bytes[..1]);
                bytes[0] ^= (byte)(1 << chance.Next(8));
                disk.Change(at, bytes[..1]);
                break;
            case 1:
                disk.Change(at, [(byte)chance.Next(256)]);
                break;
            case 2 or 3:
                BinaryPrimitives.WriteUInt64LittleEndian(bytes, Telling[chance.Next(Telling.Length)]);
                var width = 1 << chance.Next(4);
                disk.Change(at & -width, bytes[..width]);
                break;
            case 4:
                disk.Change(at, new byte[1 << chance.Next(13)]);
                break;
            case 5:
                var noise = new byte[1 << chance.Next(10)];
                chance.NextBytes(noise);
                disk.Change(at, noise);
                break;
            default:
                Move(disk, sound, at, chance);
                break;
        }
    }

    /// <summary>Something of the same disk in the wrong place.</summary>
    private static void Move(ChangedDisk disk, SoundDisk sound, long at, Random chance)
    {
        var kind = sound.Places[chance.Next(sound.Places.Count)];
        var range = kind[chance.Next(kind.Count)];
        var bytes = disk.ReadBytes(range.Start, (int)Math.Min(1 << chance.Next(3, 13), range.Length));
        disk.Change(at & -8, bytes);
    }
}
