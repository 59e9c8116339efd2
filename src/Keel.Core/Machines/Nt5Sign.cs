using Keel.Core.BootCode;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>
/// What shows that a machine starts through the loader of NT 5, and not through a boot manager that is missing.
/// </summary>
/// <param name="Evidence">What was seen; null for a machine of NT 6 and later, and where nothing tells.</param>
internal sealed record Nt5Sign(Remark? Evidence)
{
    internal static readonly string[] Files = [@"\ntldr", @"\boot.ini", @"\NTDETECT.COM"];
    private static readonly Nt5Sign None = new(default(Remark));

    public static Nt5Sign Of(Machine machine)
    {
        if (machine.Firmware != FirmwareKind.Bios) return None;
        var primary = machine.StartDisk.Volumes.Where(volume => !volume.Partition.Logical).ToList();
        if (primary.Exists(volume => SystemVolumeChoice.HoldsBootFiles(volume, BootFiles.Bios))
            || machine.Installations.Any(installation => !installation.IsNt5))
        {
            return None;
        }

        return new Nt5Sign(
            primary.Select(OfVolume).OfType<Remark>().FirstOrDefault()
                ?? machine.Installations
                    .Where(installation => installation.Build > 0)
                    .Select(installation =>
                        Remark.Of(
                            "nt5-machine.installation",
                            Fact.Product.Is($"{installation}"),
                            Fact.Build.Is(installation.Build)))
                    .FirstOrDefault());
    }

    private static Remark? OfVolume(DiskVolume volume)
    {
        try
        {
            if (volume.Files is { } files && Array.Find(Files, files.FileExists) is { } found)
                return Remark.Of("nt5-machine", Fact.Path.Is(found), Fact.Volume.Is(volume.Ref));
            return BootSectorCopy.Recognize(volume.Blocks, volume.Kind) is { Loader: LoaderKind.Nt5Loader }
                ? Remark.Of("nt5-machine.code", Fact.Volume.Is(volume.Ref))
                : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
