namespace Keel.Core.History;

/// <summary>Where the facts stand in the header of a crash dump; offsets in bytes.</summary>
/// <param name="Mark">The first eight bytes.</param>
/// <param name="CodeAt">The stop code, 32 bits.</param>
/// <param name="ParametersAt">Its four parameters.</param>
/// <param name="ParameterBytes">The size of each.</param>
/// <param name="TimeAt">When it stopped, a FILETIME.</param>
internal sealed record CrashDumpForm(string Mark, int CodeAt, int ParametersAt, int ParameterBytes, int TimeAt)
{
    /// <summary>How much of a dump is read.</summary>
    public const int HeaderBytes = 0x1000;

    public static readonly CrashDumpForm Long = new("PAGEDU64", 0x38, 0x40, sizeof(ulong), 0xFA8);

    public static readonly CrashDumpForm Short = new("PAGEDUMP", 0x28, 0x2C, sizeof(uint), 0xFC0);
}
