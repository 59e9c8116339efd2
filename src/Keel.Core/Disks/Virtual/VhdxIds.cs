namespace Keel.Core.Disks.Virtual;

/// <summary>How VHDX names its regions and items (MS-VHDX 2.2.3.2 and 2.6.2).</summary>
internal static class VhdxIds
{
    public static readonly Guid BlockTable = new("2DC27766-F623-4200-9D64-115E9BFD4A08");
    public static readonly Guid Metadata = new("8B7CA206-4790-4B9A-B8FE-575F050F886E");
    public static readonly Guid FileParameters = new("CAA16737-FA36-4D43-B3B6-33F0AA44E76B");
    public static readonly Guid DiskBytes = new("2FA54224-CD1B-4876-B211-5DBED83BF4B8");
    public static readonly Guid DiskId = new("BECA12AB-B2E6-4523-93EF-C309E000C746");
    public static readonly Guid LogicalSector = new("8141BF1D-A96F-4709-BA47-F233A8FAAB5F");
    public static readonly Guid PhysicalSector = new("CDA348C7-445D-4471-9CC9-E9885251C556");
    public static readonly Guid Parent = new("A8D35F2D-B30B-454D-ABF7-D3D84834AB0C");
    public static readonly Guid ParentIsVhdx = new("B04AEFB7-D19E-4A81-B789-25B8E9445913");
}
