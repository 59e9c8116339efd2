using System.Buffers.Binary;
using System.Text;
using Keel.Core.Blocks;

namespace Keel.Core.EventLogs;

/// <summary>Writes an event log of NT 5 (evt) for practice disks and tests.</summary>
internal static class OldEventLogWriter
{
    private const int HeaderBytes = 0x30, EndBytes = 0x28;
    private const uint Version = 1;

    /// <param name="events">The events, the oldest first; the names of their values are not kept.</param>
    /// <param name="computer">The name of the computer.</param>
    public static byte[] Write(IReadOnlyList<WrittenEvent> events, string computer)
    {
        var records = events.Select((logged, index) => Record((uint)index + 1, logged, computer)).ToList();
        var end = HeaderBytes + records.Sum(record => record.Length);
        var next = (uint)events.Count + 1;
        return
        [
            .. Numbers(HeaderBytes, OldEventRecord.UsualMark, Version, Version, HeaderBytes, (uint)end, next, 1,
                (uint)(end + EndBytes), 0, 0, HeaderBytes),
            .. records.SelectMany(record => record),
            .. Numbers(EndBytes, 0x11111111, 0x22222222, 0x33333333, 0x44444444, HeaderBytes, (uint)end, next, 1, EndBytes)
        ];
    }

    private static byte[] Record(uint number, WrittenEvent logged, string computer)
    {
        var names = Text(logged.Provider).Concat(Text(computer)).ToArray();
        var texts = logged.Values.SelectMany(value => (byte[])[.. value.Data, 0, 0]).ToArray();
        var stringsAt = OldEventRecord.HeadBytes + names.Length;
        var size = (stringsAt + texts.Length + sizeof(uint) - 1) / sizeof(uint) * sizeof(uint) + OldEventRecord.TailBytes;
        var record = new byte[size];
        record.Put(0, new OldEventRecord
        {
            Size = (uint)size,
            Mark = OldEventRecord.UsualMark,
            Number = number,
            Generated = (uint)logged.Time.ToUnixTimeSeconds(),
            Written = (uint)logged.Time.ToUnixTimeSeconds(),
            EventId = logged.Id,
            Type = logged.Level,
            StringCount = (ushort)logged.Values.Count,
            StringsAt = (uint)stringsAt,
            SidAt = (uint)stringsAt,
            DataAt = (uint)(stringsAt + texts.Length)
        });
        names.CopyTo(record, OldEventRecord.HeadBytes);
        texts.CopyTo(record, stringsAt);
        BinaryPrimitives.WriteInt32LittleEndian(record.AsSpan(size - OldEventRecord.TailBytes), size);
        return record;
    }

    private static byte[] Text(string text) => [.. Encoding.Unicode.GetBytes(text), 0, 0];

    private static byte[] Numbers(params uint[] numbers) => [.. numbers.SelectMany(BitConverter.GetBytes)];
}
