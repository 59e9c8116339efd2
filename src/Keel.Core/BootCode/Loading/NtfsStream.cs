namespace Keel.Core.BootCode.Loading;

/// <summary>A stream as boot code opens it.</summary>
internal sealed class NtfsStream
{
    public long LengthBytes { get; set; }

    public ushort Flags { get; set; }

    /// <summary>The contents where they lie in the record itself; null where they are in runs.</summary>
    public byte[]? Resident { get; set; }

    public List<NtfsRun> Runs { get; } = [];
}
