using Keel.Core.Blocks;

namespace Keel.Core.Layout;

/// <summary>One partition of a disk.</summary>
/// <param name="Number">From 1: primaries 1 to 4 by slot, logical ones from 5; GPT by entry.</param>
/// <param name="Range">Where it lies, in bytes from the start of the disk.</param>
/// <param name="MbrType">The type byte; 0 on GPT disks.</param>
/// <param name="GptType">The type GUID; empty on MBR disks.</param>
/// <param name="Id">The unique GUID; empty on MBR disks.</param>
/// <param name="Active">Marked to be started from (MBR).</param>
/// <param name="Logical">Inside an extended partition.</param>
/// <param name="Name">The partition's name on GPT disks.</param>
public sealed record Partition(
    int Number,
    ByteRange Range,
    byte MbrType,
    Guid GptType,
    Guid Id,
    bool Active,
    bool Logical,
    string Name)
{
    /// <summary>The attributes of its entry in a GPT, as the UEFI specification numbers them; 0 on MBR disks.</summary>
    public ulong Attributes { get; init; }

    /// <summary>The attribute by which Windows writes nothing to a basic data partition (bit 60).</summary>
    public const ulong ReadOnlyAttribute = 1UL << 60;

    /// <summary>The attribute by which Windows passes a basic data partition by (bit 62).</summary>
    public const ulong HiddenAttribute = 1UL << 62;

    /// <summary>Whether it only holds other partitions.</summary>
    public bool IsExtended =>
        !Logical && MbrType is PartitionTypes.Extended or PartitionTypes.ExtendedLba or PartitionTypes.ExtendedLinux;

    /// <summary>The words for its type.</summary>
    public string TypeName => GptType != default ? PartitionTypes.Name(GptType) : PartitionTypes.Name(MbrType);

    /// <summary>Whether its type is that of an EFI system partition.</summary>
    public bool IsEfiSystem => GptType == PartitionTypes.GptEfiSystem || MbrType == PartitionTypes.EfiSystem;
}
