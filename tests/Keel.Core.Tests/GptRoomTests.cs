using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.Layout;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>No edit of a partition table touches a byte of a partition that any copy of the table names.</summary>
public sealed class GptRoomTests
{
    private const int Sector = 512, DiskSectors = 8192, Entries = 128, EntryBytes = 128, EntriesSectors = 32;

    /// <summary>Partitions anywhere, a disk that is longer or shorter than it was, one copy or both, alike or not.</summary>
    private static readonly Gen<(int[] Cuts, int Longer, int Damage, int OtherShift)> Disks =
        Gen.Select(Gen.Int[34, DiskSectors - 34].Array[2, 8], Gen.Int[-60, 60], Gen.Int[0, 3], Gen.Int[0, 40]);

    [Fact]
    public void An_edit_never_touches_a_partition() => Disks.Sample(
        (cuts, longer, damage, shift) =>
        {
            var ranges = Partitions(cuts);
            var disk = Make(
                ranges,
                ranges
                    .Select(range => new SectorRange(range.First + (shift % 5), range.Last))
                    .Where(range => range.First <= range.Last)
                    .ToList(),
                longer,
                damage,
                differ: shift > 30);
            var named = GptCopy.All(disk).SelectMany(copy => copy.Partitions((disk.LengthBytes / Sector) - 1)).ToList();
            foreach (var edit in (Func<IWritableBlocks, GptEditResult>[])[
                GptEditor.RewriteBothCopies,
                blocks => GptEditor.SetType(blocks, 1, PartitionTypes.GptRecovery)
            ])
            {
                var overlay = new Overlay(disk);
                var result = edit(overlay);
                var changed = overlay
                    .Changes().Ranges
                    .Select(range => new SectorRange(range.Start / Sector, (range.Start + range.Length - 1) / Sector))
                    .ToList();
                changed.ShouldAllBe(
                    range => !named.Exists(partition => partition.Overlaps(range)),
                    $"{result}: a partition was touched");
                if (result != GptEditResult.Done) changed.ShouldBeEmpty();
            }
        },
        iter: 2000);

    [Theory]
    [InlineData(0, GptEditResult.Done)]
    [InlineData(1, GptEditResult.NoRoom)]
    [InlineData(20, GptEditResult.NoRoom)]
    [InlineData(33, GptEditResult.NoRoom)]
    [InlineData(40, GptEditResult.NoRoom)]
    public void A_disk_copied_to_a_shorter_one_keeps_its_last_partition(int shorter, GptEditResult expected)
    {
        var last = new SectorRange(4000, DiskSectors - 34);
        var disk = Make([new SectorRange(40, 3000), last], null, -shorter, damage: 0, differ: false);
        new Random(
            5).NextBytes(
                disk.Bytes.AsSpan(
                    (int)last.First * Sector,
                    (int)((Math.Min(disk.LengthBytes / Sector, last.Last + 1) - last.First) * Sector)));
        var before = disk.Bytes.ToArray();
        GptEditor.RewriteBothCopies(disk).ShouldBe(expected);
        if (expected == GptEditResult.NoRoom) disk.Bytes.ShouldHold(before);
    }

    [Fact]
    public void Copies_that_name_different_partitions_are_not_written_over_each_other()
    {
        var disk = Make(
            [new SectorRange(40, 3000)],
            [new SectorRange(40, 2000), new SectorRange(2001, 3000)],
            0,
            damage: 0,
            differ: true);
        var before = disk.Bytes.ToArray();
        GptEditor.RewriteBothCopies(disk).ShouldBe(GptEditResult.CopiesDiffer);
        GptEditor.SetType(disk, 1, PartitionTypes.GptRecovery).ShouldBe(GptEditResult.CopiesDiffer);
        disk.Bytes.ShouldHold(before);
    }

    [Fact]
    public async Task A_backup_table_that_moves_is_sound_for_sgdisk()
    {
        using var scratch = new Scratch();
        foreach (var longer in (int[])[-30, 0, 50])
        {
            var disk = Make(
                [new SectorRange(40, 3000), new SectorRange(4000, 7000)],
                null,
                longer,
                damage: longer == 0 ? 2 : 0,
                differ: false);
            GptEditor.RewriteBothCopies(disk).ShouldBe(GptEditResult.Done);
            await File.WriteAllBytesAsync(scratch["disk"], disk.Bytes, TestContext.Current.CancellationToken);
            (await Tool.MustAgree("sgdisk", "--verify", scratch["disk"])).ShouldContain("No problems found");
        }
    }

    private static List<SectorRange> Partitions(int[] cuts)
    {
        var sorted = cuts.Distinct().Order().ToList();
        return [.. Enumerable
            .Range(0, sorted.Count / 2)
            .Select(index => new SectorRange(sorted[index * 2], sorted[(index * 2) + 1]))];
    }

    /// <param name="second">What the backup names; null for the same.</param>
    /// <param name="damage">1 the primary, 2 the backup, 3 the entries of the primary.</param>
    private static MemoryBlocks Make(List<SectorRange> ranges, List<SectorRange>? second, int longer, int damage, bool differ)
    {
        var bytes = new byte[DiskSectors * Sector];
        var disk = new MemoryBlocks(bytes);
        const long last = DiskSectors - 1;
        Write(disk, ranges, 1, last, 2);
        Write(disk, differ && second is not null ? second : ranges, last, 1, last - EntriesSectors);
        if (damage == 1) bytes[Sector + 60] ^= 1;
        if (damage == 2) bytes[((int)last * Sector) + 60] ^= 1;
        if (damage == 3) bytes[(2 * Sector) + 3] ^= 1;
        Array.Resize(ref bytes, bytes.Length + (longer * Sector));
        return new MemoryBlocks(bytes);
    }

    private static void Write(MemoryBlocks disk, List<SectorRange> ranges, long own, long other, long entriesSector)
    {
        var entries = new byte[Entries * EntryBytes];
        foreach (var (range, index) in ranges.Select((range, index) => (range, index)))
        {
            var entry = entries.AsSpan(index * EntryBytes);
            PartitionTypes.GptBasicData.TryWriteBytes(entry);
            new Guid(index + 1, 0, 0, new byte[8]).TryWriteBytes(entry[16..]);
            BitConverter.TryWriteBytes(entry[32..], range.First);
            BitConverter.TryWriteBytes(entry[40..], range.Last);
        }

        var header = new GptHeader(
            92,
            own,
            other,
            34,
            DiskSectors - 34,
            Guid.Empty,
            entriesSector,
            Entries,
            EntryBytes,
            System.IO.Hashing.Crc32.HashToUInt32(entries),
            CrcMatches: true);
        disk.Write(entriesSector * Sector, entries);
        disk.Write(own * Sector, header.ToSector(Sector));
        GptEditor.WriteProtective(disk);
    }
}
