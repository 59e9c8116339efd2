using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>Device names by the volumes of a machine.</summary>
public sealed class MachineDevices(Machine machine) : IDeviceNames
{
    private const string VolumePrefix = "volume:", FilePrefix = "file:", InsidePrefix = "inside:", RamdiskPrefix = "ramdisk:";

    /// <inheritdoc/>
    public string Describe(BootDevice device)
    {
        if (device.IsStartedFrom) return UnknownDevices.StartedFrom;
        if (device.IsSearch) return $"{device}";
        if (device.AsVirtual() is { } lies)
        {
            var holder = Describe(lies.Holder);
            var isKnown = holder.StartsWith(VolumePrefix, StringComparison.Ordinal);
            return $"{InsidePrefix}{(isKnown ? holder[VolumePrefix.Length..] : holder)}:{lies.File}";
        }

        if (device.AsFile() is { } file)
        {
            var inner = Describe(file.Inner);
            var prefix = file.IsRamdisk ? RamdiskPrefix : FilePrefix;
            var place = inner.StartsWith(VolumePrefix, StringComparison.Ordinal) ? inner[VolumePrefix.Length..] : inner;
            return $"{prefix}{place}:{file.Path}";
        }

        return machine.VolumeOf(device) is { } volume ? Name(volume) : $"{device} (not here)";
    }

    /// <inheritdoc/>
    public BootDevice Parse(string words)
    {
        if (words.Equals(UnknownDevices.StartedFrom, StringComparison.OrdinalIgnoreCase)) return BootDevice.StartedFrom();
        if (words.StartsWith(InsidePrefix, StringComparison.OrdinalIgnoreCase)
            && InsidePath.TryParse(words[InsidePrefix.Length..]) is { } inside)
        {
            return machine.DeviceOf(InsideMachine.WindowsVolume(machine, inside));
        }

        if (words.StartsWith(FilePrefix, StringComparison.OrdinalIgnoreCase)
            && words.IndexOf(@":\", StringComparison.Ordinal) is var at and > 0)
        {
            return BootDevice.OfFile(Parse(VolumePrefix + words[FilePrefix.Length..at]), words[(at + 1)..]);
        }

        if (words.StartsWith(RamdiskPrefix, StringComparison.OrdinalIgnoreCase)
            && words.IndexOf(@":\", StringComparison.Ordinal) is var end and > 0)
        {
            var holder = Parse(VolumePrefix + words[RamdiskPrefix.Length..end]);
            return BootDevice.OfRamdisk(EntryId.OptionsOfRamdisks, holder, words[(end + 1)..]);
        }

        var isShort = words.Length > 0 && char.IsAsciiDigit(words[0]);
        if (isShort || words.StartsWith(VolumePrefix, StringComparison.OrdinalIgnoreCase))
        {
            var parts = (isShort ? words : words[VolumePrefix.Length..]).Split('@', 2);
            var disk = parts.Length == 1
                ? machine.StartDisk
                : machine.Disks.FirstOrDefault(candidate =>
                    candidate.Path == parts[1] || Path.GetFileName(candidate.Path) == parts[1]);
            if (int.TryParse(parts[0], out var number)
                && disk?.Volumes.FirstOrDefault(candidate => candidate.Number == number) is { } volume)
            {
                return machine.DeviceOf(volume);
            }
        }

        throw new WrongUsageException(
            $"\"{words}\" names no device here.",
            $"There are {string.Join(", ", machine.Volumes.Select(Name).DefaultIfEmpty("no volumes"))}, and started-from.",
            "Write one of these; 'keel survey' shows what they hold.");
    }

    private string Name(DiskVolume volume) =>
        $"{VolumePrefix}{volume.Number}{(machine.NamedDisks.Count > 1 ? $"@{Path.GetFileName(volume.DiskPath)}" : "")}";
}
