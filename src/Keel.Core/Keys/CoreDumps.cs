using System.Runtime.InteropServices;

namespace Keel.Core.Keys;

/// <summary>Keeps the kernel from writing this process to a file when it dies, and others from looking into it.</summary>
internal static partial class CoreDumps
{
    private const int SetDumpable = 4;                      // PR_SET_DUMPABLE, linux/prctl.h
    private const int CoreLimit = 4;                        // RLIMIT_CORE

    /// <summary>From here on; asked for as often as anybody likes.</summary>
    public static void Forbid()
    {
        _ = Control(SetDumpable, 0, 0, 0, 0);
        _ = Limit(CoreLimit, [0, 0]);
    }

    [LibraryImport("libc", EntryPoint = "prctl")]
    private static partial int Control(int option, nuint value, nuint second, nuint third, nuint fourth);

    [LibraryImport("libc", EntryPoint = "setrlimit")]
    private static partial int Limit(int resource, ReadOnlySpan<ulong> limits);
}
