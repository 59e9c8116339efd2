using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Firmware;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Cli.Views;

/// <summary>Shows what is on a machine's disks.</summary>
internal sealed class SurveyView(Output output)
{
    /// <param name="cutOff">The repair of the machine that was cut off, by its id; it has been told.</param>
    public void Show(Machine machine, string? cutOff = null)
    {
        if (output.IsJson)
        {
            KeelJson.Print(ToDocument.Survey(machine, cutOff), KeelJson.Default.SurveyDocument);
            return;
        }

        if (HasNoTable(machine))
        {
            output.Paragraph(
                $"No partition table was found on {output.Commands.AsTyped(machine.StartDisk.Path)}: "
                    + $"{machine.StartDisk.Layout.Problems.Select(problem => Words.Of(problem.Seen)).FirstOrDefault()}.",
                style: "bold");
            foreach (var disk in machine.Disks) ShowDisk(machine, disk);
            return;
        }

        machine.Inside.FindAll();
        output.Paragraph($"Starts through {FirmwareName(machine.Firmware)}: {Words.Of(machine.FirmwareReason)}.", style: "bold");
        output.Paragraph(
            machine.SystemVolume is { } system
                ? $"The system volume is {system}: {Words.Of(machine.SystemVolumeReason)}."
                : $"There is no system volume: {Words.Of(machine.SystemVolumeReason)}.");
        if (machine.Nt5Evidence is { } evidence) output.Paragraph($"It is a machine of NT 5: {Words.Of(evidence)}.");
        ShowSecureBoot(machine.SecureBoot);
        foreach (var disk in machine.Disks) ShowDisk(machine, disk);
        ShowInstallations(machine);
    }

    /// <summary>What Secure Boot means for the disk: the boot manager's file has to be signed, boot code has not.</summary>
    private void ShowSecureBoot(SecureBoot firmware)
    {
        if (firmware.IsOn is not { } isOn) return;
        output.Paragraph(isOn
            ? "Secure Boot is on: the firmware starts a boot manager only where it is signed by one of "
                + $"{Words.Count(firmware.Allowed.Certificates.Count, "key", "keys")} that it knows. Boot code in the "
                + "disk's first sectors does not matter to it, neither keel's nor another's."
            : "Secure Boot is off: the firmware starts what it finds, signed or not.");
    }

    /// <summary>Whether the disk that is started has no table that could be read: nothing tells what is on it.</summary>
    public static bool HasNoTable(Machine machine) => machine.StartDisk.Layout.Scheme == PartitionScheme.None;

    internal static string FirmwareName(FirmwareKind firmware) => firmware == FirmwareKind.Bios ? "BIOS" : "UEFI";

    private void ShowDisk(Machine machine, MachineDisk disk)
    {
        var layout = disk.Layout;
        var scheme = layout.Scheme.ToString().ToUpperInvariant();
        var table = layout.Scheme == PartitionScheme.None ? "no partition table" : $"{scheme}, disk {layout.Identity}";
        var identified = ComputerView.Identified(disk.Traits) is { Length: > 0 } words ? $", {words}" : "";
        var path = disk.Inside is { } inside
            ? $"{output.Commands.AsTyped(inside.Host.Path)}, {inside.Place}"
            : output.Commands.AsTyped(disk.Path);
        output.Heading($"{path}: {Sizes.Text(disk.Overlay.LengthBytes)}, {FormOf(disk)}{table}{identified}");
        var rows = new List<(string, string?)[]>();
        if (disk.Volumes.Count > 0)
        {
            rows.Add([
                ("vol", "grey"),
                ("size", "grey"),
                ("type", "grey"),
                ("", null),
                ("files", "grey"),
                ("Windows says", "grey"),
                ("role, label", "grey")
            ]);
        }

        rows.AddRange(disk.Volumes.Select(volume => Row(machine, volume)));
        output.Columns(rows);
        foreach (var problem in layout.Problems)
            output.Paragraph($"! {Words.Of(problem.Seen)}", indent: 2, style: "yellow", hang: 2);
        foreach (var volume in disk.Volumes.Where(volume => volume.IsEncrypted)) ShowEncryption(volume);
        foreach (var volume in disk.Volumes.Where(volume => volume.FilesProblem is not null))
            output.Paragraph($"! {volume.FilesProblem!.What} {volume.FilesProblem.Why}", indent: 2, style: "yellow", hang: 2);
    }

    /// <summary>What an encrypted volume says of itself: by the digits of the recovery key a helpdesk looks it up.</summary>
    private void ShowEncryption(DiskVolume volume)
    {
        output.Paragraph(
            $"{(volume.Encryption is null ? "! " : "")}{volume}: {EncryptionWords.Line(volume)}",
            indent: 2,
            style: volume.Encryption is null ? "yellow" : null,
            hang: 2);
        if (EncryptionWords.Opened(volume) is { } opened) output.Paragraph(opened, indent: 4, hang: 2);
        if (volume.Encryption is { Description: { Length: > 0 } description })
            output.Paragraph($"encrypted as \"{output.Escape(description)}\"", indent: 4, hang: 2);
    }

    /// <summary>The form of a disk whose bytes don't lie open.</summary>
    private static string FormOf(MachineDisk disk) => disk.Form switch
    {
        DiskForm.Vhd => "VHD, ",
        DiskForm.Vhdx => "VHDX, ",
        DiskForm.Served => "served by a helper, ",
        DiskForm.Remote => "over NBD, ",
        _ => ""
    };

    private static (string, string?)[] Row(Machine machine, DiskVolume volume)
    {
        var roles = string.Join(" + ", VolumeRoles.Of(machine, volume).Select(role => ToDocument.Word(role)));
        var label = volume.Files?.Label is { Length: > 0 } text ? $" \"{text}\"" : "";
        return
        [
            ($"{volume.Number}", "bold"),
            (Sizes.Text(volume.Partition.Range.Length), null),
            (volume.Partition.TypeName, null),
            (volume.Partition.Active ? "active" : "", "green"),
            (FileSystemProbe.Name(volume.Kind) is { Length: > 0 } name ? name : "-", null),
            (machine.Letters?.LetterOf(volume) ?? "-", null),
            (roles + label, null)
        ];
    }

    private void ShowInstallations(Machine machine)
    {
        output.Heading($"Windows installations: {EncryptionWords.Counted(machine)}");
        foreach (var found in machine.Installations)
        {
            var isElsewhere = machine.NamedDisks.Count > 1 && found.Volume.InFile is null;
            var disk = isElsewhere ? $" of {found.Volume.DiskPath}" : "";
            output.Paragraph(
                $"{found.Product}{(found.Build > 0 ? $", build {found.Build}" : "")}, in {found.Folder} on {found.Volume}{disk}",
                indent: 2,
                hang: 2);
        }

        foreach (var image in RecoveryPlaces.Of(machine))
        {
            var off = image.Settings.IsOff ? ", switched off" : "";
            output.Paragraph($"Recovery environment: {image.File} on {image.Volume}{off}", indent: 2, hang: 2);
        }

        if (!machine.LockedVolumes.Any(volume => volume.Encryption is { IsWhole: true })) return;
        output.Line();
        output.Paragraph("With the recovery key at hand:");
        output.Command($"{output.Commands.Survey(machine)} --unlock -");
    }
}
