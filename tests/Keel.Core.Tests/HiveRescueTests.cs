using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.Hives;
using Keel.Core.Store;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Logs are applied, and what survives of a broken hive is found.</summary>
public sealed class HiveRescueTests
{
    private const int LostPage = 3;

    [Theory]
    [InlineData("", 0x30ED35C100CD3C7DUL)]
    [InlineData("AF", 0x48E73FC77D75DDC1UL)]
    [InlineData("E70F", 0xB5F6E1FC485DBFF8UL)]
    public void The_hash_of_log_entries_gives_the_known_values(string data, ulong hash) =>
        Marvin32.Hash(Convert.FromHexString(data), 0x004FB61A001BDBCC).ShouldBe(hash);

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_torn_hive_is_made_whole_by_its_log(bool newForm)
    {
        var (whole, torn) = Torn();
        var log = newForm
            ? HiveLog.WriteNew(whole, HiveHeader.TryRead(torn)!.SecondarySequence, [LostPage])
            : HiveLog.WriteOld(whole, [LostPage]);
        var mended = HiveLog.Apply(torn, [log]).ShouldNotBeNull();
        HiveHeader.TryRead(mended)!.IsClean.ShouldBeTrue();
        mended.AsSpan(HiveHeader.Size).SequenceEqual(whole.AsSpan(HiveHeader.Size)).ShouldBeTrue();
    }

    [Fact]
    public void A_log_that_does_not_fit_or_is_damaged_is_not_applied()
    {
        var (whole, torn) = Torn();
        var sequence = HiveHeader.TryRead(torn)!.SecondarySequence;
        var damaged = HiveLog.WriteNew(whole, sequence, [LostPage]);
        damaged[^100] ^= 1;
        HiveLog.Apply(torn, [damaged]).ShouldBeNull();
        HiveLog.Apply(torn, [HiveLog.WriteNew(whole, sequence - 1, [LostPage])]).ShouldBeNull();
        HiveLog.Apply(torn, [[], new byte[5000], torn]).ShouldBeNull();
    }

    [Fact]
    public void Any_log_is_survived()
    {
        var (whole, torn) = Torn();
        var log = HiveLog.WriteNew(whole, HiveHeader.TryRead(torn)!.SecondarySequence, [LostPage, LostPage + 2]);
        var (applied, refused) = (0, 0);
        Gen.Select(Gen.Int[0, log.Length - 1].Array[1, 20], Gen.Byte.Array[20], Gen.Bool).Sample(
            (places, bytes, setsHashesRight) =>
            {
                var spoiled = log.ToArray();
                for (var index = 0; index < places.Length; index++) spoiled[places[index]] = bytes[index];
                if (setsHashesRight) SetHashesRight(spoiled);
                if (HiveLog.Apply(torn, [spoiled]) is { } hive)
                {
                    HiveHeader.TryRead(hive).ShouldNotBeNull().IsClean.ShouldBeTrue();
                    Interlocked.Increment(ref applied);
                }
                else
                {
                    Interlocked.Increment(ref refused);
                }
            },
            iter: 4000);
        applied.ShouldBeGreaterThan(100);
        refused.ShouldBeGreaterThan(100);
    }

    /// <summary>So that what is read behind the hashes is spoiled too.</summary>
    private static void SetHashesRight(byte[] log)
    {
        const int entryAt = 512;
        var record = log.At<HiveLogEntryRecord>(entryAt);
        if (record.Size < 40 || record.Size > log.Length - entryAt) return;
        var entry = log.AsSpan(entryAt, (int)record.Size);
        record.FirstHash = Marvin32.Hash(entry[40..]);
        entry.Put(0, record);
        record.SecondHash = Marvin32.Hash(entry[..HiveLogEntryRecord.HashedBytes]);
        entry.Put(0, record);
    }

    [Fact]
    public void Every_entry_whose_keys_survive_is_salvaged()
    {
        var store = Store(40);
        var bytes = store.ToBytes();
        bytes.AsSpan(HiveHeader.Size, 200).Fill(0xEE);
        var salvaged = BootStore.Salvage(bytes);
        salvaged.Entries.Count.ShouldBe(40);
        salvaged.Entries.ShouldAllBe(entry => entry.Title == "Sailing" && entry.Number(Element.MenuSeconds) == 7);
        salvaged.Damage.ShouldNotBeEmpty();

        bytes.AsSpan(bytes.Length / 2, 512).Clear();
        BootStore.Salvage(bytes).Entries.Count.ShouldBeInRange(30, 40);
    }

    [Fact]
    public void Salvage_ends_on_any_bytes() =>
        Gen.Int[0, 100_000].Sample(
            seed =>
            {
                var bytes = Store(20).ToBytes();
                var random = new Random(seed);
                for (var change = 0; change < 200; change++) bytes[random.Next(bytes.Length)] = (byte)random.Next(256);
                BootStore.Salvage(bytes).Entries.Count.ShouldBeLessThan(60);
            },
            iter: 200);

    [Fact]
    public void The_readable_form_holds_everything()
    {
        var store = Store(5);
        StoreJson.Read(StoreJson.Write(store)).ToBytes()[HiveHeader.Size..].ShouldBe(store.ToBytes()[HiveHeader.Size..]);
        Should.Throw<Errors.UnreadableException>(() => StoreJson.Read("{}"u8.ToArray()));
        Should.Throw<Errors.UnreadableException>(() => StoreJson.Read("[[["u8.ToArray()));
    }

    [Fact]
    public async Task A_store_of_many_entries_is_read_by_others()
    {
        using var scratch = new Scratch();
        await File.WriteAllBytesAsync(scratch["store"], Store(3000).ToBytes(), TestContext.Current.CancellationToken);
        (await Tool.MustAgree("hivexml", scratch["store"])).Split("Sailing").Length.ShouldBe(3001);
        await Tool.MustAgree("regfinfo", scratch["store"]);
        BootStore
            .Read(await File.ReadAllBytesAsync(scratch["store"], TestContext.Current.CancellationToken)).Entries.Count
            .ShouldBe(3000);
    }

    private static BootStore Store(int entries)
    {
        var store = BootStore.Empty(DateTimeOffset.UnixEpoch);
        for (var number = 0; number < entries; number++)
        {
            var entry = store.Add(new EntryId(new Guid(number, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10)), EntryType.Windows);
            entry.Set(Element.Title, "Sailing");
            entry.Set(Element.MenuSeconds, 7UL);
        }

        return store;
    }

    private static (byte[] Whole, byte[] Torn) Torn()
    {
        var whole = Store(10).ToBytes();
        var torn = whole.ToArray();
        torn.AsSpan(HiveHeader.Size + (LostPage * 512), 512).Fill(0x5A);
        var header = HiveHeader.TryRead(torn)!;
        (header with { PrimarySequence = header.PrimarySequence + 1 }).Write(torn);
        return (whole, torn);
    }
}
