using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Firmware;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Mending;

/// <summary>Steps on the firmware's start entries that remedies take and people ask for.</summary>
public static class FirmwareSteps
{
    /// <summary>The title that the firmware's entry for Windows usually has.</summary>
    public const string UsualTitle = "Windows Boot Manager";

    /// <summary>
    /// Adds an entry for the boot manager on the system volume; where there is one already, that one is put in its place.
    /// </summary>
    public static Step AddWindows(Machine machine, string title, bool last, string findingId)
    {
        var variables = machine.Variables!;
        if (machine.Firmware != FirmwareKind.Uefi || machine.SystemVolume is not { } system)
        {
            throw new RefusedException("No entry was added.", "", "Run 'keel diagnose' on the disk first.")
            {
                Reason = machine.Firmware == FirmwareKind.Uefi
                    ? machine.SystemVolumeReason
                    : Remark.Of("uefi-finds-nothing", Fact.Reason.Is(machine.FirmwareReason))
            };
        }

        var place = HardDrivePlace.Of(system.DiskIdentity, system.Partition, system.Blocks.SectorBytes);
        var existing = StartEntry.Of(machine).FirstOrDefault(entry => entry.IsWindowsOf(machine));
        var number = existing?.Number ?? variables.Add(LoadOption.OfWindows(title, place, BootFiles.Uefi.ManagerPath));
        if (existing is { Option: { IsActive: false } option })
            variables.SetEntry(number, option with { Attributes = option.Attributes | LoadOption.ActiveBit });
        var others = variables.Order.Where(other => other != number);
        variables.Order = last ? [.. others, number] : [number, .. others];
        var name = FirmwareVariables.ShortName(number);
        return new Step(
            Link.FirmwareEntry,
            findingId,
            Remark.Of(
                existing is null ? "step.add-firmware-entry" : "step.place-firmware-entry",
                Fact.FirmwareEntry.Is(name),
                Fact.Title.Is(existing?.Title ?? title),
                Fact.IsLast.Is(last)),
            Remark.Of(
                "line.firmware-entry",
                Fact.FirmwareEntry.Is(name),
                Fact.Path.Is(BootFiles.Uefi.ManagerPath),
                Fact.Volume.Is(system.Ref),
                Fact.Identity.Is($"{system.Partition.Id}")),
            OrderLine(variables));
    }

    /// <summary>The start order as it is now.</summary>
    internal static Remark OrderLine(FirmwareVariables variables) => Remark.Of(
        "line.start-order",
        Fact.Names.Is([.. variables.Order.Select(number =>
            $"{FirmwareVariables.ShortName(number)[4..]} {variables.Entry(number)?.Title}".TrimEnd())]));

    /// <summary>An entry, and where it leads.</summary>
    internal static Remark EntryLine(StartEntry entry) =>
        Remark.Of("line.entry", Fact.FirmwareEntry.Is(entry.Name), Fact.Title.Is(entry.Title), Fact.Said.Is(entry.Describe()));
}
