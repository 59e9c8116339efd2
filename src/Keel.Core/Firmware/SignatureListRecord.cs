using System.Runtime.InteropServices;

namespace Keel.Core.Firmware;

/// <summary>The head of a list in a signature database: 28 bytes (UEFI specification, "EFI_SIGNATURE_LIST").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct SignatureListRecord
{
    public const int Size = 28;

    public Guid Kind;                       // what each of its signatures is
    public uint ListBytes;                  // this head included
    public uint HeaderBytes;                // between this head and the first signature
    public uint SignatureBytes;             // of each signature, its owner's GUID included
}
