using Keel.Core.Hives;

namespace Keel.Bench;

/// <summary>Large hives to be read.</summary>
internal static class Samples
{
    /// <summary>A store with that many Windows entries of ten settings each.</summary>
    public static byte[] Store(int entries)
    {
        var root = new HiveNode("NewStoreRoot");
        var objects = root.ChildOrNew("Objects");
        for (var number = 0; number < entries; number++)
        {
            var entry = new HiveNode(new Guid(number, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10).ToString("B"));
            objects.Children.Add(entry);
            entry.ChildOrNew("Description").Set(HiveValue.OfNumber("Type", 0x10200003));
            var elements = entry.ChildOrNew("Elements");
            for (var element = 0; element < 9; element++)
                elements.ChildOrNew($"2600{element:x4}").Set(HiveValue.OfBinary("Element", [1]));
            elements.ChildOrNew("12000004").Set(HiveValue.OfText("Element", $"Sailing {number}"));
        }

        return HiveWriter.Write(root);
    }

    /// <summary>A hive with that many keys in folders of a thousand, a value each.</summary>
    public static byte[] Hive(int keys)
    {
        var root = new HiveNode("ROOT");
        HiveNode? folder = null;
        for (var number = 0; number < keys; number++)
        {
            if (number % 1000 == 0) root.Children.Add(folder = new HiveNode($"Folder{number / 1000:00000}"));
            folder!.Children.Add(new HiveNode($"Key{number:0000000}").Set(HiveValue.OfNumber("Number", (uint)number)));
        }

        return HiveWriter.Write(root, 5);
    }

    /// <summary>Bytes that do not repeat, the same every time.</summary>
    public static byte[] Noise(int seed, int length)
    {
        var bytes = new byte[length];
        new Random(seed).NextBytes(bytes);
        return bytes;
    }
}
