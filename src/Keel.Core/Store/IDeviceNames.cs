namespace Keel.Core.Store;

/// <summary>Turns device values into words and back, by the volumes that are known.</summary>
public interface IDeviceNames
{
    /// <summary>Such as "volume:2", "started-from", or words for a device that isn't here.</summary>
    string Describe(BootDevice device);

    /// <summary>The device that the words name.</summary>
    /// <exception cref="Errors.WrongUsageException">They name none.</exception>
    BootDevice Parse(string words);
}
