using System.Runtime.CompilerServices;
using Keel.Core.Blocks;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.BootCode.Loading;

/// <summary>
/// The way of boot/ntfs.asm: $MFT with its extension records, the root folder's index, the loader's runs; and its limits of
/// memory.
/// </summary>
internal sealed class NtfsLoading(IReadableBlocks volume)
{
    private const int BufferBytes = 4096, RunsLimit = 2047, MftRunsLimit = 8189, ListRunsLimit = 127;
    private const int ListLimitBytes = 0x1C00 - 512, DepthLimit = 32;
    private const uint ListType = 0x20, DataType = 0x80, IndexRootType = 0x90, IndexType = 0xA0;
    private const int RootRecord = 5;

    /// <summary>The mark that ends the attributes, and four bytes behind it.</summary>
    private const int EndBytes = 8;
    private const ushort PackedFlags = 0xC0FF;
    private readonly NtfsStream mft = new();
    private NtfsBootSector boot = null!;

    /// <summary>Whether the code has room for the volume's records and index blocks.</summary>
    private static bool Fits(NtfsBootSector parameters) =>
        parameters.IsPlausible
        && parameters.BytesPerSector == BootCodeLoading.SectorBytes
        && parameters.RecordBytes <= BufferBytes
        && parameters.IndexBytes <= BufferBytes;

    private static int WholeSectors(long bytes) =>
        (int)((bytes + BootCodeLoading.SectorBytes - 1) / BootCodeLoading.SectorBytes * BootCodeLoading.SectorBytes);

    public LoadResult Load(string name)
    {
        boot = volume.TryRead(0, NtfsBootSector.Size) is { } sector
            && NtfsBootSector.TryRead(sector) is { } parameters
            && Fits(parameters)
            ? parameters
            : throw Damaged("the parameters of the volume");
        OpenMft();
        var record = Find(name)
            ?? throw new LoadStoppedException(LoadOutcome.NotFound, $"the index of the root folder does not lead to {name}");
        var stream = Open(record, DataType, "")
            ?? throw new LoadStoppedException(LoadOutcome.NotFound, $"{name} has no contents");
        if ((stream.Flags & PackedFlags) != 0) throw Packed(name);
        BootCodeLoading.CheckSize(name, stream.LengthBytes);
        if (stream.Resident is null) Read(stream, 0, WholeSectors(stream.LengthBytes));
        return new LoadResult(LoadOutcome.Loaded, "", stream.Runs.Count);
    }

    /// <summary>The runs of $MFT: those of its first record, then, through them, those of its extension records.</summary>
    private void OpenMft()
    {
        var first = FixUp(Take(boot.MftCluster * boot.ClusterBytes, boot.RecordBytes), "FILE"u8);
        AddPart(mft, FirstAttribute(first, DataType, "") ?? throw Damaged("$MFT has no contents"), MftRunsLimit);
        if (FirstAttribute(first, ListType, "") is { } list) AddListed(mft, ReadList(list), DataType, "", skip: 0);
    }

    private NtfsStream? Open(long record, uint type, string name)
    {
        var bytes = Record(record);
        var stream = new NtfsStream();
        if (FirstAttribute(bytes, ListType, "") is { } list)
        {
            AddListed(stream, ReadList(list), type, name, skip: null);
            return stream.Resident is null && stream.Runs.Count == 0 ? null : stream;
        }

        if (FirstAttribute(bytes, type, name) is not { } part) return null;
        AddPart(stream, part, RunsLimit);
        return stream;
    }

    /// <summary>Adds every part of a stream that an attribute list names, in its order.</summary>
    private void AddListed(NtfsStream stream, byte[] list, uint type, string name, long? skip)
    {
        var headerBytes = Unsafe.SizeOf<NtfsListEntryRecord>();
        for (var at = 0; at + headerBytes <= list.Length;)
        {
            var entry = list.At<NtfsListEntryRecord>(at);
            if (entry.Type == type && entry.NameLength == name.Length && entry.Record != skip)
            {
                AddPart(
                    stream,
                    Attributes(Record(entry.Record), type, name).FirstOrDefault(part => HeadOf(part).Number == entry.Number)
                        ?? throw Damaged("an attribute list leads nowhere"),
                    stream == mft ? MftRunsLimit : RunsLimit);
            }

            if (entry.Length < headerBytes) throw Damaged("an attribute list");
            at += entry.Length;
        }
    }

    private byte[] ReadList(byte[] attribute)
    {
        var stream = new NtfsStream();
        AddPart(stream, attribute, ListRunsLimit);
        if (stream.Resident is { } resident) return resident;
        if (stream.LengthBytes > ListLimitBytes) throw Damaged("an attribute list is longer than boot code has room for");
        return Read(stream, 0, WholeSectors(stream.LengthBytes))[..(int)stream.LengthBytes];
    }

    /// <summary>Takes an attribute's runs, or its contents where it holds them itself.</summary>
    private static void AddPart(NtfsStream stream, byte[] attribute, int runsLimit)
    {
        var head = HeadOf(attribute);
        if (head.IsNonResident == 0)
        {
            TakeContents(stream, attribute);
            return;
        }

        if (attribute.Length < Unsafe.SizeOf<NtfsNonResidentRecord>()) throw Damaged("an attribute's header");
        var record = attribute.At<NtfsNonResidentRecord>(0);
        if ((uint)record.FirstCluster == 0)
        {
            stream.Flags = head.Flags;
            stream.LengthBytes = record.SizeBytes is >= 0 and <= uint.MaxValue ? record.SizeBytes : uint.MaxValue;
        }

        AddRuns(stream, attribute, record.RunsAt, runsLimit);
    }

    private static void TakeContents(NtfsStream stream, byte[] attribute)
    {
        var record = attribute.At<NtfsResidentRecord>(0);
        if (record.ContentBytes > BufferBytes
            || record.ContentAt < Unsafe.SizeOf<NtfsResidentRecord>()
            || record.ContentAt + record.ContentBytes > attribute.Length)
        {
            throw Damaged("an attribute's own contents");
        }

        stream.Flags = record.Head.Flags;
        stream.LengthBytes = record.ContentBytes;
        stream.Resident = attribute.AsSpan(record.ContentAt, (int)record.ContentBytes).ToArray();
    }

    private static void AddRuns(NtfsStream stream, byte[] attribute, int at, int runsLimit)
    {
        long cluster = 0;
        while (at < attribute.Length && attribute[at] != 0)
        {
            int lengthBytes = attribute[at] & 15, offsetBytes = attribute[at] >> 4;
            if (lengthBytes > 8 || offsetBytes > 8 || at + 1 + lengthBytes + offsetBytes > attribute.Length)
                throw Damaged("a list of runs");
            var clusters = Number(attribute.AsSpan(at + 1, lengthBytes), isSigned: false);
            if (clusters <= 0) throw Damaged("a list of runs");
            cluster += Number(attribute.AsSpan(at + 1 + lengthBytes, offsetBytes), isSigned: true);
            stream.Runs.Add(new NtfsRun(clusters, offsetBytes == 0 ? null : cluster));
            if (stream.Runs.Count > runsLimit) throw Damaged($"a stream lies in more than {runsLimit} pieces");
            at += 1 + lengthBytes + offsetBytes;
        }
    }

    private static long Number(ReadOnlySpan<byte> bytes, bool isSigned)
    {
        long value = isSigned && bytes.Length > 0 && (bytes[^1] & 0x80) != 0 ? -1 : 0;
        for (var index = bytes.Length - 1; index >= 0; index--) value = (value << 8) | bytes[index];
        return value;
    }

    /// <summary>The record of a name in the root folder; null where its index does not lead there.</summary>
    private long? Find(string name)
    {
        const int rootHeaderBytes = 0x10, blockHeaderBytes = 0x18;
        var root = Open(RootRecord, IndexRootType, "$I30") is { Resident: { } resident }
            ? resident
            : throw Damaged("the root folder");
        var step = Search(root, rootHeaderBytes, name);
        if (step.Record is not null || step.Child is null) return step.Record;
        var blocks = Open(RootRecord, IndexType, "$I30") is { Resident: null } found
            ? found
            : throw Damaged("the root folder has no blocks");
        for (var depth = 0; depth < DepthLimit; depth++)
        {
            var unit = Math.Min(boot.ClusterBytes, boot.IndexBytes) == boot.ClusterBytes
                ? boot.ClusterBytes
                : BootCodeLoading.SectorBytes;
            var block = FixUp(Read(blocks, step.Child!.Value * unit, boot.IndexBytes), "INDX"u8);
            step = Search(block, blockHeaderBytes, name);
            if (step.Record is not null || step.Child is null) return step.Record;
        }

        throw Damaged("the index of the root folder is too deep");
    }

    /// <summary>Searches one node of the index: the record, or the block to go on in.</summary>
    private static (long? Record, long? Child) Search(byte[] node, int headerAt, string name)
    {
        int headerBytes = Unsafe.SizeOf<NtfsIndexEntryRecord>(), nameAt = headerBytes + Unsafe.SizeOf<NtfsFileNameRecord>();
        if (headerAt + sizeof(uint) > node.Length) throw Damaged("a node of the root folder's index");
        var at = headerAt + (long)node.At<uint>(headerAt);
        while (true)
        {
            if (at + headerBytes > node.Length) throw Damaged("a node of the root folder's index");
            ReadOnlySpan<byte> bytes = node.AsSpan((int)at);
            var entry = bytes.At<NtfsIndexEntryRecord>(0);
            if (entry.Length < headerBytes || entry.Length > bytes.Length)
                throw Damaged("an entry of the root folder's index");
            long? child = entry.HasChild ? bytes.At<uint>(entry.Length - sizeof(ulong)) : null;
            if (entry.IsLast) return (null, child);
            if (entry.Length < nameAt) throw Damaged("an entry of the root folder's index");
            var letters = bytes.At<NtfsFileNameRecord>(headerBytes).NameLength;
            if (nameAt + (letters * sizeof(char)) > entry.Length) throw Damaged("an entry of the root folder's index");
            var order = Compare(name, bytes.Slice(nameAt, letters * sizeof(char)));
            if (order == 0) return (entry.Record, null);
            if (order < 0) return (null, child);
            at += entry.Length;
        }
    }

    /// <summary>Below zero where the name comes before the entry's; case is ignored for A to Z only.</summary>
    private static int Compare(string name, ReadOnlySpan<byte> entry)
    {
        for (var index = 0; index < Math.Min(name.Length, entry.Length / 2); index++)
        {
            var letter = (char)entry.At<ushort>(index * sizeof(char));
            if (char.IsAsciiLetterLower(letter)) letter = char.ToUpperInvariant(letter);
            if (name[index] != letter) return name[index].CompareTo(letter);
        }

        return name.Length.CompareTo(entry.Length / 2);
    }

    private byte[] Record(long number)
    {
        var record = FixUp(Read(mft, number * boot.RecordBytes, boot.RecordBytes), "FILE"u8);
        return record.At<NtfsFileHeaderRecord>(0).IsInUse
            ? record
            : throw Damaged($"file record {number} is not in use");
    }

    private static byte[]? FirstAttribute(byte[] record, uint type, string name) =>
        Attributes(record, type, name).FirstOrDefault();

    private static IEnumerable<byte[]> Attributes(byte[] record, uint type, string name)
    {
        var leastBytes = Unsafe.SizeOf<NtfsResidentRecord>();
        int at = record.At<NtfsFileHeaderRecord>(0).FirstAttributeAt;
        while (true)
        {
            if (at + EndBytes > record.Length) throw Damaged("a file record has no end");
            if (record.At<uint>(at) == NtfsAttributeRecord.EndType) yield break;
            if (at + leastBytes > record.Length) throw Damaged("a file record has no end");
            var head = record.At<NtfsAttributeRecord>(at);
            if (head.Length < leastBytes || head.Length > record.Length - at) throw Damaged("an attribute of a file record");
            var attribute = record.AsSpan(at, (int)head.Length).ToArray();
            if (head.Type == type
                && head.NameLength == name.Length
                && (name.Length == 0 || IsNamed(attribute, head.NameAt, name)))
            {
                yield return attribute;
            }

            at += (int)head.Length;
        }
    }

    private static bool IsNamed(byte[] attribute, int at, string name) =>
        at + (name.Length * 2) <= attribute.Length
            && System.Text.Encoding.Unicode.GetString(attribute, at, name.Length * 2) == name;

    private static NtfsAttributeRecord HeadOf(ReadOnlySpan<byte> attribute) => attribute.At<NtfsAttributeRecord>(0);

    private static byte[] FixUp(byte[] block, ReadOnlySpan<byte> mark)
    {
        const int stride = BootCodeLoading.SectorBytes, lastWords = 0x1F0 - 16;
        var head = block.At<NtfsBlockRecord>(0);
        int words = head.UpdateWordsAt, count = head.UpdateWordCount - 1;
        if (!block.AsSpan().StartsWith(mark) || count != block.Length / stride || words > lastWords || (words & 1) != 0)
            throw Damaged("a record or index block");
        for (var sector = 0; sector < count; sector++)
        {
            var end = block.AsSpan((sector * stride) + stride - 2, 2);
            if (!end.SequenceEqual(block.AsSpan(words, 2))) throw Damaged("a record or index block is torn");
            block.AsSpan(words + 2 + (sector * 2), 2).CopyTo(end);
        }

        return block;
    }

    /// <summary>Reads a part of a stream through its runs.</summary>
    private byte[] Read(NtfsStream stream, long offset, int count)
    {
        var result = new byte[count];
        var done = 0;
        foreach (var run in stream.Runs)
        {
            if (done == count) break;
            if (run.Clusters > long.MaxValue / boot.ClusterBytes) throw Damaged("a run is far too long");
            var length = run.Clusters * boot.ClusterBytes;
            if (offset >= length)
            {
                offset -= length;
                continue;
            }

            if (run.First is not { } first) throw Packed("what boot code reads");
            var part = (int)Math.Min(length - offset, count - done);
            if (first < 0 || first > volume.LengthBytes / boot.ClusterBytes) throw Damaged("a run lies beyond the volume");
            Take((first * boot.ClusterBytes) + offset, part).CopyTo(result, done);
            done += part;
            offset = 0;
        }

        return done == count ? result : throw Damaged("a stream ends too early");
    }

    private byte[] Take(long at, int count) => volume.TryRead(at, count) ?? throw Damaged("a structure lies beyond the volume");

    private static LoadStoppedException Damaged(string what) => new(LoadOutcome.Damaged, what);

    private static LoadStoppedException Packed(string what) =>
        new(LoadOutcome.Packed, $"{what} is compressed, encrypted or sparse");
}
