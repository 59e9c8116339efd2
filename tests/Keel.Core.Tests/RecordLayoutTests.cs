using System.Reflection;
using System.Runtime.InteropServices;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Volumes;

namespace Keel.Core.Tests;

/// <summary>
/// Records on disks have the layout of their specifications: every field at its place, in its length, and nothing between.
/// </summary>
public sealed class RecordLayoutTests
{
    private static readonly Dictionary<Type, int> Sizes = new()
    {
        [typeof(GptHeaderRecord)] = 92,
        [typeof(GptEntryRecord)] = 128,
        [typeof(PartitionSlotRecord)] = 16,
        [typeof(NtfsBootSectorRecord)] = 84
    };

    /// <summary>Field, offset and length, as the tables of the specifications have them.</summary>
    public static TheoryData<Type, string, int, int> Tables => new()
    {
        // UEFI specification 2.10, table 5.5: GPT Header
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.Mark), 0, 8 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.Revision), 8, 4 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.HeaderBytes), 12, 4 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.Crc), 16, 4 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.Reserved), 20, 4 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.OwnSector), 24, 8 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.OtherSector), 32, 8 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.FirstUsableSector), 40, 8 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.LastUsableSector), 48, 8 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.DiskGuid), 56, 16 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.EntriesSector), 72, 8 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.EntryCount), 80, 4 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.EntryBytes), 84, 4 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.EntriesCrc), 88, 4 },

        // The same, table 5.6: GPT Partition Entry
        { typeof(GptEntryRecord), nameof(GptEntryRecord.Type), 0, 16 },
        { typeof(GptEntryRecord), nameof(GptEntryRecord.Id), 16, 16 },
        { typeof(GptEntryRecord), nameof(GptEntryRecord.FirstSector), 32, 8 },
        { typeof(GptEntryRecord), nameof(GptEntryRecord.LastSector), 40, 8 },
        { typeof(GptEntryRecord), nameof(GptEntryRecord.Attributes), 48, 8 },
        { typeof(GptEntryRecord), nameof(GptEntryRecord.Name), 56, 72 },

        // The same, table 5.2: Legacy MBR Partition Record
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.Mark), 0, 1 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.FirstHead), 1, 1 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.FirstCylinder), 2, 2 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.Type), 4, 1 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.LastHead), 5, 1 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.LastCylinder), 6, 2 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.FirstSector), 8, 4 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.SectorCount), 12, 4 },

        // Linux-NTFS documentation, "$Boot"
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.Oem), 0x03, 8 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.BytesPerSector), 0x0B, 2 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.SectorsPerCluster), 0x0D, 1 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.Media), 0x15, 1 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.SectorsPerTrack), 0x18, 2 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.Heads), 0x1A, 2 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.HiddenSectors), 0x1C, 4 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.TotalSectors), 0x28, 8 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.MftCluster), 0x30, 8 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.MftMirrorCluster), 0x38, 8 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.RecordClusters), 0x40, 1 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.IndexClusters), 0x44, 1 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.Serial), 0x48, 8 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.Checksum), 0x50, 4 }
    };

    [Theory]
    [MemberData(nameof(Tables))]
    public void A_field_stands_where_its_specification_says(Type record, string field, int at, int length)
    {
        var bytes = new byte[Sizes[record]];
        bytes.AsSpan(at, length).Fill(0x5A);
        var read = Read(record, bytes);
        foreach (var other in record.GetFields(BindingFlags.Instance | BindingFlags.Public))
        {
            var value = Bytes(other.GetValue(read)!);
            var expected = (byte)(other.Name == field ? 0x5A : 0);
            value.ShouldAllBe(one => one == expected, $"{record.Name}.{other.Name}");
            if (other.Name == field) value.Length.ShouldBe(length);
        }
    }

    [Theory]
    [InlineData(0, 91)]
    [InlineData(1, 92)]
    [InlineData(-1, 200)]
    [InlineData(int.MaxValue, 200)]
    public void A_record_that_does_not_fit_is_keels_own_error(int at, int length)
    {
        var bytes = new byte[length];
        Should.Throw<UnreadableException>(() => ((ReadOnlySpan<byte>)bytes).At<GptHeaderRecord>(at));
        Should.Throw<UnreadableException>(() => bytes.AsSpan().Put(at, default(GptHeaderRecord)));
        bytes.ShouldAllBe(one => one == 0);
    }

    [Fact]
    public void What_is_put_is_what_is_read_and_the_rest_stays()
    {
        var bytes = Enumerable.Repeat((byte)0xEE, 200).ToArray();
        var entry = new GptEntryRecord
        {
            Type = Guid.NewGuid(),
            Id = Guid.NewGuid(),
            FirstSector = 2048,
            LastSector = 4095,
            Attributes = 1
        };
        entry.Name = GptEntryRecord.NameField.Of("Brackwater quay");
        bytes.AsSpan().Put(16, entry);
        var read = ((ReadOnlySpan<byte>)bytes).At<GptEntryRecord>(16);
        (read.Type, read.Id, read.FirstSector, read.LastSector, read.Attributes, $"{read.Name}")
            .ShouldBe((entry.Type, entry.Id, 2048, 4095, 1ul, "Brackwater quay"));
        bytes[..16].ShouldAllBe(one => one == 0xEE);
        bytes[(16 + 128)..].ShouldAllBe(one => one == 0xEE);
    }

    [Fact]
    public void A_header_that_is_written_is_read_back_and_one_changed_bit_fails_its_checksum()
    {
        var header = new GptHeader(92, 1, 999, 34, 966, Guid.NewGuid(), 2, 128, 128, 0xDEADBEEF, CrcMatches: true);
        var sector = header.ToSector(512);
        GptHeader.TryRead(sector).ShouldBe(header);
        for (var bit = 0; bit < 92 * 8; bit += 7)
        {
            var changed = sector.ToArray();
            changed[bit / 8] ^= (byte)(1 << (bit % 8));
            (GptHeader.TryRead(changed)?.CrcMatches ?? false).ShouldBeFalse($"bit {bit}");
        }
    }

    [Theory]
    [InlineData(0u)]
    [InlineData(91u)]
    [InlineData(513u)]
    [InlineData(uint.MaxValue)]
    public void A_header_of_an_absurd_size_is_none(uint size)
    {
        var sector = new GptHeader(92, 1, 9, 3, 6, Guid.NewGuid(), 2, 128, 128, 0, CrcMatches: true).ToSector(512);
        BitConverter.TryWriteBytes(sector.AsSpan(12), size);
        GptHeader.TryRead(sector).ShouldBeNull();
    }

    [Fact]
    public void A_slot_says_with_its_cylinders_that_sector_numbers_count()
    {
        var bytes = new byte[16];
        new PartitionSlot(0x80, 7, 2048, 131072).Write(bytes);
        Convert.ToHexString(bytes).ShouldBe("80FEFFFF07FEFFFF0008000000000200");
        PartitionSlot.Read(bytes).ShouldBe(new PartitionSlot(0x80, 7, 2048, 131072));
    }

    private static object Read(Type record, byte[] bytes)
    {
        var method = typeof(RecordLayoutTests).GetMethod(nameof(ReadAs), BindingFlags.Static | BindingFlags.NonPublic)!;
        return method.MakeGenericMethod(record).Invoke(null, [bytes])!;
    }

    private static T ReadAs<T>(byte[] bytes)
        where T : unmanaged
    {
        System.Runtime.CompilerServices.Unsafe.SizeOf<T>().ShouldBe(bytes.Length);
        return ((ReadOnlySpan<byte>)bytes).At<T>(0);
    }

    private static byte[] Bytes(object value)
    {
        var method = typeof(RecordLayoutTests).GetMethod(nameof(BytesOf), BindingFlags.Static | BindingFlags.NonPublic)!;
        return (byte[])method.MakeGenericMethod(value.GetType()).Invoke(null, [value])!;
    }

    private static byte[] BytesOf<T>(T value)
        where T : unmanaged => MemoryMarshal.AsBytes([value]).ToArray();
}
