using System.Text;
using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Hives;

namespace Keel.Core.Tests;

/// <summary>Single values of a hive changed in place: the value is another one, everything else is as it was.</summary>
public sealed class HivePatchTests
{
    /// <summary>Any text of any length: it fits in its place, or a free cell takes it, or it is refused.</summary>
    [Fact]
    public void A_value_gets_other_data_and_nothing_else_changes() => Gen
        .Select(Gen.String[Gen.Char['a', 'z'], 0, 60], Gen.String[Gen.Char['A', 'Z'], 2, 400].Array[1, 6], Gen.Int[0, 3])
        .Sample((before, texts, which) =>
        {
            var bytes = Hive(before);
            var model = new List<string> { before, "second", "third", "fourth" };
            foreach (var text in texts)
            {
                if (!TrySet(ref bytes, $"v{which}", text)) return;
                model[which] = text;
                var hive = Hives.Hive.Open(bytes);
                var key = hive.Root.Find(@"Deck\Four")!;
                Enumerable.Range(0, 4).Select(number => key.Value($"v{number}")!.AsText()).ShouldBe(model);
                _ = hive.ReadTree();
                hive.Damage.ShouldBeEmpty();
                hive.Header.IsClean.ShouldBeTrue();
            }
        });

    [Fact]
    public void A_type_is_changed_and_changed_back()
    {
        var bytes = Hive("text");
        var whole = bytes.ToArray();
        foreach (var patch in HivePatches.SetType(Hives.Hive.Open(bytes).Root.Find(@"Deck\Four")!, "V0", 0x6B650001))
            patch.Bytes.CopyTo(bytes, patch.At);
        var value = Hives.Hive.Open(bytes).Root.Find(@"Deck\Four")!.Value("v0")!;
        ((uint)value.Type, value.AsText()).ShouldBe((0x6B650001u, null));
        Encoding.Unicode.GetString(value.Data).ShouldBe("text\0");
        foreach (var patch in HivePatches.SetType(Hives.Hive.Open(bytes).Root.Find(@"Deck\Four")!, "v0", 1))
            patch.Bytes.CopyTo(bytes, patch.At);
        bytes.ShouldHold(whole);
    }

    [Fact]
    public void Where_there_is_no_room_it_is_refused()
    {
        var bytes = Hive("short");
        Should.Throw<RefusedException>(() =>
        {
            for (var length = 400; length < 8000; length += 400) TrySet(ref bytes, "v0", new string('x', length), throws: true);
        });
        Hives.Hive.Open(bytes).Root.Find(@"Deck\Four")!.Value("v1")!.AsText().ShouldBe("second");
    }

    [Fact]
    public void What_is_not_there_gives_nothing_to_write()
    {
        var bytes = Hive("x");
        var key = Hives.Hive.Open(bytes).Root.Find(@"Deck\Four")!;
        HivePatches.SetType(key, "none", 1).ShouldBeEmpty();
        HivePatches.SetData(new MemoryBlocks(bytes), key, "none", new byte[10]).ShouldBeEmpty();
    }

    /// <summary>Bins that lie about their size, and cells that loop, end the search; nothing else happens.</summary>
    [Fact]
    public void Hostile_bins_end_in_a_refusal_or_a_change() => Gen.Select(Gen.Int[0, 4095], Gen.Byte, Gen.Int[0, 2]).Array[1, 20]
        .Sample(hits =>
        {
            var bytes = Hive("short");
            foreach (var (at, value, bin) in hits) bytes[Math.Min(bytes.Length - 1, ((bin + 1) * 4096) + at)] = value;
            try
            {
                TrySet(ref bytes, "v0", new string('y', 100), throws: true);
            }
            catch (KeelException)
            {
                // a clear error is as good
            }
        });

    private static bool TrySet(ref byte[] bytes, string name, string text, bool throws = false)
    {
        try
        {
            if (Hives.Hive.Open(bytes).Root.Find(@"Deck\Four") is not { } key) return false;
            var data = Encoding.Unicode.GetBytes(text + '\0');
            foreach (var patch in HivePatches.SetData(new MemoryBlocks(bytes), key, name, data))
                patch.Bytes.CopyTo(bytes, patch.At);
            return true;
        }
        catch (RefusedException) when (!throws)
        {
            return false;
        }
    }

    private static byte[] Hive(string text)
    {
        var root = new HiveNode("ROOT");
        root.ChildOrNew("Deck").ChildOrNew("Four")
            .Set(HiveValue.OfText("v0", text)).Set(HiveValue.OfText("v1", "second"))
            .Set(HiveValue.OfText("v2", "third")).Set(HiveValue.OfText("v3", "fourth"));
        return HiveWriter.Write(root, minor: 5);
    }
}
