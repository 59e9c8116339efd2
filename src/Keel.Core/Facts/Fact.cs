namespace Keel.Core.Facts;

/// <summary>
/// Every fact that keel tells of, by its name. Sizes are in bytes; sectors and clusters are counted from 0, partitions and slots
/// from 1.
/// </summary>
public static class Fact
{
    public static readonly FactKey<VolumeRef> Volume = new("volume");
    public static readonly FactKey<string> Path = new("path");

    /// <summary>The other path: of a copy, of a file that is meant instead.</summary>
    public static readonly FactKey<string> OtherPath = new("otherPath");
    public static readonly FactKey<string> Folder = new("folder");
    public static readonly FactKey<string> Disk = new("disk");
    public static readonly FactKey<string> OtherDisk = new("otherDisk");

    /// <summary>Disk signature or GUID.</summary>
    public static readonly FactKey<string> Identity = new("identity");
    public static readonly FactKey<string> Scheme = new("scheme");
    public static readonly FactKey<int> Partition = new("partition");
    public static readonly FactKey<int> OtherPartition = new("otherPartition");
    public static readonly FactKey<IReadOnlyList<int>> Partitions = new("partitions");
    public static readonly FactKey<int> PartitionCount = new("partitionCount");

    /// <summary>What a partition says that it is.</summary>
    public static readonly FactKey<string> Type = new("type");
    public static readonly FactKey<int> Slot = new("slot");

    /// <summary>A byte, in hexadecimal.</summary>
    public static readonly FactKey<string> Mark = new("mark");
    public static readonly FactKey<long> Sector = new("sector");
    public static readonly FactKey<long> LastSector = new("lastSector");
    public static readonly FactKey<int> SectorCount = new("sectorCount");

    /// <summary>Sectors with the volume that each is in.</summary>
    public static readonly FactKey<IReadOnlyList<Remark>> Sectors = new("sectors");
    public static readonly FactKey<int> SectorBytes = new("sectorBytes");
    public static readonly FactKey<long> AtByte = new("atByte");
    public static readonly FactKey<IReadOnlyList<long>> AtBytes = new("atBytes");
    public static readonly FactKey<long> EndByte = new("endByte");
    public static readonly FactKey<long> DiskBytes = new("diskBytes");
    public static readonly FactKey<string> FileSystem = new("fileSystem");

    /// <summary>The file system of a backup boot sector that was found.</summary>
    public static readonly FactKey<string> Backup = new("backup");
    public static readonly FactKey<long> HiddenSectors = new("hiddenSectors");
    public static readonly FactKey<long> Cluster = new("cluster");
    public static readonly FactKey<long> MirrorCluster = new("mirrorCluster");
    public static readonly FactKey<long> OwnCluster = new("ownCluster");
    public static readonly FactKey<long> OwnMirrorCluster = new("ownMirrorCluster");
    public static readonly FactKey<int> Record = new("record");
    public static readonly FactKey<bool> IsWhole = new("isWhole");
    public static readonly FactKey<bool> MirrorIsWhole = new("mirrorIsWhole");
    public static readonly FactKey<bool> IsReadable = new("isReadable");
    public static readonly FactKey<bool> TablesDiffer = new("tablesDiffer");

    /// <summary>Whose boot code it is.</summary>
    public static readonly FactKey<string> Code = new("code");
    public static readonly FactKey<long> SizeBytes = new("sizeBytes");
    public static readonly FactKey<long> NeededBytes = new("neededBytes");
    public static readonly FactKey<long> FreeBytes = new("freeBytes");
    public static readonly FactKey<bool> IsCompressed = new("isCompressed");
    public static readonly FactKey<IReadOnlyList<Remark>> Files = new("files");
    public static readonly FactKey<int> FileCount = new("fileCount");
    public static readonly FactKey<string> Attributes = new("attributes");
    public static readonly FactKey<string> Processor = new("processor");
    public static readonly FactKey<string> OtherProcessor = new("otherProcessor");

    /// <summary>What the content of a program says of itself.</summary>
    public static readonly FactKey<Remark> Content = new("content");
    public static readonly FactKey<string> Signer = new("signer");
    public static readonly FactKey<DateTimeOffset> Expires = new("expires");
    public static readonly FactKey<DateTimeOffset> Written = new("written");

    /// <summary>The file that needs another.</summary>
    public static readonly FactKey<string> NeededBy = new("neededBy");
    public static readonly FactKey<string> Driver = new("driver");

    /// <summary>Whether Windows starts without it.</summary>
    public static readonly FactKey<bool> MayFail = new("mayFail");

    /// <summary>Drivers with how each starts.</summary>
    public static readonly FactKey<IReadOnlyList<Remark>> Drivers = new("drivers");
    public static readonly FactKey<string> Start = new("start");
    public static readonly FactKey<int> BootDrivers = new("bootDrivers");
    public static readonly FactKey<int> SystemDrivers = new("systemDrivers");
    public static readonly FactKey<string> ControlSet = new("controlSet");
    public static readonly FactKey<IReadOnlyList<string>> ControlSets = new("controlSets");
    public static readonly FactKey<string> Entry = new("entry");
    public static readonly FactKey<IReadOnlyList<string>> Entries = new("entries");
    public static readonly FactKey<int> EntryCount = new("entryCount");
    public static readonly FactKey<string> Title = new("title");

    /// <summary>The firmware's name of an entry, such as Boot0003.</summary>
    public static readonly FactKey<string> FirmwareEntry = new("firmwareEntry");
    public static readonly FactKey<string> OtherFirmwareEntry = new("otherFirmwareEntry");
    public static readonly FactKey<string> OtherTitle = new("otherTitle");

    /// <summary>Entries of the firmware with their titles.</summary>
    public static readonly FactKey<IReadOnlyList<Remark>> FirmwareEntries = new("firmwareEntries");
    public static readonly FactKey<bool> IsInOrder = new("isInOrder");

    /// <summary>A disk or partition as the store names it.</summary>
    public static readonly FactKey<string> Device = new("device");
    public static readonly FactKey<string> Setting = new("setting");
    public static readonly FactKey<string> Firmware = new("firmware");
    public static readonly FactKey<uint> Sequence = new("sequence");
    public static readonly FactKey<uint> OtherSequence = new("otherSequence");
    public static readonly FactKey<int> Build = new("build");
    public static readonly FactKey<string> Product = new("product");

    /// <summary>The reason, where it is a remark of its own.</summary>
    public static readonly FactKey<Remark> Reason = new("reason");

    /// <summary>What a reader met, in its own words.</summary>
    public static readonly FactKey<string> Said = new("said");
    public static readonly FactKey<string> What = new("what");
    public static readonly FactKey<string> Why = new("why");

    /// <summary>What to do.</summary>
    public static readonly FactKey<string> Todo = new("todo");
    /// <summary>How it was, where that is a word.</summary>
    public static readonly FactKey<string> Before = new("before");
    /// <summary>How it is to be, where that is a word.</summary>
    public static readonly FactKey<string> After = new("after");
    public static readonly FactKey<long> NumberBefore = new("numberBefore");
    public static readonly FactKey<long> NumberAfter = new("numberAfter");
    public static readonly FactKey<long> MirrorBefore = new("mirrorBefore");
    public static readonly FactKey<long> MirrorAfter = new("mirrorAfter");
    public static readonly FactKey<long> SectorsBefore = new("sectorsBefore");
    public static readonly FactKey<long> SectorsAfter = new("sectorsAfter");
    public static readonly FactKey<bool> IsActive = new("isActive");
    public static readonly FactKey<bool> IsLast = new("isLast");
    /// <summary>Whether the first of two is meant: the first table, $MFT itself.</summary>
    public static readonly FactKey<bool> IsFirst = new("isFirst");
    public static readonly FactKey<int> Seconds = new("seconds");
    public static readonly FactKey<string> Serial = new("serial");
    public static readonly FactKey<string> Label = new("label");
    public static readonly FactKey<string> Signature = new("signature");
    /// <summary>Where copies come from.</summary>
    public static readonly FactKey<string> Source = new("source");
    /// <summary>What a line under a step says of a file.</summary>
    public static readonly FactKey<Remark> Change = new("change");
    public static readonly FactKey<int> InstallationCount = new("installationCount");
    public static readonly FactKey<int> VolumeCount = new("volumeCount");
    public static readonly FactKey<bool> IsListed = new("isListed");
    public static readonly FactKey<bool> IsLeftOut = new("isLeftOut");
    public static readonly FactKey<string> Version = new("version");
    public static readonly FactKey<string> OtherVersion = new("otherVersion");
    public static readonly FactKey<string> Loader = new("loader");
    public static readonly FactKey<IReadOnlyList<string>> Disks = new("disks");
    public static readonly FactKey<IReadOnlyList<string>> Names = new("names");
    public static readonly FactKey<string> Link = new("link");
    public static readonly FactKey<string> Exception = new("exception");
    public static readonly FactKey<DateTimeOffset> LastWritten = new("lastWritten");
}
