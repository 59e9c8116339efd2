using CsCheck;
using Keel.Core.Hives;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Hives are read back as they were written, others read them too, and damage is survived.</summary>
public sealed class HiveTests
{
    private static readonly Gen<string> Name = Gen.OneOf(
        Gen.String[Gen.Char['a', 'z'], 1, 12],
        Gen.String[Gen.Char['À', 'ž'], 1, 6]);

    private static readonly Gen<HiveValue> Value = Gen
        .Select(Name, Gen.Int[0, 11], Gen.OneOf(Gen.Byte.Array[0, 12], Gen.Byte.Array[100, 40_000]))
        .Select((name, type, data) => new HiveValue(name, (HiveValueType)type, data));

    private static readonly Gen<HiveNode> Tree = Gen.Recursive<HiveNode>((depth, inner) =>
        Gen
            .Select(Name, Value.Array[0, 4], depth > 4 ? Gen.Const(Array.Empty<HiveNode>()) : inner.Array[0, 5])
            .Select((name, values, children) =>
        {
            var node = new HiveNode(name);
            foreach (var value in values) node.Set(value);
            foreach (var child in children.Where(child => node.Child(child.Name) is null)) node.Children.Add(child);
            return node;
        }));

    [Theory]
    [InlineData(3)]
    [InlineData(5)]
    public void What_is_written_is_read_back(uint minor) =>
        Tree.Sample(tree => Same(tree, Hive.Open(HiveWriter.Write(tree, minor)).ReadTree()), iter: 60);

    [Theory]
    [InlineData(3)]
    [InlineData(5)]
    public async Task Read_and_written_again_it_is_the_same_for_others(uint minor)
    {
        using var scratch = new Scratch();
        var trees = new List<HiveNode>();
        Tree.Sample(
            tree =>
            {
                if (trees.Count < 4 && tree.Children.Count > 0 && Count(tree) < 200 && Bytes(tree) < 100_000) trees.Add(tree);
            },
            iter: 1000,
            threads: 1);
        trees.ShouldNotBeEmpty();
        trees.RemoveRange(Math.Min(4, trees.Count), Math.Max(0, trees.Count - 4));
        foreach (var tree in trees)
        {
            var first = HiveWriter.Write(tree, minor);
            await File.WriteAllBytesAsync(scratch["first"], first, TestContext.Current.CancellationToken);
            await File.WriteAllBytesAsync(
                scratch["second"],
                HiveWriter.Write(Hive.Open(first).ReadTree(), minor),
                TestContext.Current.CancellationToken);
            foreach (var judge in (string[])["hivexml", "regfexport"])
            {
                string
                    .Equals(
                        (await Tool.MustAgree(judge, scratch["second"])).Replace("second", "first", StringComparison.Ordinal),
                        await Tool.MustAgree(judge, scratch["first"]),
                        StringComparison.Ordinal)
                    .ShouldBeTrue(judge);
            }
        }
    }

    [Theory]
    [InlineData(3)]
    [InlineData(5)]
    public async Task Others_read_it(uint minor)
    {
        using var scratch = new Scratch();
        var root = new HiveNode("Root");
        root
            .ChildOrNew("Small")
            .Set(HiveValue.OfText("Title", "Brackwater"))
            .Set(HiveValue.OfNumber("Berths", 7))
            .Set(HiveValue.OfTextList("Quays", ["North", "South"]));
        for (var number = 0; number < 1200; number++)
            root.ChildOrNew("Wide").ChildOrNew($"Sailing{number:0000}").Set(HiveValue.OfNumber("Number", (uint)number));
        root.ChildOrNew("Large").Set(HiveValue.OfBinary("Chart", new byte[minor == 3 ? 9_000 : 50_000]));
        var deep = root.ChildOrNew("Deep");
        for (var level = 0; level < 60; level++) deep = deep.ChildOrNew($"Level{level}");
        await File.WriteAllBytesAsync(scratch["hive"], HiveWriter.Write(root, minor), TestContext.Current.CancellationToken);

        await Tool.MustAgree("regfinfo", scratch["hive"]);
        var xml = await Tool.MustAgree("hivexml", scratch["hive"]);
        xml.ShouldContain("Sailing1199");
        xml.ShouldContain("Level59");
        (await Tool.MustAgree("reglookup", scratch["hive"])).ShouldContain("/Wide/Sailing0600/Number");
    }

    [Fact]
    public void A_key_is_found_by_path_without_case()
    {
        var root = new HiveNode("Root");
        for (var number = 0; number < 700; number++)
            root.ChildOrNew("Services").ChildOrNew($"Driver{number}").Set(HiveValue.OfNumber("Start", (uint)number));
        foreach (var minor in (uint[])[3, 5])
            Hive.Open(HiveWriter.Write(root, minor)).Root.Find(@"SERVICES\driver617")!.Value("start")!.AsNumber().ShouldBe(617u);
    }

    [Theory]
    [InlineData(3)]
    [InlineData(5)]
    public void A_large_value_that_begins_like_a_list_of_pieces_is_itself(uint minor)
    {
        var data = new byte[20_000];
        "db"u8.CopyTo(data);
        var root = new HiveNode("Root").Set(HiveValue.OfBinary("Chart", data));
        Hive.Open(HiveWriter.Write(root, minor)).Root.Value("Chart")!.Data.ShouldBe(data);
    }

    [Fact]
    public void Damage_is_survived()
    {
        var tree = new HiveNode("Root");
        for (var number = 0; number < 30; number++)
        {
            tree
                .ChildOrNew($"Key{number}")
                .Set(HiveValue.OfText("Text", "Brackwater"))
                .Set(HiveValue.OfBinary("Data", new byte[60]))
                .ChildOrNew("Inner")
                .Set(HiveValue.OfNumber("N", 1));
        }

        var sound = HiveWriter.Write(tree, 5);
        Gen.Select(Gen.Int[0, sound.Length - 1].Array[1, 40], Gen.Byte.Array[40], Gen.Int[0, sound.Length]).Sample(
            (places, bytes, length) =>
            {
                var damaged = sound.AsSpan(0, length > sound.Length / 2 ? length : sound.Length).ToArray();
                for (var index = 0; index < places.Length; index++)
                {
                    if (places[index] < damaged.Length) damaged[places[index]] = bytes[index];
                }

                try
                {
                    Count(Hive.Open(damaged).ReadTree()).ShouldBeLessThan(5000);
                }
                catch (HiveDamagedException e)
                {
                    e.Why.ShouldNotBeEmpty();
                }
            },
            iter: 3000);
    }

    [Fact]
    public void Keys_in_a_ring_end()
    {
        var root = new HiveNode("Root");
        root.ChildOrNew("Outer").ChildOrNew("Inner").ChildOrNew("Core");
        var bytes = HiveWriter.Write(root);
        // The index of the innermost parent is made to list the root again.
        var index = bytes.AsSpan().LastIndexOf("lf"u8);
        BitConverter.TryWriteBytes(bytes.AsSpan(index + 4), HiveHeader.TryRead(bytes)!.RootCell);
        var hive = Hive.Open(bytes);
        Count(hive.ReadTree()).ShouldBeLessThan(100);
        hive.Damage.ShouldNotBeEmpty();
    }

    private static int Bytes(HiveNode node) => node.Values.Sum(value => value.Data.Length) + node.Children.Sum(Bytes);

    private static int Count(HiveNode node) => 1 + node.Children.Sum(Count);

    private static bool Same(HiveNode one, HiveNode other) =>
        one.Name == other.Name
        && one.Values.Count == other.Values.Count
        && one.Values.All(value =>
            other.Value(value.Name) is { } match && match.Type == value.Type && match.Data.AsSpan().SequenceEqual(value.Data))
        && one.Children.Count == other.Children.Count
        && one.Children.TrueForAll(child => other.Child(child.Name) is { } match && Same(child, match));
}
