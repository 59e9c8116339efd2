using System.Reflection.PortableExecutable;

namespace Keel.Core.Windows;

/// <summary>
/// The file that UEFI firmware starts where no entry leads anywhere (UEFI specification, "Removable Media Boot Behavior").
/// </summary>
public static class FallbackFile
{
    /// <summary>The folder where firmware looks on any disk (UEFI specification, "Removable Media Boot Behavior").</summary>
    public const string Folder = @"\EFI\Boot";

    /// <param name="processor">The processor of the machine; null for x86-64.</param>
    public static string PathFor(Machine? processor) => Folder + processor switch
    {
        Machine.I386 => @"\bootia32.efi",
        Machine.Arm64 => @"\bootaa64.efi",
        Machine.ArmThumb2 => @"\bootarm.efi",
        _ => @"\bootx64.efi"
    };
}
