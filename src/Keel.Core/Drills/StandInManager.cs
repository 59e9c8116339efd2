using System.Buffers.Binary;
using System.Reflection.PortableExecutable;
using Keel.Core.BootCode;

namespace Keel.Core.Drills;

/// <summary>
/// The boot manager of practice disks: code that checks what boot code promises it, and behind it a program file with a version.
/// </summary>
internal static class StandInManager
{
    private const int LengthAt = 12, SumAt = 16;

    /// <summary>The bytes of \bootmgr.</summary>
    /// <param name="version">The version that the file says.</param>
    /// <param name="bodyBytes">How much filling; none gives the smallest file.</param>
    public static byte[] MakeBios(string version, int bodyBytes = 120_000)
    {
        byte[] file = [
            .. KeelBootCode.StandIn(),
            .. StandInProgram.Make("bootmgr.exe", version, Subsystem.WindowsBootApplication, bodyBytes: bodyBytes)
        ];
        return Seal(file);
    }

    /// <summary>The bytes of bootmgfw.efi: an EFI program that sums its code up and says how it was reached.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="version">The version that the file says.</param>
    /// <param name="machine">What processor it says it is for; it runs on x86-64.</param>
    public static byte[] MakeEfi(string name, string version, Machine machine = Machine.Amd64) =>
        StandInProgram.Make(
            name,
            version,
            Subsystem.EfiApplication,
            machine,
            bodyBytes: 60_000,
            start: KeelBootCode.StandInEfi(),
            finish: code => Seal(code));

    /// <summary>Only the code: small enough to be kept in its file record where those are large.</summary>
    public static byte[] MakeSmallest() => Seal(KeelBootCode.StandIn());

    /// <summary>Fills in the length of the file and the sum of its words; its bytes are a multiple of four.</summary>
    internal static byte[] Seal(byte[] file)
    {
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(LengthAt), file.Length);
        BinaryPrimitives.WriteUInt32LittleEndian(file.AsSpan(SumAt), 0);
        uint sum = 0;
        for (var at = 0; at < file.Length; at += sizeof(uint)) sum += BinaryPrimitives.ReadUInt32LittleEndian(file.AsSpan(at));
        BinaryPrimitives.WriteUInt32LittleEndian(file.AsSpan(SumAt), sum);
        return file;
    }
}
