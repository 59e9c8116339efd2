using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>The two headers of a VHDX, of which the newer whole one counts.</summary>
internal sealed class VhdxHeaders
{
    private const int FirstAt = 64 * 1024, SecondAt = 128 * 1024;
    private readonly IBackingFile file;
    private int current;

    private VhdxHeaders(IBackingFile file, VhdxHeaderRecord header, int current)
    {
        this.file = file;
        Current = header;
        this.current = current;
    }

    /// <summary>The header that counts.</summary>
    public VhdxHeaderRecord Current { get; private set; }

    /// <exception cref="Errors.UnreadableException">Neither is whole, or they are of a version that keel does not
    /// know.</exception>
    public static VhdxHeaders Read(IBackingFile file)
    {
        var (first, second) = (At(file, FirstAt), At(file, SecondAt));
        if (first is null && second is null) throw VirtualDiskErrors.Damaged("VHDX", "neither of its two headers is whole");
        var isSecond = first is null || second?.Sequence > first.Value.Sequence;
        var header = (isSecond ? second : first)!.Value;
        return header.Version == 1 && header.LogVersion == 0
            ? new VhdxHeaders(file, header, isSecond ? 1 : 0)
            : throw VirtualDiskErrors.Damaged("VHDX", $"it is of version {header.Version}.{header.LogVersion}, and 1.0 is known");
    }

    /// <summary>Writes a header that counts from then on, and waits until it is on stable storage.</summary>
    public void Become(VhdxHeaderRecord header)
    {
        header.Sequence = Current.Sequence + 1;
        header.Checksum = 0;
        var bytes = new byte[VhdxHeaderRecord.SummedBytes];
        bytes.Put(0, header);
        header.Checksum = VhdxChecksum.Of(bytes, VhdxHeaderRecord.ChecksumAt);
        bytes.Put(0, header);
        current = 1 - current;
        file.Write(current == 0 ? FirstAt : SecondAt, bytes);
        file.Flush();
        Current = header;
    }

    private static VhdxHeaderRecord? At(IReadableBlocks file, int at) =>
        file.TryReadAnyway(at, VhdxHeaderRecord.SummedBytes) is { } bytes
            && bytes.At<VhdxHeaderRecord>(0) is { Mark: VhdxHeaderRecord.MarkValue } header
            && VhdxChecksum.Of(bytes, VhdxHeaderRecord.ChecksumAt) == header.Checksum
            ? header
            : null;
}
