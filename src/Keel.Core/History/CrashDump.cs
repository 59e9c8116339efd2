using System.Buffers.Binary;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.EventLogs;

namespace Keel.Core.History;

/// <summary>What the header of a crash dump says.</summary>
/// <param name="Code">The stop code.</param>
/// <param name="Parameters">Its four parameters.</param>
/// <param name="Time">When it stopped, in UTC; null where the header holds nonsense.</param>
public sealed record CrashDump(uint Code, IReadOnlyList<ulong> Parameters, DateTimeOffset? Time)
{
    private const int ParameterCount = 4;

    /// <summary>Reads the header; null where the file is no crash dump, or holds no stop code yet.</summary>
    /// <exception cref="Errors.ReadFailedException">The disk does not give it.</exception>
    public static CrashDump? TryRead(IReadableBlocks contents)
    {
        if (contents.TryRead(0, CrashDumpForm.HeaderBytes) is not { } header) return null;
        var mark = Encoding.Latin1.GetString(header, 0, CrashDumpForm.Long.Mark.Length);
        var form = mark == CrashDumpForm.Long.Mark ? CrashDumpForm.Long
            : mark == CrashDumpForm.Short.Mark ? CrashDumpForm.Short
            : null;
        if (form is null) return null;
        var code = BinaryPrimitives.ReadUInt32LittleEndian(header.AsSpan(form.CodeAt));
        if (code == 0) return null;
        return new CrashDump(
            code,
            [.. Enumerable.Range(0, ParameterCount).Select(number => ParameterAt(header, form, number))],
            EventLog.TimeOf(BinaryPrimitives.ReadInt64LittleEndian(header.AsSpan(form.TimeAt))));
    }

    /// <summary>A header with nothing behind it, for practice disks and tests.</summary>
    internal static byte[] Write(CrashDump dump, bool isShort = false)
    {
        var form = isShort ? CrashDumpForm.Short : CrashDumpForm.Long;
        var header = new byte[2 * CrashDumpForm.HeaderBytes];
        Encoding.Latin1.GetBytes(form.Mark).CopyTo(header, 0);
        BinaryPrimitives.WriteUInt32LittleEndian(header.AsSpan(form.CodeAt), dump.Code);
        for (var number = 0; number < ParameterCount; number++)
        {
            BitConverter
                .GetBytes(dump.Parameters[number])
                .AsSpan(0, form.ParameterBytes)
                .CopyTo(header.AsSpan(form.ParametersAt + (number * form.ParameterBytes)));
        }

        BinaryPrimitives.WriteInt64LittleEndian(header.AsSpan(form.TimeAt), dump.Time?.ToFileTime() ?? 0);
        return header;
    }

    private static ulong ParameterAt(byte[] header, CrashDumpForm form, int number)
    {
        var at = header.AsSpan(form.ParametersAt + (number * form.ParameterBytes));
        return form.ParameterBytes == sizeof(ulong)
            ? BinaryPrimitives.ReadUInt64LittleEndian(at)
            : BinaryPrimitives.ReadUInt32LittleEndian(at);
    }
}
