using System.Buffers.Binary;
using System.Text;
using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.EventLogs;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Event logs of both forms: read as others read them, and survived whatever they hold.</summary>
public sealed class EventLogTests
{
    private const int RecordsAt = EventLogFileRecord.BlockBytes + EventLogChunkRecord.RecordsAt;
    private static readonly DateTimeOffset Morning = new(2026, 11, 20, 8, 11, 0, TimeSpan.Zero);

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void What_is_written_is_read_again_the_newest_first(bool isOld)
    {
        var events = Mixed(300);
        var bytes = isOld ? OldEventLogWriter.Write(events, "PURSER-02") : EventLogWriter.Write(events, "PURSER-02");
        var read = Read(bytes, out var damage);
        damage.ShouldBe(0);
        read.Count.ShouldBe(events.Count);
        foreach (var (logged, written) in read.AsEnumerable().Reverse().Zip(events))
        {
            (logged.Provider, logged.Id, logged.Time).ShouldBe((written.Provider, written.Id, written.Time));
            logged.Values.Count.ShouldBe(written.Values.Count);
            if (written.Id == 7045) logged.Value(0).ShouldBe(Encoding.Unicode.GetString(written.Values[0].Data));
            if (written.Id == 7045 && !isOld) logged.Value("servicename").ShouldStartWith("quay");
        }

        read.Select(logged => logged.Number).ShouldBe(Enumerable.Range(1, 300).Select(number => (ulong)number).Reverse());
    }

    [Fact]
    public async Task Another_reader_reads_the_same_from_the_new_form()
    {
        using var scratch = new Scratch();
        var events = Mixed(700);
        File.WriteAllBytes(scratch["System.evtx"], EventLogWriter.Write(events, "PURSER-02"));
        var (code, output, error) = await Tool.Run("evtxexport", scratch["System.evtx"]);
        code.ShouldBe(0, error);
        output.Split('\n').Count(line => line.StartsWith("Event number", StringComparison.Ordinal)).ShouldBe(700);
        output.ShouldContain("quay12");
        output.ShouldNotContain("corrupt", Case.Insensitive);
    }

    [Fact]
    public async Task A_second_reader_gives_the_xml_of_the_new_form()
    {
        using var scratch = new Scratch();
        File.WriteAllBytes(scratch["System.evtx"], EventLogWriter.Write(Mixed(40), "PURSER-02"));
        const string script = """
            import sys, Evtx.Evtx as e
            with e.Evtx(sys.argv[1]) as log:
                assert log.get_file_header().verify()
                for chunk in log.chunks():
                    assert chunk.verify()
                    for record in chunk.records(): print(record.xml())
            """;
        var (code, output, error) = await Tool.Run("/usr/bin/python3", "-c", script, scratch["System.evtx"]);
        code.ShouldBe(0, error);
        output.ShouldContain("<Provider Name=\"Service Control Manager\">");
        output.ShouldContain("<Data Name=\"ServiceName\">quay");
        output.Split("<Event>").Length.ShouldBe(41);
    }

    [Fact]
    public async Task Another_reader_reads_the_same_from_the_old_form()
    {
        using var scratch = new Scratch();
        File.WriteAllBytes(scratch["SysEvent.Evt"], OldEventLogWriter.Write(Mixed(60), "TILL-03"));
        var (code, output, error) = await Tool.Run("evtexport", scratch["SysEvent.Evt"]);
        code.ShouldBe(0, error);
        output.Split('\n').Count(line => line.StartsWith("Event number", StringComparison.Ordinal)).ShouldBe(60);
        output.ShouldContain("quay");
    }

    [Theory]
    [InlineData("text", BinaryXmlType.Text, "5100750061007900", "Quay")]
    [InlineData("signed byte", BinaryXmlType.Int8, "FE", "-2")]
    [InlineData("word", BinaryXmlType.UInt16, "2900", "41")]
    [InlineData("signed number", BinaryXmlType.Int32, "FFFFFFFF", "-1")]
    [InlineData("long", BinaryXmlType.UInt64, "0100000001000000", "4294967297")]
    [InlineData("truth", BinaryXmlType.Boolean, "01000000", "true")]
    [InlineData("hexadecimal", BinaryXmlType.Hex32, "7B000000", "0x0000007b")]
    [InlineData("id", BinaryXmlType.Identifier, "78563412341278561234123456789ABC", "{12345678-1234-5678-1234-123456789abc}")]
    [InlineData("time", BinaryXmlType.FileTime, "00428681B47CDD01", "2026-11-25T08:11:00.0000000Z")]
    [InlineData("no time", BinaryXmlType.FileTime, "FFFFFFFFFFFFFFFF", "")]
    [InlineData("parts of time", BinaryXmlType.SystemTime, "EA070B00030019000800 0B0000000000", "2026-11-25T08:11:00.0000000Z")]
    [InlineData("parts of no time", BinaryXmlType.SystemTime, "FFFFFFFFFFFFFFFFFFFFFFFFFFFFFFFF", "")]
    [InlineData("user", BinaryXmlType.Sid, "010100000000000512000000", "S-1-5-18")]
    [InlineData("cut short", BinaryXmlType.UInt32, "0102", "")]
    [InlineData("unknown", 0x77, "ABCD", "abcd")]
    public void Every_type_of_value_is_told(string name, byte type, string hex, string expected)
    {
        var data = Convert.FromHexString(hex.Replace(" ", "", StringComparison.Ordinal));
        var written = new WrittenEvent(Morning, "quayside", 1, new WrittenValue(name, type, data));
        Read(EventLogWriter.Write([written], "PURSER-02"), out _).ShouldHaveSingleItem().Value(name).ShouldBe(expected);
    }

    [Fact]
    public void Several_values_in_one_place_are_told_one_by_one()
    {
        var texts = Encoding.Unicode.GetBytes("north\0south\0");
        var numbers = new byte[] { 7, 0, 11, 0 };
        var written = new WrittenEvent(
            Morning,
            "disk",
            7,
            new WrittenValue("", BinaryXmlType.Text | BinaryXmlType.ArrayFlag, texts),
            new WrittenValue("", BinaryXmlType.UInt16 | BinaryXmlType.ArrayFlag, numbers));
        Read(EventLogWriter.Write([written], "PURSER-02"), out _)[0].Values.Select(value => value.Text)
            .ShouldBe(["north", "south", "7", "11"]);
    }

    [Fact]
    public void A_ring_that_has_come_round_is_read_in_the_order_of_its_numbers()
    {
        var log = EventLogWriter.Write(Mixed(2_000), "PURSER-02");
        var chunks = (log.Length - EventLogFileRecord.BlockBytes) / EventLogChunkRecord.ChunkBytes;
        chunks.ShouldBeGreaterThan(3);
        byte[] ChunkAt(int chunk) =>
            log.AsSpan(EventLogFileRecord.BlockBytes + (chunk * EventLogChunkRecord.ChunkBytes), EventLogChunkRecord.ChunkBytes)
                .ToArray();
        byte[] turned =
        [
            .. log[..EventLogFileRecord.BlockBytes],
            .. Enumerable.Range(0, chunks).SelectMany(chunk => ChunkAt((chunk + 2) % chunks))
        ];
        Read(turned, out _).Select(logged => logged.Number).ShouldBe(Read(log, out _).Select(logged => logged.Number));
    }

    [Fact]
    public void Only_the_chunks_that_are_needed_are_read()
    {
        var counted = new CountedBlocks(EventLogWriter.Write(Mixed(4_000), "PURSER-02"));
        var log = EventLog.TryOpen(counted)!;
        log.NewestFirst((_, id) => id == 6005).Take(3).Count().ShouldBe(3);
        counted.Bytes.ShouldBeLessThan(2 * EventLogChunkRecord.ChunkBytes);
    }

    [Fact]
    public void What_nobody_wants_is_never_put_into_words()
    {
        var asked = new List<(string, int)>();
        var log = EventLog.TryOpen(new MemoryBlocks(EventLogWriter.Write(Mixed(50), "PURSER-02")))!;
        log.NewestFirst((provider, id) =>
        {
            asked.Add((provider, id));
            return false;
        }).ShouldBeEmpty();
        asked.Count.ShouldBe(50);
    }

    [Fact]
    public void A_damaged_record_costs_itself_and_no_other()
    {
        var log = EventLogWriter.Write(Mixed(100), "PURSER-02");
        var first = BinaryPrimitives.ReadInt32LittleEndian(log.AsSpan(RecordsAt + 4));
        log.AsSpan(RecordsAt + first, 4).Fill(0xEE);
        var read = Read(log, out var damage);
        read.Count.ShouldBe(99);
        damage.ShouldBe(1);
    }

    [Fact]
    public void A_chunk_that_was_not_closed_is_read_to_its_last_whole_record()
    {
        var log = EventLogWriter.Write(Mixed(100), "PURSER-02", isClosed: false);
        var head = log.AsSpan(EventLogFileRecord.BlockBytes);
        BinaryPrimitives.WriteUInt64LittleEndian(head[32..], ulong.MaxValue);
        BinaryPrimitives.WriteUInt32LittleEndian(head[48..], EventLogChunkRecord.RecordsAt);
        Read(log, out _).Count.ShouldBe(100);
    }

    [Fact]
    public void A_record_of_the_old_form_goes_on_at_the_start_of_the_ring()
    {
        const int headerBytes = 0x30;
        var log = OldEventLogWriter.Write(Mixed(30), "TILL-03");
        var ring = log.AsSpan(headerBytes).ToArray();
        var middle = ring.Length / 2 / 4 * 4;
        byte[] turned = [.. log[..headerBytes], .. ring[middle..], .. ring[..middle]];
        Read(turned, out _).Count.ShouldBe(30);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(7)]
    [InlineData(47)]
    [InlineData(4096)]
    public void What_is_no_log_is_not_opened(int bytes) =>
        EventLog.TryOpen(new MemoryBlocks(new byte[bytes])).ShouldBeNull();

    [Fact]
    public void Any_bytes_are_survived()
    {
        byte[][] logs =
        [
            EventLogWriter.Write(Mixed(60), "PURSER-02"),
            OldEventLogWriter.Write(Mixed(60), "TILL-03")
        ];
        var (hurt, whole) = (0, 0);
        Gen.Select(Gen.Int[0, 1], Gen.Int[0, 24_000].Array[1, 24], Gen.Byte.Array[24], Gen.Int[100, 70_000]).Sample(
            (which, places, bytes, length) =>
            {
                var spoiled = logs[which][..Math.Min(length, logs[which].Length)];
                for (var index = 0; index < places.Length; index++)
                    spoiled[0x30 + (places[index] % (spoiled.Length - 0x30))] = bytes[index];
                var log = EventLog.TryOpen(new MemoryBlocks(spoiled));
                var count = log?.NewestFirst((_, _) => true).Count() ?? 0;
                count.ShouldBeLessThan(1_000);
                if (count < 60) Interlocked.Increment(ref hurt);
                else Interlocked.Increment(ref whole);
            },
            iter: 4_000);
        hurt.ShouldBeGreaterThan(0);
        whole.ShouldBeGreaterThan(0);
    }

    [Fact]
    public void Values_that_hold_themselves_come_to_an_end()
    {
        var written = new WrittenEvent(Morning, "quayside", 1, WrittenValue.Text("a", new string('x', 400)));
        var log = EventLogWriter.Write([written], "PURSER-02");
        var head = EventLogFileRecord.BlockBytes + EventLogChunkRecord.RecordsAt;
        for (var at = head; at < head + 4_000; at++)
        {
            var spoiled = log.ToArray();
            spoiled[at] = BinaryXmlType.Fragment;
            Read(spoiled, out _).Count.ShouldBeLessThan(2);
        }
    }

    private static List<LoggedEvent> Read(byte[] bytes, out int damage)
    {
        var log = EventLog.TryOpen(new MemoryBlocks(bytes)).ShouldNotBeNull();
        var read = log.NewestFirst((_, _) => true).ToList();
        damage = log.DamagedPlaces;
        return read;
    }

    private static List<WrittenEvent> Mixed(int count) =>
    [
        .. Enumerable.Range(0, count).Select(number => (number % 4) switch
        {
            0 => new WrittenEvent(Morning.AddMinutes(number), "EventLog", 6005),
            1 => new WrittenEvent(
                Morning.AddMinutes(number),
                "Service Control Manager",
                7045,
                WrittenValue.Text("ServiceName", $"quay{number}"),
                WrittenValue.Text("ImagePath", @"System32\drivers\quay.sys")),
            2 => new WrittenEvent(
                Morning.AddMinutes(number),
                "Microsoft-Windows-Kernel-Power",
                41,
                WrittenValue.Text("BugcheckCode", "123")),
            _ => new WrittenEvent(Morning.AddMinutes(number), "disk", 7, WrittenValue.Text("", @"\Device\Harddisk0\DR0"))
        })
    ];

    /// <summary>Counts how many bytes are read.</summary>
    private sealed class CountedBlocks(byte[] bytes) : IReadableBlocks
    {
        private readonly MemoryBlocks inner = new(bytes);

        public long Bytes { get; private set; }

        public long LengthBytes => inner.LengthBytes;

        public int SectorBytes => inner.SectorBytes;

        public void Read(long offsetBytes, Span<byte> buffer)
        {
            Bytes += buffer.Length;
            inner.Read(offsetBytes, buffer);
        }
    }
}
