using System.Runtime.InteropServices;

namespace Keel.Core.Disks;

/// <summary>A line typed at the terminal that it does not show.</summary>
internal static partial class HiddenInput
{
    /// <summary>
    /// Room for a termios of any processor; its input flags stand first, its local flags behind three words (termios.h).
    /// </summary>
    private const int ModeBytes = 256, InputFlagsAt = 0, LocalFlagsAt = 12;

    private const uint EnterIsNewLine = 0x100;              // ICRNL: whoever read keys one by one may have taken it out
    private const uint Signals = 0x1, Canonical = 0x2, Echo = 0x8, EchoNewLine = 0x40;
    private const int Now = 0, Input = 0;

    /// <summary>Reads until the end of the line; the terminal is as before afterwards, also where that is interrupted.</summary>
    /// <returns>How many bytes there are; null where the input has ended.</returns>
    public static int? ReadLine(Span<byte> line)
    {
        var before = new byte[ModeBytes];
        var isTerminal = GetMode(Input, before) == 0;
        if (!isTerminal) return Read(line);
        var hidden = before.ToArray();
        var input = BitConverter.ToUInt32(hidden, InputFlagsAt);
        BitConverter.TryWriteBytes(hidden.AsSpan(InputFlagsAt), input | EnterIsNewLine);
        var flags = BitConverter.ToUInt32(hidden, LocalFlagsAt);
        BitConverter.TryWriteBytes(hidden.AsSpan(LocalFlagsAt), (flags | Signals | Canonical | EchoNewLine) & ~Echo);
        void Restore(PosixSignalContext context) => _ = SetMode(Input, Now, before);
        using var interrupted = PosixSignalRegistration.Create(PosixSignal.SIGINT, Restore);
        using var ended = PosixSignalRegistration.Create(PosixSignal.SIGTERM, Restore);
        using var hungUp = PosixSignalRegistration.Create(PosixSignal.SIGHUP, Restore);
        _ = SetMode(Input, Now, hidden);
        try
        {
            return Read(line);
        }
        finally
        {
            _ = SetMode(Input, Now, before);
        }
    }

    private static int? Read(Span<byte> line)
    {
        var count = 0;
        Span<byte> one = stackalloc byte[1];
        while (true)
        {
            if (ReadByte(Input, one, 1) <= 0) return count > 0 ? count : null;
            if (one[0] is (byte)'\n' or (byte)'\r') break;
            if (count < line.Length) line[count++] = one[0];
        }

        one.Clear();
        return count;
    }

    [LibraryImport("libc", EntryPoint = "tcgetattr")]
    private static partial int GetMode(int file, Span<byte> mode);

    [LibraryImport("libc", EntryPoint = "tcsetattr")]
    private static partial int SetMode(int file, int when, ReadOnlySpan<byte> mode);

    [LibraryImport("libc", EntryPoint = "read")]
    private static partial nint ReadByte(int file, Span<byte> bytes, nuint length);
}
