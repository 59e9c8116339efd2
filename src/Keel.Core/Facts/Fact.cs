namespace Keel.Core.Facts;

/// <summary>
/// Every fact that keel tells of, by its name. Sizes are in bytes; sectors and clusters are counted from 0, partitions and slots
/// from 1.
/// </summary>
public static class Fact
{
    /// <summary>The volume that it is about.</summary>
    public static readonly FactKey<VolumeRef> Volume = new("volume");

    /// <summary>Another volume that it is about.</summary>
    public static readonly FactKey<VolumeRef> OtherVolume = new("otherVolume");

    /// <summary>How many bytes differ.</summary>
    public static readonly FactKey<int> DifferentBytes = new("differentBytes");

    /// <summary>Settings of an entry, by their names.</summary>
    public static readonly FactKey<IReadOnlyList<string>> Settings = new("settings");

    /// <summary>Installations, each in words.</summary>
    public static readonly FactKey<IReadOnlyList<string>> Installations = new("installations");

    /// <summary>The path of a file on the volume.</summary>
    public static readonly FactKey<string> Path = new("path");

    /// <summary>The other path: of a copy, of a file that is meant instead.</summary>
    public static readonly FactKey<string> OtherPath = new("otherPath");

    /// <summary>A folder on the volume.</summary>
    public static readonly FactKey<string> Folder = new("folder");

    /// <summary>The path of a disk or image.</summary>
    public static readonly FactKey<string> Disk = new("disk");

    /// <summary>The path of another disk or image.</summary>
    public static readonly FactKey<string> OtherDisk = new("otherDisk");

    /// <summary>Disk signature or GUID.</summary>
    public static readonly FactKey<string> Identity = new("identity");

    /// <summary>The scheme of a partition table, mbr or gpt.</summary>
    public static readonly FactKey<string> Scheme = new("scheme");

    /// <summary>The number of a partition.</summary>
    public static readonly FactKey<int> Partition = new("partition");

    /// <summary>The number of another partition.</summary>
    public static readonly FactKey<int> OtherPartition = new("otherPartition");

    /// <summary>The numbers of several partitions.</summary>
    public static readonly FactKey<IReadOnlyList<int>> Partitions = new("partitions");

    /// <summary>How many partitions.</summary>
    public static readonly FactKey<int> PartitionCount = new("partitionCount");

    /// <summary>What a partition says that it is.</summary>
    public static readonly FactKey<string> Type = new("type");

    /// <summary>A slot of a partition table.</summary>
    public static readonly FactKey<int> Slot = new("slot");

    /// <summary>A byte, in hexadecimal.</summary>
    public static readonly FactKey<string> Mark = new("mark");

    /// <summary>A sector of the disk.</summary>
    public static readonly FactKey<long> Sector = new("sector");

    /// <summary>The last sector of a range.</summary>
    public static readonly FactKey<long> LastSector = new("lastSector");

    /// <summary>How many sectors.</summary>
    public static readonly FactKey<int> SectorCount = new("sectorCount");

    /// <summary>Sectors with the volume that each is in.</summary>
    public static readonly FactKey<IReadOnlyList<Remark>> Sectors = new("sectors");

    /// <summary>The size of a sector, in bytes.</summary>
    public static readonly FactKey<int> SectorBytes = new("sectorBytes");

    /// <summary>An offset, in bytes.</summary>
    public static readonly FactKey<long> AtByte = new("atByte");

    /// <summary>Several offsets, in bytes.</summary>
    public static readonly FactKey<IReadOnlyList<long>> AtBytes = new("atBytes");

    /// <summary>Where something ends, in bytes: the first byte behind it.</summary>
    public static readonly FactKey<long> EndByte = new("endByte");

    /// <summary>The size of the disk, in bytes.</summary>
    public static readonly FactKey<long> DiskBytes = new("diskBytes");

    /// <summary>The name of a file system.</summary>
    public static readonly FactKey<string> FileSystem = new("fileSystem");

    /// <summary>The file system of a backup boot sector that was found.</summary>
    public static readonly FactKey<string> Backup = new("backup");

    /// <summary>How many sectors the boot sector says that lie before the volume.</summary>
    public static readonly FactKey<long> HiddenSectors = new("hiddenSectors");

    /// <summary>How many clusters.</summary>
    public static readonly FactKey<int> ClusterCount = new("clusterCount");

    /// <summary>The first cluster of the master file table.</summary>
    public static readonly FactKey<long> Cluster = new("cluster");

    /// <summary>The first cluster of the mirror of the master file table.</summary>
    public static readonly FactKey<long> MirrorCluster = new("mirrorCluster");

    /// <summary>The first cluster of the master file table, by its own record.</summary>
    public static readonly FactKey<long> OwnCluster = new("ownCluster");

    /// <summary>The first cluster of the mirror, by its own record.</summary>
    public static readonly FactKey<long> OwnMirrorCluster = new("ownMirrorCluster");

    /// <summary>The number of a record of the master file table.</summary>
    public static readonly FactKey<int> Record = new("record");

    public static readonly FactKey<bool> IsWhole = new("isWhole");

    public static readonly FactKey<bool> MirrorIsWhole = new("mirrorIsWhole");

    /// <summary>Whether it can be read.</summary>
    public static readonly FactKey<bool> IsReadable = new("isReadable");

    /// <summary>Whether the two copies of a table differ.</summary>
    public static readonly FactKey<bool> TablesDiffer = new("tablesDiffer");

    /// <summary>Whose boot code it is.</summary>
    public static readonly FactKey<string> Code = new("code");

    public static readonly FactKey<long> SizeBytes = new("sizeBytes");

    /// <summary>How many bytes are needed.</summary>
    public static readonly FactKey<long> NeededBytes = new("neededBytes");

    /// <summary>How many bytes are free.</summary>
    public static readonly FactKey<long> FreeBytes = new("freeBytes");

    /// <summary>Whether a file is compressed by the file system.</summary>
    public static readonly FactKey<bool> IsCompressed = new("isCompressed");

    /// <summary>Several files, each with what there is to say.</summary>
    public static readonly FactKey<IReadOnlyList<Remark>> Files = new("files");

    /// <summary>The number of a snapshot; 1 is the youngest.</summary>
    public static readonly FactKey<int> SnapshotNumber = new("snapshotNumber");

    /// <summary>How many kinds of devices.</summary>
    public static readonly FactKey<int> DeviceCount = new("deviceCount");

    /// <summary>How many files.</summary>
    public static readonly FactKey<int> FileCount = new("fileCount");

    /// <summary>Attributes of a file, as words.</summary>
    public static readonly FactKey<string> Attributes = new("attributes");

    /// <summary>The processor that a program is for.</summary>
    public static readonly FactKey<string> Processor = new("processor");

    /// <summary>The processor that it should be for.</summary>
    public static readonly FactKey<string> OtherProcessor = new("otherProcessor");

    /// <summary>What the content of a program says of itself.</summary>
    public static readonly FactKey<string> Method = new("method");

    /// <summary>How far a volume is encrypted.</summary>
    public static readonly FactKey<Remark> Encryption = new("encryption");

    /// <summary>How many blocks of an encrypted volume's metadata are damaged.</summary>
    public static readonly FactKey<int> DamagedBlocks = new("damagedBlocks");

    /// <summary>Recovery keys, by the first digits of their identifiers.</summary>
    public static readonly FactKey<IReadOnlyList<string>> RecoveryKeys = new("recoveryKeys");

    /// <summary>What a program is.</summary>
    public static readonly FactKey<Remark> Content = new("content");

    /// <summary>Whose certificate signed a program.</summary>
    public static readonly FactKey<string> Signer = new("signer");

    /// <summary>When a certificate expires.</summary>
    public static readonly FactKey<DateTimeOffset> Expires = new("expires");

    /// <summary>When a file was written.</summary>
    public static readonly FactKey<DateTimeOffset> Written = new("written");

    /// <summary>The file that needs another.</summary>
    public static readonly FactKey<string> NeededBy = new("neededBy");

    /// <summary>The name of a driver.</summary>
    public static readonly FactKey<string> Driver = new("driver");

    /// <summary>Whether Windows starts without it.</summary>
    public static readonly FactKey<bool> MayFail = new("mayFail");

    /// <summary>Drivers with how each starts.</summary>
    public static readonly FactKey<IReadOnlyList<Remark>> Drivers = new("drivers");

    /// <summary>When a service starts, as a word.</summary>
    public static readonly FactKey<string> Start = new("start");

    /// <summary>How many drivers start with the boot loader.</summary>
    public static readonly FactKey<int> BootDrivers = new("bootDrivers");

    /// <summary>How many drivers start with the kernel.</summary>
    public static readonly FactKey<int> SystemDrivers = new("systemDrivers");

    /// <summary>The name of a control set.</summary>
    public static readonly FactKey<string> ControlSet = new("controlSet");

    /// <summary>The names of several control sets.</summary>
    public static readonly FactKey<IReadOnlyList<string>> ControlSets = new("controlSets");

    /// <summary>The id of an entry of the store or the firmware.</summary>
    public static readonly FactKey<string> Entry = new("entry");

    /// <summary>The ids of several entries.</summary>
    public static readonly FactKey<IReadOnlyList<string>> Entries = new("entries");

    /// <summary>How many entries.</summary>
    public static readonly FactKey<int> EntryCount = new("entryCount");

    /// <summary>How many programs may be the one that is looked for.</summary>
    public static readonly FactKey<int> SuspectCount = new("suspectCount");

    /// <summary>The title of an entry.</summary>
    public static readonly FactKey<string> Title = new("title");

    /// <summary>The firmware's name of an entry, such as Boot0003.</summary>
    public static readonly FactKey<string> FirmwareEntry = new("firmwareEntry");

    /// <summary>The name of another variable of the firmware.</summary>
    public static readonly FactKey<string> OtherFirmwareEntry = new("otherFirmwareEntry");

    /// <summary>The title of another entry.</summary>
    public static readonly FactKey<string> OtherTitle = new("otherTitle");

    /// <summary>Entries of the firmware with their titles.</summary>
    public static readonly FactKey<IReadOnlyList<Remark>> FirmwareEntries = new("firmwareEntries");

    /// <summary>Whether an entry stands in the order.</summary>
    public static readonly FactKey<bool> IsInOrder = new("isInOrder");

    /// <summary>A disk or partition as the store names it.</summary>
    public static readonly FactKey<string> Device = new("device");

    /// <summary>The name of a setting.</summary>
    public static readonly FactKey<string> Setting = new("setting");

    /// <summary>The kind of firmware, bios or uefi.</summary>
    public static readonly FactKey<string> Firmware = new("firmware");

    /// <summary>A sequence number of a hive.</summary>
    public static readonly FactKey<uint> Sequence = new("sequence");

    /// <summary>The other sequence number of a hive.</summary>
    public static readonly FactKey<uint> OtherSequence = new("otherSequence");

    /// <summary>The build of a Windows.</summary>
    public static readonly FactKey<int> Build = new("build");

    /// <summary>The product name of a Windows.</summary>
    public static readonly FactKey<string> Product = new("product");

    /// <summary>The reason, where it is a remark of its own.</summary>
    public static readonly FactKey<Remark> Reason = new("reason");

    /// <summary>What a reader met, in its own words.</summary>
    public static readonly FactKey<string> Said = new("said");

    /// <summary>What it is about, in words from elsewhere.</summary>
    public static readonly FactKey<string> What = new("what");

    /// <summary>Why, in words from elsewhere.</summary>
    public static readonly FactKey<string> Why = new("why");

    /// <summary>What to do.</summary>
    public static readonly FactKey<string> Todo = new("todo");
    /// <summary>How it was, where that is a word.</summary>
    public static readonly FactKey<string> Before = new("before");
    /// <summary>How it is to be, where that is a word.</summary>
    public static readonly FactKey<string> After = new("after");

    public static readonly FactKey<long> NumberBefore = new("numberBefore");

    /// <summary>A number as it becomes.</summary>
    public static readonly FactKey<long> NumberAfter = new("numberAfter");

    /// <summary>The cluster of the mirror as it was.</summary>
    public static readonly FactKey<long> MirrorBefore = new("mirrorBefore");

    /// <summary>The cluster of the mirror as it becomes.</summary>
    public static readonly FactKey<long> MirrorAfter = new("mirrorAfter");

    /// <summary>How many sectors there were.</summary>
    public static readonly FactKey<long> SectorsBefore = new("sectorsBefore");

    /// <summary>How many sectors there will be.</summary>
    public static readonly FactKey<long> SectorsAfter = new("sectorsAfter");

    /// <summary>Whether a partition or entry is active.</summary>
    public static readonly FactKey<bool> IsActive = new("isActive");

    /// <summary>Whether it is the last one.</summary>
    public static readonly FactKey<bool> IsLast = new("isLast");
    /// <summary>Whether the first of two is meant: the first table, $MFT itself.</summary>
    public static readonly FactKey<bool> IsFirst = new("isFirst");

    /// <summary>A time, in seconds.</summary>
    public static readonly FactKey<int> Seconds = new("seconds");

    /// <summary>A serial number.</summary>
    public static readonly FactKey<string> Serial = new("serial");

    /// <summary>The label of a volume.</summary>
    public static readonly FactKey<string> Label = new("label");

    /// <summary>A disk signature.</summary>
    public static readonly FactKey<string> Signature = new("signature");
    /// <summary>Where copies come from.</summary>
    public static readonly FactKey<string> Source = new("source");
    /// <summary>What a line under a step says of a file.</summary>
    public static readonly FactKey<Remark> Change = new("change");

    /// <summary>How many installations of Windows.</summary>
    public static readonly FactKey<int> InstallationCount = new("installationCount");

    /// <summary>How many volumes.</summary>
    public static readonly FactKey<int> VolumeCount = new("volumeCount");

    /// <summary>Whether an installation is listed in the store.</summary>
    public static readonly FactKey<bool> IsListed = new("isListed");

    /// <summary>Whether it is left out on request.</summary>
    public static readonly FactKey<bool> IsLeftOut = new("isLeftOut");

    /// <summary>The version of a file.</summary>
    public static readonly FactKey<string> Version = new("version");

    /// <summary>The version of another file.</summary>
    public static readonly FactKey<string> OtherVersion = new("otherVersion");

    /// <summary>The path of a loader.</summary>
    public static readonly FactKey<string> Loader = new("loader");

    /// <summary>The paths of several disks.</summary>
    public static readonly FactKey<IReadOnlyList<string>> Disks = new("disks");

    /// <summary>Whether the last start came to its end, as Windows noted.</summary>
    public static readonly FactKey<bool> IsStarted = new("isStarted");

    /// <summary>Whether the last shutdown came to its end, as Windows noted.</summary>
    public static readonly FactKey<bool> IsShutDown = new("isShutDown");

    /// <summary>Several names.</summary>
    public static readonly FactKey<IReadOnlyList<string>> Names = new("names");

    /// <summary>The id of a link of the chain.</summary>
    public static readonly FactKey<string> Link = new("link");

    /// <summary>The type of an unforeseen failure.</summary>
    public static readonly FactKey<string> Exception = new("exception");

    /// <summary>When something was written last.</summary>
    public static readonly FactKey<DateTimeOffset> LastWritten = new("lastWritten");

    /// <summary>A stop code, in hexadecimal.</summary>
    public static readonly FactKey<string> Stop = new("stop");

    /// <summary>What a stop code came with.</summary>
    public static readonly FactKey<IReadOnlyList<string>> Parameters = new("parameters");

    /// <summary>Who logged an event.</summary>
    public static readonly FactKey<string> Provider = new("provider");

    /// <summary>The number of an event, within its provider.</summary>
    public static readonly FactKey<int> EventId = new("eventId");

    /// <summary>How often.</summary>
    public static readonly FactKey<int> Times = new("times");

    /// <summary>When it happened.</summary>
    public static readonly FactKey<DateTimeOffset> At = new("at");

    /// <summary>How many commands wait for the next start.</summary>
    public static readonly FactKey<int> PendingCount = new("pendingCount");
}
