using CsCheck;
using Keel.Core.Chain;
using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Tests;

/// <summary>What is wrong with a store, by itself and inside its disk; and what differs between two.</summary>
public sealed class StoreHealthTests
{
    private static readonly DateTimeOffset Made = new(2026, 3, 2, 6, 40, 0, TimeSpan.Zero);
    private static readonly EntryId First = new(new Guid("11111111-2222-3333-4444-555555555555"));
    private static readonly EntryId Second = new(new Guid("66666666-2222-3333-4444-555555555555"));

    [Fact]
    public void A_whole_store_has_nothing_wrong() => Kinds(Sample().ToBytes()).ShouldBeEmpty();

    [Fact]
    public void Each_thing_that_is_wrong_has_its_finding()
    {
        Kinds([]).ShouldBe(["store-cells-damaged"]);
        Kinds(new byte[20_000]).ShouldBe(["store-cells-damaged"]);
        Kinds(Sample().ToBytes()[..^4096]).ShouldBe(["store-truncated"]);
        var header = Sample().ToBytes();
        header[0x1FC] ^= 1;
        Kinds(header).ShouldBe(["store-bad-checksum"]);
        Kinds(BootStore.Empty(Made).ToBytes()).ShouldBe(["store-empty"]);
        Kinds(Changed(store => store.Drop(EntryId.Manager))).ShouldContain("manager-entry-missing");
        Kinds(Changed(store => store.Manager!.Set(Element.Preferred, EntryId.MemoryTest))).ShouldContain("preferred-dangling");
        Kinds(Changed(store => store.Manager!.Set(Element.MenuOrder, [First, Second, EntryId.MemoryTest])))
            .ShouldContain("order-dangling");
        Kinds(Changed(store => store.Manager!.Set(Element.MenuSeconds, 0UL))).ShouldContain("wait-zero-no-menu");
        Kinds(Changed(store =>
        {
            store.Drop(First);
            store.Drop(Second);
        })).ShouldContain("entry-missing");
    }

    [Fact]
    public void Any_change_of_its_bytes_is_a_finding_or_none_and_never_a_crash()
    {
        var sound = Sample().ToBytes();
        Gen.Select(Gen.Int[0, sound.Length - 1].Array[1, 8], Gen.Byte, Gen.Bool).Sample(
            (places, value, setsChecksumRight) =>
            {
                var bytes = sound.ToArray();
                foreach (var place in places) bytes[place] = value;
                if (setsChecksumRight) BitConverter.TryWriteBytes(bytes.AsSpan(0x1FC), HiveHeader.Checksum(bytes));
                StoreHealth.Of(bytes).Count.ShouldBeLessThan(20);
            },
            iter: 2000);
    }

    [Fact]
    public void Inside_its_disk_the_other_entries_are_looked_at_too()
    {
        using var practice = new Practice();
        StoreHealth.Of(practice.Machine).ShouldBeEmpty();
        var elsewhere = BootDevice.Of(
            DiskIdentity.OfMbr(0xDEADBEEF),
            practice.Windows.Partition);
        Edit(practice, store =>
        {
            store.Entry(EntryId.MemoryTest)!.Set(Element.ProgramFile, @"\Boot\gone.exe");
            var lost = store.Add(Second, EntryType.Windows);
            lost.Set(Element.Title, "Lost at sea");
            lost.Set(Element.ProgramVolume, elsewhere);
            lost.Set(Element.ProgramFile, @"\Windows\System32\winload.exe");
        });
        var found = StoreHealth.Of(practice.Machine);
        found.Select(finding => finding.Id).ShouldBe(
            ["entry-target-missing", "entry-target-missing", "entry-listed-nowhere"],
            ignoreOrder: true);
        found.ShouldAllBe(finding => finding.Kind.Severity == Severity.Note);
        found.ShouldContain(finding => finding.Seen.Facts.Get(Fact.Path) == @"\Boot\gone.exe");
    }

    [Fact]
    public void Two_stores_differ_by_their_entries_and_by_each_setting()
    {
        var before = Sample();
        var after = BootStore.Read(before.ToBytes());
        Difference(before, after).ShouldBeEmpty();

        after.Manager!.Set(Element.MenuSeconds, 15UL);
        after.Entry(First)!.Set(Element.Title, "Engine room");
        after.Entry(First)!.Set(Element.MenuLook, 1UL);
        after.Entry(Second)!.Remove(Element.ProgramFile);
        after.Add(EntryId.MemoryTest, EntryType.MemoryTest).Set(Element.Title, "Memory test");
        var lines = Difference(before, after);
        lines.ShouldContain("line.setting: title Windows Boot Manager, setting menu-seconds, before 30, after 15");
        lines.ShouldContain("line.setting: title Engine room, setting title, before Purser's desk, after Engine room");
        lines.ShouldContain(line => line.StartsWith("line.setting-new: title Engine room", StringComparison.Ordinal));
        lines.ShouldContain(
            @"line.setting-gone: title Wheelhouse, setting program-file, before \Windows\System32\winload.exe");
        lines.ShouldContain("line.entry-new: title Memory test");
        lines.Count.ShouldBe(5);
        Difference(after, before).ShouldContain("line.entry-gone: title Memory test");
    }

    [Fact]
    public void The_way_back_differs_as_much_as_the_way_there() => Gen
        .Select(Gen.Int[0, 9999], Gen.String[Gen.Char['a', 'z'], 1, 20], Gen.Bool, Gen.Bool)
        .Sample((seconds, title, drops, adds) =>
        {
            var before = Sample();
            var after = BootStore.Read(before.ToBytes());
            after.Manager!.Set(Element.MenuSeconds, (ulong)seconds);
            after.Entry(First)!.Set(Element.Title, title);
            if (drops) after.Drop(Second);
            if (adds) after.Add(EntryId.Nt5Loader, EntryType.Nt5Loader);
            Difference(before, after).Count.ShouldBe(Difference(after, before).Count);
        });

    [Fact]
    public void A_long_list_is_cut_and_says_how_much_more_there_is()
    {
        var before = Sample();
        var after = BootStore.Read(before.ToBytes());
        for (var number = 0; number < 60; number++) after.Add(new EntryId(Guid.NewGuid()), EntryType.Windows);
        var lines = Difference(before, after);
        lines.Count.ShouldBe(41);
        lines[^1].ShouldBe("line.entries-more: entryCount 20");
    }

    private static IReadOnlyList<string> Difference(BootStore before, BootStore after) =>
        [.. new StoreDifference(new UnknownDevices()).Between(before, after).Select(line => $"{line}")];

    private static IEnumerable<string> Kinds(byte[] file) => StoreHealth.Of(file).Select(finding => finding.Id);

    private static byte[] Changed(Action<BootStore> change)
    {
        var store = Sample();
        change(store);
        return store.ToBytes();
    }

    private static void Edit(Practice practice, Action<BootStore> change)
    {
        var path = practice.Machine.BootFiles.StorePath;
        var store = BootStore.Read(practice.System.Files!.OpenFile(path).ReadBytesOf(int.MaxValue));
        change(store);
        practice.System.Edit(files => files.WriteFile(path, store.ToBytes()));
    }

    private static BootStore Sample()
    {
        var store = BootStore.Empty(Made);
        var manager = store.Add(EntryId.Manager, EntryType.Manager);
        manager.Set(Element.Title, "Windows Boot Manager");
        manager.Set(Element.MenuSeconds, 30UL);
        manager.Set(Element.MenuOrder, [First, Second]);
        manager.Set(Element.Preferred, First);
        foreach (var (id, title) in ((EntryId, string)[])[(First, "Purser's desk"), (Second, "Wheelhouse")])
        {
            var entry = store.Add(id, EntryType.Windows);
            entry.Set(Element.Title, title);
            entry.Set(Element.ProgramFile, @"\Windows\System32\winload.exe");
        }

        return store;
    }
}
