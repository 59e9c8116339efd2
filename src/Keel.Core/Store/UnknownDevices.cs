using Keel.Core.Errors;

namespace Keel.Core.Store;

/// <summary>Device names for a store file by itself, without the disks that it speaks of.</summary>
public sealed class UnknownDevices : IDeviceNames
{
    /// <summary>The word for the disk that the firmware started from.</summary>
    public const string StartedFrom = "started-from";

    /// <inheritdoc/>
    public string Describe(BootDevice device) => device.IsStartedFrom ? StartedFrom : device.ToString();

    /// <inheritdoc/>
    public BootDevice Parse(string words) => words.Equals(StartedFrom, StringComparison.OrdinalIgnoreCase)
        ? BootDevice.StartedFrom()
        : throw new WrongUsageException(
            $"\"{words}\" names no device here.",
            "The store stands by itself, so volumes are not known.",
            "Write started-from, or work on the store inside its disk.");
}
