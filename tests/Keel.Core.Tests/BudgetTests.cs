using System.Buffers.Binary;
using System.Diagnostics;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Structures that claim absurd sizes, or list the same thing over and over, come to an end soon.</summary>
public sealed class BudgetTests
{
    private static readonly TimeSpan Soon = TimeSpan.FromSeconds(20);

    [Fact]
    public void An_index_that_lists_one_leaf_thousands_of_times_is_read_once()
    {
        var hive = new HandMadeHive();
        var child = hive.Key("child", noSubkeys: true, 0);
        var leaf = hive.Cell([.. "li"u8, .. Number16(60_000), .. Repeat(child, 60_000)]);
        var index = hive.Cell([.. "ri"u8, .. Number16(60_000), .. Repeat(leaf, 60_000)]);
        var clock = Stopwatch.StartNew();
        var opened = Hive.Open(hive.ToBytes(hive.Key("root", noSubkeys: false, index)));
        opened.Root.Subkeys().Count().ShouldBe(1);
        opened.Root.Find("nobody").ShouldBeNull();
        opened.ReadTree().Children.Count.ShouldBe(1);
        opened.Damage.ShouldNotBeEmpty();
        clock.Elapsed.ShouldBeLessThan(Soon);
    }

    [Fact]
    public void Values_that_share_one_large_cell_run_into_the_budget()
    {
        const int count = 50_000, dataBytes = 1_000_000;
        var hive = new HandMadeHive();
        var data = hive.Cell(new byte[dataBytes]);
        var value = hive.Cell([.. "vk"u8, 0, 0, .. Number32(dataBytes), .. Number32(data), .. Number32(3), 0, 0, 0, 0]);
        var list = hive.Cell(Repeat(value, count));
        var clock = Stopwatch.StartNew();
        var opened = Hive.Open(hive.ToBytes(hive.Key("root", noSubkeys: true, 0, valueCount: count, valueList: list)));
        opened.Root.Values().Count().ShouldBeLessThan(count);
        opened.IsExhausted.ShouldBeTrue();
        clock.Elapsed.ShouldBeLessThan(Soon);
    }

    [Fact]
    public void A_file_that_claims_sixteen_tebibytes_is_no_program_and_is_not_read()
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find("none"));
        using var machine = Machine.Open(scratch["disk"]);
        var clock = Stopwatch.StartNew();
        var state = ProgramState.Of(
            machine.Volumes.Last(),
            new HugeFile(),
            @"\Windows\System32\hal.dll",
            processor: null,
            whole: true);
        state.Condition.ShouldBe(ProgramCondition.NotProgram);
        state.Seen.Facts.Get(Facts.Fact.SizeBytes).ShouldBe(HugeFile.SizeBytes);
        clock.Elapsed.ShouldBeLessThan(Soon);
    }

    [Fact]
    public void More_than_any_walk_needs_is_not_read()
    {
        var watched = new WatchedBlocks(new EndlessZeros());
        var piece = new byte[64 * 1024 * 1024];
        Should.Throw<UnreadableException>(() =>
        {
            for (var number = 0; number < 10_000; number++) watched.Read(0, piece);
        });
        watched.BeginBudget();
        Should.NotThrow(() => watched.Read(0, piece));
    }

    private static byte[] Number16(ushort number) => BitConverter.GetBytes(number);

    private static byte[] Number32(uint number) => BitConverter.GetBytes(number);

    private static byte[] Repeat(
        uint number,
        int count) => [.. Enumerable.Repeat(BitConverter.GetBytes(number), count).SelectMany(bytes => bytes)];

    /// <summary>A hive cell by cell, for what no writer would write.</summary>
    private sealed class HandMadeHive
    {
        private const int BinHeaderBytes = 32, PageBytes = 4096;
        private readonly MemoryStream cells = new();

        public HandMadeHive() => cells.Write(new byte[BinHeaderBytes]);

        /// <summary>Adds a cell, and gives its offset.</summary>
        public uint Cell(byte[] content)
        {
            var offset = (uint)cells.Length;
            var size = (content.Length + 4 + 7) / 8 * 8;
            cells.Write(BitConverter.GetBytes(-size));
            cells.Write(content);
            cells.Write(new byte[size - 4 - content.Length]);
            return offset;
        }

        public uint Key(string name, bool noSubkeys, uint index, uint valueCount = 0, uint valueList = HiveKey.NoCell)
        {
            var cell = new byte[HiveKey.NameAt + name.Length];
            cell.Put(0, new HiveKeyRecord
            {
                Mark = HiveKeyRecord.UsualMark,
                Flags = HiveKey.AsciiNameFlag,
                SubkeyCount = noSubkeys ? 0 : 60_000u,
                SubkeyList = noSubkeys ? HiveKey.NoCell : index,
                ValueCount = valueCount,
                ValueList = valueList,
                Security = HiveKey.NoCell,
                ClassName = HiveKey.NoCell,
                NameLength = (ushort)name.Length
            });
            Encoding.ASCII.GetBytes(name).CopyTo(cell, HiveKey.NameAt);
            return Cell(cell);
        }

        public byte[] ToBytes(uint root)
        {
            var bins = (uint)((cells.Length + PageBytes - 1) / PageBytes * PageBytes);
            var hive = new byte[HiveHeader.Size + bins];
            new HiveHeader(1, 1, 0, 1, 3, root, bins, ChecksumMatches: true).Write(hive);
            cells.GetBuffer().AsSpan(0, (int)cells.Length).CopyTo(hive.AsSpan(HiveHeader.Size));
            return hive;
        }
    }

    private sealed class EndlessZeros : IReadableBlocks
    {
        public long LengthBytes => HugeFile.SizeBytes;

        public int SectorBytes => 512;

        public void Read(long offsetBytes, Span<byte> buffer)
        {
            // fresh arrays are zero already
        }
    }

    /// <summary>A volume on which every file claims to be huge.</summary>
    private sealed class HugeFile : IVolume
    {
        public void SetWritten(string path, DateTimeOffset time) => throw new NotSupportedException();

        public const long SizeBytes = 16L * 1024 * 1024 * 1024 * 1024;

        public FileSystemKind Kind => FileSystemKind.Ntfs;

        public string Label => "";

        public long FreeBytes => 0;

        public VolumeFile? Find(string path) => new(VolumeExtensions.NameOf(path), IsFolder: false, SizeBytes, FileMarks.None);

        public IReadOnlyList<VolumeFile> List(string folder) => [];

        public IReadableBlocks OpenFile(string path) => new EndlessZeros();

        public void WriteFile(string path, ReadOnlySpan<byte> contents) => throw new NotSupportedException();

        public void WriteFile(string path, IReadableBlocks contents) => throw new NotSupportedException();

        public void Grow(string path, long lengthBytes) => throw new NotSupportedException();

        public void Patch(string path, long offsetBytes, ReadOnlySpan<byte> bytes) => throw new NotSupportedException();

        public DateTimeOffset? WrittenAt(string path) => null;

        public void CreateFolder(string path) => throw new NotSupportedException();

        public void Rename(string path, string newName) => throw new NotSupportedException();

        public void Delete(string path) => throw new NotSupportedException();

        public void SetMarks(string path, FileMarks marks) => throw new NotSupportedException();

        public void Close()
        {
        }

        public void Dispose()
        {
        }
    }
}
