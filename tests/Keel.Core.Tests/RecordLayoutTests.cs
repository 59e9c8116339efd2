using System.Reflection;
using System.Runtime.InteropServices;
using Keel.Core.Blocks;
using Keel.Core.Disks.Nbd;
using Keel.Core.Disks.Virtual;
using Keel.Core.Errors;
using Keel.Core.EventLogs;
using Keel.Core.Firmware;
using Keel.Core.Hives;
using Keel.Core.Layout;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;
using Keel.Core.Volumes.Snapshots;
using Keel.Core.Windows;

namespace Keel.Core.Tests;

/// <summary>
/// Records on disks have the layout of their specifications: every field at its place, in its length, and nothing between.
/// </summary>
public sealed class RecordLayoutTests
{
    private static readonly Dictionary<Type, int> Sizes = new()
    {
        [typeof(ImageHeaderRecord)] = 124,
        [typeof(SnapshotHeadRecord)] = 64,
        [typeof(SnapshotBlockRecord)] = 48,
        [typeof(SnapshotEntryRecord)] = 56,
        [typeof(SnapshotPlacesRecord)] = 80,
        [typeof(GptHeaderRecord)] = 92,
        [typeof(GptEntryRecord)] = 128,
        [typeof(PartitionSlotRecord)] = 16,
        [typeof(BootParameterRecord)] = 36,
        [typeof(FatWideRecord)] = 28,
        [typeof(FatTailRecord)] = 26,
        [typeof(FatInfoRecord)] = 512,
        [typeof(FatSlotRecord)] = 32,
        [typeof(FatLongSlotRecord)] = 32,
        [typeof(NtfsBootSectorRecord)] = 84,
        [typeof(NtfsFileHeaderRecord)] = 42,
        [typeof(NtfsBlockRecord)] = 8,
        [typeof(NtfsAttributeRecord)] = 16,
        [typeof(NtfsResidentRecord)] = 24,
        [typeof(NtfsNonResidentRecord)] = 64,
        [typeof(NtfsFileNameRecord)] = 66,
        [typeof(NtfsIndexEntryRecord)] = 16,
        [typeof(NtfsListEntryRecord)] = 26,
        [typeof(HiveHeaderRecord)] = 512,
        [typeof(HiveBinRecord)] = 32,
        [typeof(HiveKeyRecord)] = 76,
        [typeof(HiveValueRecord)] = 20,
        [typeof(HiveSecurityRecord)] = 20,
        [typeof(HiveIndexRecord)] = 4,
        [typeof(HiveIndexEntryRecord)] = 8,
        [typeof(HivePiecesRecord)] = 8,
        [typeof(HiveLogEntryRecord)] = 40,
        [typeof(HiveLogPageRecord)] = 8,
        [typeof(EventLogFileRecord)] = 128,
        [typeof(EventLogChunkRecord)] = 128,
        [typeof(EventRecord)] = 24,
        [typeof(OldEventRecord)] = 56,
        [typeof(HardDriveRecord)] = 38,
        [typeof(BootDeviceRecord)] = 88,
        [typeof(VhdFooterRecord)] = 512,
        [typeof(VhdHeaderRecord)] = 1024,
        [typeof(VhdLocatorRecord)] = 24,
        [typeof(VhdxHeaderRecord)] = 80,
        [typeof(VhdxRegionTableRecord)] = 16,
        [typeof(VhdxRegionRecord)] = 32,
        [typeof(VhdxMetadataTableRecord)] = 32,
        [typeof(VhdxMetadataRecord)] = 32,
        [typeof(VhdxLocatorRecord)] = 20,
        [typeof(VhdxLocatorEntryRecord)] = 12,
        [typeof(VhdxLogEntryRecord)] = 64,
        [typeof(VhdxLogDescriptorRecord)] = 32,
        [typeof(VhdxLogDataRecord)] = 4096,
        [typeof(NbdRequestRecord)] = 28,
        [typeof(NbdReplyRecord)] = 16,
        [typeof(NbdOptionRecord)] = 16,
        [typeof(NbdOptionReplyRecord)] = 20
    };

    /// <summary>Field, offset and length, as the tables of the specifications have them.</summary>
    public static TheoryData<Type, string, int, int> Tables => new()
    {
        // Virtual Hard Disk Image Format Specification 1.0: Hard Disk Footer Format
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.Mark), 0, 8 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.Features), 8, 4 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.Version), 12, 4 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.HeaderAt), 16, 8 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.Time), 24, 4 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.CreatorProgram), 28, 4 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.CreatorVersion), 32, 4 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.CreatorSystem), 36, 4 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.OriginalBytes), 40, 8 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.DiskBytes), 48, 8 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.Geometry), 56, 4 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.DiskType), 60, 4 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.Checksum), 64, 4 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.Id), 68, 16 },
        { typeof(VhdFooterRecord), nameof(VhdFooterRecord.SavedState), 84, 1 },

        // The same: Dynamic Disk Header Format
        { typeof(VhdHeaderRecord), nameof(VhdHeaderRecord.Mark), 0, 8 },
        { typeof(VhdHeaderRecord), nameof(VhdHeaderRecord.NextAt), 8, 8 },
        { typeof(VhdHeaderRecord), nameof(VhdHeaderRecord.TableAt), 16, 8 },
        { typeof(VhdHeaderRecord), nameof(VhdHeaderRecord.Version), 24, 4 },
        { typeof(VhdHeaderRecord), nameof(VhdHeaderRecord.TableEntries), 28, 4 },
        { typeof(VhdHeaderRecord), nameof(VhdHeaderRecord.BlockBytes), 32, 4 },
        { typeof(VhdHeaderRecord), nameof(VhdHeaderRecord.Checksum), 36, 4 },
        { typeof(VhdHeaderRecord), nameof(VhdHeaderRecord.ParentId), 40, 16 },
        { typeof(VhdHeaderRecord), nameof(VhdHeaderRecord.ParentTime), 56, 4 },
        { typeof(VhdHeaderRecord), nameof(VhdHeaderRecord.ParentName), 64, 512 },
        { typeof(VhdHeaderRecord), nameof(VhdHeaderRecord.Parents), 576, 192 },

        // The same: Parent Locator
        { typeof(VhdLocatorRecord), nameof(VhdLocatorRecord.Platform), 0, 4 },
        { typeof(VhdLocatorRecord), nameof(VhdLocatorRecord.SpaceBytes), 4, 4 },
        { typeof(VhdLocatorRecord), nameof(VhdLocatorRecord.LengthBytes), 8, 4 },
        { typeof(VhdLocatorRecord), nameof(VhdLocatorRecord.At), 16, 8 },

        // Windows Imaging File Format: the header
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.Signature), 0, 8 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.HeaderBytes), 8, 4 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.Version), 12, 4 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.Flags), 16, 4 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.PieceBytes), 20, 4 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.Id), 24, 16 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.Part), 40, 2 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.Parts), 42, 2 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.Images), 44, 4 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.LookupTableLength), 48, 8 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.LookupTableOffset), 56, 8 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.LookupTableWholeLength), 64, 8 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.DescriptionLength), 72, 8 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.DescriptionOffset), 80, 8 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.DescriptionWholeLength), 88, 8 },
        { typeof(ImageHeaderRecord), nameof(ImageHeaderRecord.StartImage), 120, 4 },

        // MS-VHDX 2.2.2: Headers
        { typeof(VhdxHeaderRecord), nameof(VhdxHeaderRecord.Mark), 0, 4 },
        { typeof(VhdxHeaderRecord), nameof(VhdxHeaderRecord.Checksum), 4, 4 },
        { typeof(VhdxHeaderRecord), nameof(VhdxHeaderRecord.Sequence), 8, 8 },
        { typeof(VhdxHeaderRecord), nameof(VhdxHeaderRecord.FileWriteId), 16, 16 },
        { typeof(VhdxHeaderRecord), nameof(VhdxHeaderRecord.DataWriteId), 32, 16 },
        { typeof(VhdxHeaderRecord), nameof(VhdxHeaderRecord.LogId), 48, 16 },
        { typeof(VhdxHeaderRecord), nameof(VhdxHeaderRecord.LogVersion), 64, 2 },
        { typeof(VhdxHeaderRecord), nameof(VhdxHeaderRecord.Version), 66, 2 },
        { typeof(VhdxHeaderRecord), nameof(VhdxHeaderRecord.LogBytes), 68, 4 },
        { typeof(VhdxHeaderRecord), nameof(VhdxHeaderRecord.LogAt), 72, 8 },

        // MS-VHDX 2.2.3: Region Table
        { typeof(VhdxRegionTableRecord), nameof(VhdxRegionTableRecord.Mark), 0, 4 },
        { typeof(VhdxRegionTableRecord), nameof(VhdxRegionTableRecord.Checksum), 4, 4 },
        { typeof(VhdxRegionTableRecord), nameof(VhdxRegionTableRecord.EntryCount), 8, 4 },

        // The same: Region Table Entry
        { typeof(VhdxRegionRecord), nameof(VhdxRegionRecord.Kind), 0, 16 },
        { typeof(VhdxRegionRecord), nameof(VhdxRegionRecord.At), 16, 8 },
        { typeof(VhdxRegionRecord), nameof(VhdxRegionRecord.Bytes), 24, 4 },
        { typeof(VhdxRegionRecord), nameof(VhdxRegionRecord.Required), 28, 4 },

        // MS-VHDX 2.6.1: Metadata Table
        { typeof(VhdxMetadataTableRecord), nameof(VhdxMetadataTableRecord.Mark), 0, 8 },
        { typeof(VhdxMetadataTableRecord), nameof(VhdxMetadataTableRecord.EntryCount), 10, 2 },

        // The same: Metadata Table Entry
        { typeof(VhdxMetadataRecord), nameof(VhdxMetadataRecord.Item), 0, 16 },
        { typeof(VhdxMetadataRecord), nameof(VhdxMetadataRecord.At), 16, 4 },
        { typeof(VhdxMetadataRecord), nameof(VhdxMetadataRecord.Bytes), 20, 4 },
        { typeof(VhdxMetadataRecord), nameof(VhdxMetadataRecord.Flags), 24, 4 },

        // MS-VHDX 2.6.2.6: Parent Locator
        { typeof(VhdxLocatorRecord), nameof(VhdxLocatorRecord.Kind), 0, 16 },
        { typeof(VhdxLocatorRecord), nameof(VhdxLocatorRecord.Count), 18, 2 },

        // The same: Parent Locator Entry
        { typeof(VhdxLocatorEntryRecord), nameof(VhdxLocatorEntryRecord.NameAt), 0, 4 },
        { typeof(VhdxLocatorEntryRecord), nameof(VhdxLocatorEntryRecord.ValueAt), 4, 4 },
        { typeof(VhdxLocatorEntryRecord), nameof(VhdxLocatorEntryRecord.NameBytes), 8, 2 },
        { typeof(VhdxLocatorEntryRecord), nameof(VhdxLocatorEntryRecord.ValueBytes), 10, 2 },

        // MS-VHDX 2.3.1: Log Entry Header
        { typeof(VhdxLogEntryRecord), nameof(VhdxLogEntryRecord.Mark), 0, 4 },
        { typeof(VhdxLogEntryRecord), nameof(VhdxLogEntryRecord.Checksum), 4, 4 },
        { typeof(VhdxLogEntryRecord), nameof(VhdxLogEntryRecord.EntryBytes), 8, 4 },
        { typeof(VhdxLogEntryRecord), nameof(VhdxLogEntryRecord.TailAt), 12, 4 },
        { typeof(VhdxLogEntryRecord), nameof(VhdxLogEntryRecord.Sequence), 16, 8 },
        { typeof(VhdxLogEntryRecord), nameof(VhdxLogEntryRecord.DescriptorCount), 24, 4 },
        { typeof(VhdxLogEntryRecord), nameof(VhdxLogEntryRecord.LogId), 32, 16 },
        { typeof(VhdxLogEntryRecord), nameof(VhdxLogEntryRecord.FlushedFileBytes), 48, 8 },
        { typeof(VhdxLogEntryRecord), nameof(VhdxLogEntryRecord.LastFileBytes), 56, 8 },

        // The same: Data Descriptor
        { typeof(VhdxLogDescriptorRecord), nameof(VhdxLogDescriptorRecord.Mark), 0, 4 },
        { typeof(VhdxLogDescriptorRecord), nameof(VhdxLogDescriptorRecord.Last), 4, 4 },
        { typeof(VhdxLogDescriptorRecord), nameof(VhdxLogDescriptorRecord.First), 8, 8 },
        { typeof(VhdxLogDescriptorRecord), nameof(VhdxLogDescriptorRecord.At), 16, 8 },
        { typeof(VhdxLogDescriptorRecord), nameof(VhdxLogDescriptorRecord.Sequence), 24, 8 },

        // The same: Data Sector
        { typeof(VhdxLogDataRecord), nameof(VhdxLogDataRecord.Mark), 0, 4 },
        { typeof(VhdxLogDataRecord), nameof(VhdxLogDataRecord.SequenceHigh), 4, 4 },
        { typeof(VhdxLogDataRecord), nameof(VhdxLogDataRecord.Middle), 8, 4084 },
        { typeof(VhdxLogDataRecord), nameof(VhdxLogDataRecord.SequenceLow), 4092, 4 },

        // NBD protocol: Request message
        { typeof(NbdRequestRecord), nameof(NbdRequestRecord.Mark), 0, 4 },
        { typeof(NbdRequestRecord), nameof(NbdRequestRecord.FlagsAndCommand), 4, 4 },
        { typeof(NbdRequestRecord), nameof(NbdRequestRecord.Cookie), 8, 8 },
        { typeof(NbdRequestRecord), nameof(NbdRequestRecord.At), 16, 8 },
        { typeof(NbdRequestRecord), nameof(NbdRequestRecord.Length), 24, 4 },

        // The same: Simple reply message
        { typeof(NbdReplyRecord), nameof(NbdReplyRecord.Mark), 0, 4 },
        { typeof(NbdReplyRecord), nameof(NbdReplyRecord.Error), 4, 4 },
        { typeof(NbdReplyRecord), nameof(NbdReplyRecord.Cookie), 8, 8 },

        // The same: Newstyle negotiation
        { typeof(NbdOptionRecord), nameof(NbdOptionRecord.Mark), 0, 8 },
        { typeof(NbdOptionRecord), nameof(NbdOptionRecord.Option), 8, 4 },
        { typeof(NbdOptionRecord), nameof(NbdOptionRecord.Length), 12, 4 },

        // The same: Option reply
        { typeof(NbdOptionReplyRecord), nameof(NbdOptionReplyRecord.Mark), 0, 8 },
        { typeof(NbdOptionReplyRecord), nameof(NbdOptionReplyRecord.Option), 8, 4 },
        { typeof(NbdOptionReplyRecord), nameof(NbdOptionReplyRecord.Kind), 12, 4 },
        { typeof(NbdOptionReplyRecord), nameof(NbdOptionReplyRecord.Length), 16, 4 },

        // UEFI specification 2.10, table 5.5: GPT Header
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.Mark), 0, 8 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.Revision), 8, 4 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.HeaderBytes), 12, 4 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.Crc), 16, 4 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.Reserved), 20, 4 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.OwnSector), 24, 8 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.OtherSector), 32, 8 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.FirstUsableSector), 40, 8 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.LastUsableSector), 48, 8 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.DiskGuid), 56, 16 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.EntriesSector), 72, 8 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.EntryCount), 80, 4 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.EntryBytes), 84, 4 },
        { typeof(GptHeaderRecord), nameof(GptHeaderRecord.EntriesCrc), 88, 4 },

        // The same, table 5.6: GPT Partition Entry
        { typeof(GptEntryRecord), nameof(GptEntryRecord.Type), 0, 16 },
        { typeof(GptEntryRecord), nameof(GptEntryRecord.Id), 16, 16 },
        { typeof(GptEntryRecord), nameof(GptEntryRecord.FirstSector), 32, 8 },
        { typeof(GptEntryRecord), nameof(GptEntryRecord.LastSector), 40, 8 },
        { typeof(GptEntryRecord), nameof(GptEntryRecord.Attributes), 48, 8 },
        { typeof(GptEntryRecord), nameof(GptEntryRecord.Name), 56, 72 },

        // The same, table 5.2: Legacy MBR Partition Record
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.Mark), 0, 1 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.FirstHead), 1, 1 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.FirstCylinder), 2, 2 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.Type), 4, 1 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.LastHead), 5, 1 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.LastCylinder), 6, 2 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.FirstSector), 8, 4 },
        { typeof(PartitionSlotRecord), nameof(PartitionSlotRecord.SectorCount), 12, 4 },

        // Microsoft FAT specification 1.03, "Boot Sector and BPB Structure"
        { typeof(BootParameterRecord), nameof(BootParameterRecord.JumpCode), 0x00, 1 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.JumpPlace), 0x01, 2 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.Oem), 0x03, 8 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.BytesPerSector), 0x0B, 2 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.SectorsPerCluster), 0x0D, 1 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.ReservedSectors), 0x0E, 2 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.Fats), 0x10, 1 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.RootEntries), 0x11, 2 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.SmallSectors), 0x13, 2 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.Media), 0x15, 1 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.SectorsPerFat), 0x16, 2 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.SectorsPerTrack), 0x18, 2 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.Heads), 0x1A, 2 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.HiddenSectors), 0x1C, 4 },
        { typeof(BootParameterRecord), nameof(BootParameterRecord.LargeSectors), 0x20, 4 },

        // The same, fields of FAT32, counted from byte 36
        { typeof(FatWideRecord), nameof(FatWideRecord.SectorsPerFat), 0x00, 4 },
        { typeof(FatWideRecord), nameof(FatWideRecord.Flags), 0x04, 2 },
        { typeof(FatWideRecord), nameof(FatWideRecord.Version), 0x06, 2 },
        { typeof(FatWideRecord), nameof(FatWideRecord.RootCluster), 0x08, 4 },
        { typeof(FatWideRecord), nameof(FatWideRecord.InfoSector), 0x0C, 2 },
        { typeof(FatWideRecord), nameof(FatWideRecord.BackupSector), 0x0E, 2 },

        // The same, from BS_DrvNum on
        { typeof(FatTailRecord), nameof(FatTailRecord.Drive), 0x00, 1 },
        { typeof(FatTailRecord), nameof(FatTailRecord.Mark), 0x02, 1 },
        { typeof(FatTailRecord), nameof(FatTailRecord.Serial), 0x03, 4 },
        { typeof(FatTailRecord), nameof(FatTailRecord.Label), 0x07, 11 },
        { typeof(FatTailRecord), nameof(FatTailRecord.FileSystem), 0x12, 8 },

        // The same, "FSInfo Sector Structure"
        { typeof(FatInfoRecord), nameof(FatInfoRecord.Lead), 0x00, 4 },
        { typeof(FatInfoRecord), nameof(FatInfoRecord.Structure), 0x1E4, 4 },
        { typeof(FatInfoRecord), nameof(FatInfoRecord.FreeClusters), 0x1E8, 4 },
        { typeof(FatInfoRecord), nameof(FatInfoRecord.NextFree), 0x1EC, 4 },
        { typeof(FatInfoRecord), nameof(FatInfoRecord.Trail), 0x1FC, 4 },

        // The same, "FAT 32 Byte Directory Entry Structure"
        { typeof(FatSlotRecord), nameof(FatSlotRecord.Name), 0x00, 11 },
        { typeof(FatSlotRecord), nameof(FatSlotRecord.Marks), 0x0B, 1 },
        { typeof(FatSlotRecord), nameof(FatSlotRecord.Case), 0x0C, 1 },
        { typeof(FatSlotRecord), nameof(FatSlotRecord.CreatedTenths), 0x0D, 1 },
        { typeof(FatSlotRecord), nameof(FatSlotRecord.CreatedTime), 0x0E, 2 },
        { typeof(FatSlotRecord), nameof(FatSlotRecord.CreatedDate), 0x10, 2 },
        { typeof(FatSlotRecord), nameof(FatSlotRecord.AccessedDate), 0x12, 2 },
        { typeof(FatSlotRecord), nameof(FatSlotRecord.HighCluster), 0x14, 2 },
        { typeof(FatSlotRecord), nameof(FatSlotRecord.WrittenTime), 0x16, 2 },
        { typeof(FatSlotRecord), nameof(FatSlotRecord.WrittenDate), 0x18, 2 },
        { typeof(FatSlotRecord), nameof(FatSlotRecord.LowCluster), 0x1A, 2 },
        { typeof(FatSlotRecord), nameof(FatSlotRecord.SizeBytes), 0x1C, 4 },

        // The same, "FAT Long Directory Entry Structure"
        { typeof(FatLongSlotRecord), nameof(FatLongSlotRecord.Number), 0x00, 1 },
        { typeof(FatLongSlotRecord), nameof(FatLongSlotRecord.First), 0x01, 10 },
        { typeof(FatLongSlotRecord), nameof(FatLongSlotRecord.Marks), 0x0B, 1 },
        { typeof(FatLongSlotRecord), nameof(FatLongSlotRecord.Type), 0x0C, 1 },
        { typeof(FatLongSlotRecord), nameof(FatLongSlotRecord.Checksum), 0x0D, 1 },
        { typeof(FatLongSlotRecord), nameof(FatLongSlotRecord.Second), 0x0E, 12 },
        { typeof(FatLongSlotRecord), nameof(FatLongSlotRecord.Cluster), 0x1A, 2 },
        { typeof(FatLongSlotRecord), nameof(FatLongSlotRecord.Third), 0x1C, 4 },

        // Linux-NTFS documentation, "$Boot"
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.Head), 0x00, 36 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.PhysicalDrive), 0x24, 4 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.TotalSectors), 0x28, 8 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.MftCluster), 0x30, 8 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.MftMirrorCluster), 0x38, 8 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.RecordClusters), 0x40, 1 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.IndexClusters), 0x44, 1 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.Serial), 0x48, 8 },
        { typeof(NtfsBootSectorRecord), nameof(NtfsBootSectorRecord.Checksum), 0x50, 4 },

        // The same, "FILE Record"
        { typeof(NtfsFileHeaderRecord), nameof(NtfsFileHeaderRecord.Block), 0x00, 8 },
        { typeof(NtfsFileHeaderRecord), nameof(NtfsFileHeaderRecord.LogSequence), 0x08, 8 },
        { typeof(NtfsFileHeaderRecord), nameof(NtfsFileHeaderRecord.Sequence), 0x10, 2 },
        { typeof(NtfsFileHeaderRecord), nameof(NtfsFileHeaderRecord.LinkCount), 0x12, 2 },
        { typeof(NtfsFileHeaderRecord), nameof(NtfsFileHeaderRecord.FirstAttributeAt), 0x14, 2 },
        { typeof(NtfsFileHeaderRecord), nameof(NtfsFileHeaderRecord.Flags), 0x16, 2 },
        { typeof(NtfsFileHeaderRecord), nameof(NtfsFileHeaderRecord.UsedBytes), 0x18, 4 },
        { typeof(NtfsFileHeaderRecord), nameof(NtfsFileHeaderRecord.AllocatedBytes), 0x1C, 4 },
        { typeof(NtfsFileHeaderRecord), nameof(NtfsFileHeaderRecord.BaseRecord), 0x20, 8 },
        { typeof(NtfsFileHeaderRecord), nameof(NtfsFileHeaderRecord.NextAttributeId), 0x28, 2 },

        // The same, the head that file records and index blocks share
        { typeof(NtfsBlockRecord), nameof(NtfsBlockRecord.Mark), 0x00, 4 },
        { typeof(NtfsBlockRecord), nameof(NtfsBlockRecord.UpdateWordsAt), 0x04, 2 },
        { typeof(NtfsBlockRecord), nameof(NtfsBlockRecord.UpdateWordCount), 0x06, 2 },

        // The same, "Attribute Header"
        { typeof(NtfsAttributeRecord), nameof(NtfsAttributeRecord.Type), 0x00, 4 },
        { typeof(NtfsAttributeRecord), nameof(NtfsAttributeRecord.Length), 0x04, 4 },
        { typeof(NtfsAttributeRecord), nameof(NtfsAttributeRecord.IsNonResident), 0x08, 1 },
        { typeof(NtfsAttributeRecord), nameof(NtfsAttributeRecord.NameLength), 0x09, 1 },
        { typeof(NtfsAttributeRecord), nameof(NtfsAttributeRecord.NameAt), 0x0A, 2 },
        { typeof(NtfsAttributeRecord), nameof(NtfsAttributeRecord.Flags), 0x0C, 2 },
        { typeof(NtfsAttributeRecord), nameof(NtfsAttributeRecord.Number), 0x0E, 2 },

        // The same, resident
        { typeof(NtfsResidentRecord), nameof(NtfsResidentRecord.Head), 0x00, 16 },
        { typeof(NtfsResidentRecord), nameof(NtfsResidentRecord.ContentBytes), 0x10, 4 },
        { typeof(NtfsResidentRecord), nameof(NtfsResidentRecord.ContentAt), 0x14, 2 },
        { typeof(NtfsResidentRecord), nameof(NtfsResidentRecord.Indexed), 0x16, 1 },

        // The same, non-resident
        { typeof(NtfsNonResidentRecord), nameof(NtfsNonResidentRecord.Head), 0x00, 16 },
        { typeof(NtfsNonResidentRecord), nameof(NtfsNonResidentRecord.FirstCluster), 0x10, 8 },
        { typeof(NtfsNonResidentRecord), nameof(NtfsNonResidentRecord.LastCluster), 0x18, 8 },
        { typeof(NtfsNonResidentRecord), nameof(NtfsNonResidentRecord.RunsAt), 0x20, 2 },
        { typeof(NtfsNonResidentRecord), nameof(NtfsNonResidentRecord.CompressionUnit), 0x22, 2 },
        { typeof(NtfsNonResidentRecord), nameof(NtfsNonResidentRecord.AllocatedBytes), 0x28, 8 },
        { typeof(NtfsNonResidentRecord), nameof(NtfsNonResidentRecord.SizeBytes), 0x30, 8 },
        { typeof(NtfsNonResidentRecord), nameof(NtfsNonResidentRecord.InitializedBytes), 0x38, 8 },

        // The same, "$FILE_NAME"
        { typeof(NtfsFileNameRecord), nameof(NtfsFileNameRecord.Folder), 0x00, 8 },
        { typeof(NtfsFileNameRecord), nameof(NtfsFileNameRecord.Created), 0x08, 8 },
        { typeof(NtfsFileNameRecord), nameof(NtfsFileNameRecord.Altered), 0x10, 8 },
        { typeof(NtfsFileNameRecord), nameof(NtfsFileNameRecord.RecordAltered), 0x18, 8 },
        { typeof(NtfsFileNameRecord), nameof(NtfsFileNameRecord.Read), 0x20, 8 },
        { typeof(NtfsFileNameRecord), nameof(NtfsFileNameRecord.AllocatedBytes), 0x28, 8 },
        { typeof(NtfsFileNameRecord), nameof(NtfsFileNameRecord.SizeBytes), 0x30, 8 },
        { typeof(NtfsFileNameRecord), nameof(NtfsFileNameRecord.Flags), 0x38, 4 },
        { typeof(NtfsFileNameRecord), nameof(NtfsFileNameRecord.Reparse), 0x3C, 4 },
        { typeof(NtfsFileNameRecord), nameof(NtfsFileNameRecord.NameLength), 0x40, 1 },
        { typeof(NtfsFileNameRecord), nameof(NtfsFileNameRecord.NameSpace), 0x41, 1 },

        // The same, "Index Entry"
        { typeof(NtfsIndexEntryRecord), nameof(NtfsIndexEntryRecord.Record), 0x00, 4 },
        { typeof(NtfsIndexEntryRecord), nameof(NtfsIndexEntryRecord.RecordHigh), 0x04, 2 },
        { typeof(NtfsIndexEntryRecord), nameof(NtfsIndexEntryRecord.Sequence), 0x06, 2 },
        { typeof(NtfsIndexEntryRecord), nameof(NtfsIndexEntryRecord.Length), 0x08, 2 },
        { typeof(NtfsIndexEntryRecord), nameof(NtfsIndexEntryRecord.StreamLength), 0x0A, 2 },
        { typeof(NtfsIndexEntryRecord), nameof(NtfsIndexEntryRecord.Flags), 0x0C, 2 },

        // The same, "$ATTRIBUTE_LIST"
        { typeof(NtfsListEntryRecord), nameof(NtfsListEntryRecord.Type), 0x00, 4 },
        { typeof(NtfsListEntryRecord), nameof(NtfsListEntryRecord.Length), 0x04, 2 },
        { typeof(NtfsListEntryRecord), nameof(NtfsListEntryRecord.NameLength), 0x06, 1 },
        { typeof(NtfsListEntryRecord), nameof(NtfsListEntryRecord.NameAt), 0x07, 1 },
        { typeof(NtfsListEntryRecord), nameof(NtfsListEntryRecord.FirstCluster), 0x08, 8 },
        { typeof(NtfsListEntryRecord), nameof(NtfsListEntryRecord.Record), 0x10, 4 },
        { typeof(NtfsListEntryRecord), nameof(NtfsListEntryRecord.RecordHigh), 0x14, 2 },
        { typeof(NtfsListEntryRecord), nameof(NtfsListEntryRecord.Sequence), 0x16, 2 },
        { typeof(NtfsListEntryRecord), nameof(NtfsListEntryRecord.Number), 0x18, 2 },

        // Published notes on the regf format, "Base block"
        { typeof(HiveHeaderRecord), nameof(HiveHeaderRecord.Mark), 0x00, 4 },
        { typeof(HiveHeaderRecord), nameof(HiveHeaderRecord.PrimarySequence), 0x04, 4 },
        { typeof(HiveHeaderRecord), nameof(HiveHeaderRecord.SecondarySequence), 0x08, 4 },
        { typeof(HiveHeaderRecord), nameof(HiveHeaderRecord.LastWritten), 0x0C, 8 },
        { typeof(HiveHeaderRecord), nameof(HiveHeaderRecord.Major), 0x14, 4 },
        { typeof(HiveHeaderRecord), nameof(HiveHeaderRecord.Minor), 0x18, 4 },
        { typeof(HiveHeaderRecord), nameof(HiveHeaderRecord.FileType), 0x1C, 4 },
        { typeof(HiveHeaderRecord), nameof(HiveHeaderRecord.Format), 0x20, 4 },
        { typeof(HiveHeaderRecord), nameof(HiveHeaderRecord.RootCell), 0x24, 4 },
        { typeof(HiveHeaderRecord), nameof(HiveHeaderRecord.BinsBytes), 0x28, 4 },
        { typeof(HiveHeaderRecord), nameof(HiveHeaderRecord.Clustering), 0x2C, 4 },
        { typeof(HiveHeaderRecord), nameof(HiveHeaderRecord.Checksum), 0x1FC, 4 },

        // The same, "Hive bin"
        { typeof(HiveBinRecord), nameof(HiveBinRecord.Mark), 0x00, 4 },
        { typeof(HiveBinRecord), nameof(HiveBinRecord.Offset), 0x04, 4 },
        { typeof(HiveBinRecord), nameof(HiveBinRecord.Size), 0x08, 4 },
        { typeof(HiveBinRecord), nameof(HiveBinRecord.Reserved), 0x0C, 8 },
        { typeof(HiveBinRecord), nameof(HiveBinRecord.Written), 0x14, 8 },
        { typeof(HiveBinRecord), nameof(HiveBinRecord.Spare), 0x1C, 4 },

        // The same, "Key node", counted from the mark
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.Mark), 0x00, 2 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.Flags), 0x02, 2 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.LastWritten), 0x04, 8 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.Access), 0x0C, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.Parent), 0x10, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.SubkeyCount), 0x14, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.VolatileCount), 0x18, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.SubkeyList), 0x1C, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.VolatileList), 0x20, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.ValueCount), 0x24, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.ValueList), 0x28, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.Security), 0x2C, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.ClassName), 0x30, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.LongestSubkeyName), 0x34, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.LongestClassName), 0x38, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.LongestValueName), 0x3C, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.LongestValueData), 0x40, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.WorkVar), 0x44, 4 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.NameLength), 0x48, 2 },
        { typeof(HiveKeyRecord), nameof(HiveKeyRecord.ClassLength), 0x4A, 2 },

        // The same, "Key values"
        { typeof(HiveValueRecord), nameof(HiveValueRecord.Mark), 0x00, 2 },
        { typeof(HiveValueRecord), nameof(HiveValueRecord.NameLength), 0x02, 2 },
        { typeof(HiveValueRecord), nameof(HiveValueRecord.Size), 0x04, 4 },
        { typeof(HiveValueRecord), nameof(HiveValueRecord.Data), 0x08, 4 },
        { typeof(HiveValueRecord), nameof(HiveValueRecord.Type), 0x0C, 4 },
        { typeof(HiveValueRecord), nameof(HiveValueRecord.Flags), 0x10, 2 },
        { typeof(HiveValueRecord), nameof(HiveValueRecord.Spare), 0x12, 2 },

        // The same, "Key security"
        { typeof(HiveSecurityRecord), nameof(HiveSecurityRecord.Mark), 0x00, 2 },
        { typeof(HiveSecurityRecord), nameof(HiveSecurityRecord.Reserved), 0x02, 2 },
        { typeof(HiveSecurityRecord), nameof(HiveSecurityRecord.Next), 0x04, 4 },
        { typeof(HiveSecurityRecord), nameof(HiveSecurityRecord.Previous), 0x08, 4 },
        { typeof(HiveSecurityRecord), nameof(HiveSecurityRecord.Uses), 0x0C, 4 },
        { typeof(HiveSecurityRecord), nameof(HiveSecurityRecord.Size), 0x10, 4 },

        // The same, lists of subkeys, and "Big data"
        { typeof(HiveIndexRecord), nameof(HiveIndexRecord.Mark), 0x00, 2 },
        { typeof(HiveIndexRecord), nameof(HiveIndexRecord.Count), 0x02, 2 },
        { typeof(HiveIndexEntryRecord), nameof(HiveIndexEntryRecord.Cell), 0x00, 4 },
        { typeof(HiveIndexEntryRecord), nameof(HiveIndexEntryRecord.Hint), 0x04, 4 },

        { typeof(HivePiecesRecord), nameof(HivePiecesRecord.Mark), 0x00, 2 },
        { typeof(HivePiecesRecord), nameof(HivePiecesRecord.Count), 0x02, 2 },
        { typeof(HivePiecesRecord), nameof(HivePiecesRecord.List), 0x04, 4 },

        // The same, "Format of transaction log files"
        { typeof(HiveLogEntryRecord), nameof(HiveLogEntryRecord.Mark), 0x00, 4 },
        { typeof(HiveLogEntryRecord), nameof(HiveLogEntryRecord.Size), 0x04, 4 },
        { typeof(HiveLogEntryRecord), nameof(HiveLogEntryRecord.Flags), 0x08, 4 },
        { typeof(HiveLogEntryRecord), nameof(HiveLogEntryRecord.Sequence), 0x0C, 4 },
        { typeof(HiveLogEntryRecord), nameof(HiveLogEntryRecord.BinsBytes), 0x10, 4 },
        { typeof(HiveLogEntryRecord), nameof(HiveLogEntryRecord.PageCount), 0x14, 4 },
        { typeof(HiveLogEntryRecord), nameof(HiveLogEntryRecord.FirstHash), 0x18, 8 },
        { typeof(HiveLogEntryRecord), nameof(HiveLogEntryRecord.SecondHash), 0x20, 8 },

        { typeof(HiveLogPageRecord), nameof(HiveLogPageRecord.Offset), 0x00, 4 },
        { typeof(HiveLogPageRecord), nameof(HiveLogPageRecord.Size), 0x04, 4 },

        // UEFI specification 2.10, table 10.49: Hard Drive Media Device Path, behind its head of 4 bytes
        { typeof(HardDriveRecord), nameof(HardDriveRecord.Number), 0x00, 4 },
        { typeof(HardDriveRecord), nameof(HardDriveRecord.FirstSector), 0x04, 8 },
        { typeof(HardDriveRecord), nameof(HardDriveRecord.SectorCount), 0x0C, 8 },
        { typeof(HardDriveRecord), nameof(HardDriveRecord.Id), 0x14, 16 },
        { typeof(HardDriveRecord), nameof(HardDriveRecord.Format), 0x24, 1 },
        { typeof(HardDriveRecord), nameof(HardDriveRecord.IdKind), 0x25, 1 },

        // Device values of stores, as formats of partitions have been seen
        { typeof(BootDeviceRecord), nameof(BootDeviceRecord.Options), 0x00, 16 },
        { typeof(BootDeviceRecord), nameof(BootDeviceRecord.Type), 0x10, 4 },
        { typeof(BootDeviceRecord), nameof(BootDeviceRecord.Flags), 0x14, 4 },
        { typeof(BootDeviceRecord), nameof(BootDeviceRecord.Length), 0x18, 4 },
        { typeof(BootDeviceRecord), nameof(BootDeviceRecord.Partition), 0x20, 16 },
        { typeof(BootDeviceRecord), nameof(BootDeviceRecord.DiskKind), 0x30, 4 },
        { typeof(BootDeviceRecord), nameof(BootDeviceRecord.Table), 0x34, 4 },
        { typeof(BootDeviceRecord), nameof(BootDeviceRecord.Disk), 0x38, 16 },

        // the evtx format: file header
        { typeof(EventLogFileRecord), nameof(EventLogFileRecord.Mark), 0, 8 },
        { typeof(EventLogFileRecord), nameof(EventLogFileRecord.FirstChunk), 8, 8 },
        { typeof(EventLogFileRecord), nameof(EventLogFileRecord.LastChunk), 16, 8 },
        { typeof(EventLogFileRecord), nameof(EventLogFileRecord.NextNumber), 24, 8 },
        { typeof(EventLogFileRecord), nameof(EventLogFileRecord.HeaderBytes), 32, 4 },
        { typeof(EventLogFileRecord), nameof(EventLogFileRecord.MinorVersion), 36, 2 },
        { typeof(EventLogFileRecord), nameof(EventLogFileRecord.MajorVersion), 38, 2 },
        { typeof(EventLogFileRecord), nameof(EventLogFileRecord.BlockSize), 40, 2 },
        { typeof(EventLogFileRecord), nameof(EventLogFileRecord.ChunkCount), 42, 2 },
        { typeof(EventLogFileRecord), nameof(EventLogFileRecord.Unused), 44, 76 },
        { typeof(EventLogFileRecord), nameof(EventLogFileRecord.Flags), 0x78, 4 },
        { typeof(EventLogFileRecord), nameof(EventLogFileRecord.Checksum), 0x7C, 4 },

        // the evtx format: chunk header
        { typeof(EventLogChunkRecord), nameof(EventLogChunkRecord.Mark), 0, 8 },
        { typeof(EventLogChunkRecord), nameof(EventLogChunkRecord.FirstPlace), 8, 8 },
        { typeof(EventLogChunkRecord), nameof(EventLogChunkRecord.LastPlace), 16, 8 },
        { typeof(EventLogChunkRecord), nameof(EventLogChunkRecord.FirstNumber), 24, 8 },
        { typeof(EventLogChunkRecord), nameof(EventLogChunkRecord.LastNumber), 32, 8 },
        { typeof(EventLogChunkRecord), nameof(EventLogChunkRecord.HeaderBytes), 40, 4 },
        { typeof(EventLogChunkRecord), nameof(EventLogChunkRecord.LastRecordAt), 44, 4 },
        { typeof(EventLogChunkRecord), nameof(EventLogChunkRecord.FreeAt), 48, 4 },
        { typeof(EventLogChunkRecord), nameof(EventLogChunkRecord.RecordsChecksum), 52, 4 },
        { typeof(EventLogChunkRecord), nameof(EventLogChunkRecord.Unused), 56, 64 },
        { typeof(EventLogChunkRecord), nameof(EventLogChunkRecord.Flags), 120, 4 },
        { typeof(EventLogChunkRecord), nameof(EventLogChunkRecord.Checksum), 124, 4 },

        // the evtx format: record
        { typeof(EventRecord), nameof(EventRecord.Mark), 0, 4 },
        { typeof(EventRecord), nameof(EventRecord.Size), 4, 4 },
        { typeof(EventRecord), nameof(EventRecord.Number), 8, 8 },
        { typeof(EventRecord), nameof(EventRecord.Written), 16, 8 },

        // MS-EVEN: EVENTLOGRECORD
        { typeof(OldEventRecord), nameof(OldEventRecord.Size), 0, 4 },
        { typeof(OldEventRecord), nameof(OldEventRecord.Mark), 4, 4 },
        { typeof(OldEventRecord), nameof(OldEventRecord.Number), 8, 4 },
        { typeof(OldEventRecord), nameof(OldEventRecord.Generated), 12, 4 },
        { typeof(OldEventRecord), nameof(OldEventRecord.Written), 16, 4 },
        { typeof(OldEventRecord), nameof(OldEventRecord.EventId), 20, 4 },
        { typeof(OldEventRecord), nameof(OldEventRecord.Type), 24, 2 },
        { typeof(OldEventRecord), nameof(OldEventRecord.StringCount), 26, 2 },
        { typeof(OldEventRecord), nameof(OldEventRecord.Category), 28, 2 },
        { typeof(OldEventRecord), nameof(OldEventRecord.Flags), 30, 2 },
        { typeof(OldEventRecord), nameof(OldEventRecord.ClosingNumber), 32, 4 },
        { typeof(OldEventRecord), nameof(OldEventRecord.StringsAt), 36, 4 },
        { typeof(OldEventRecord), nameof(OldEventRecord.SidBytes), 40, 4 },
        { typeof(OldEventRecord), nameof(OldEventRecord.SidAt), 44, 4 },
        { typeof(OldEventRecord), nameof(OldEventRecord.DataBytes), 48, 4 },
        { typeof(OldEventRecord), nameof(OldEventRecord.DataAt), 52, 4 }
    };

    [Theory]
    [MemberData(nameof(Tables))]
    public void A_field_stands_where_its_specification_says(Type record, string field, int at, int length)
    {
        var bytes = new byte[Sizes[record]];
        bytes.AsSpan(at, length).Fill(0x5A);
        var read = Read(record, bytes);
        foreach (var other in record.GetFields(BindingFlags.Instance | BindingFlags.Public))
        {
            var value = Bytes(other.GetValue(read)!);
            var expected = (byte)(other.Name == field ? 0x5A : 0);
            value.ShouldAllBe(one => one == expected, $"{record.Name}.{other.Name}");
            if (other.Name == field) value.Length.ShouldBe(length);
        }
    }

    [Theory]
    [InlineData(0, 91)]
    [InlineData(1, 92)]
    [InlineData(-1, 200)]
    [InlineData(int.MaxValue, 200)]
    public void A_record_that_does_not_fit_is_keels_own_error(int at, int length)
    {
        var bytes = new byte[length];
        Should.Throw<UnreadableException>(() => bytes.At<GptHeaderRecord>(at));
        Should.Throw<UnreadableException>(() => bytes.Put(at, default(GptHeaderRecord)));
        bytes.ShouldAllBe(one => one == 0);
    }

    [Fact]
    public void What_is_put_is_what_is_read_and_the_rest_stays()
    {
        var bytes = Enumerable.Repeat((byte)0xEE, 200).ToArray();
        var entry = new GptEntryRecord
        {
            Type = Guid.NewGuid(),
            Id = Guid.NewGuid(),
            FirstSector = 2048,
            LastSector = 4095,
            Attributes = 1
        };
        entry.Name = GptEntryRecord.NameField.Of("Brackwater quay");
        bytes.Put(16, entry);
        var read = bytes.At<GptEntryRecord>(16);
        (read.Type, read.Id, read.FirstSector, read.LastSector, read.Attributes, $"{read.Name}")
            .ShouldBe((entry.Type, entry.Id, 2048, 4095, 1ul, "Brackwater quay"));
        bytes[..16].ShouldAllBe(one => one == 0xEE);
        bytes[(16 + 128)..].ShouldAllBe(one => one == 0xEE);
    }

    [Fact]
    public void A_header_that_is_written_is_read_back_and_one_changed_bit_fails_its_checksum()
    {
        var header = new GptHeader(92, 1, 999, 34, 966, Guid.NewGuid(), 2, 128, 128, 0xDEADBEEF, CrcMatches: true);
        var sector = header.ToSector(512);
        GptHeader.TryRead(sector).ShouldBe(header);
        for (var bit = 0; bit < 92 * 8; bit += 7)
        {
            var changed = sector.ToArray();
            changed[bit / 8] ^= (byte)(1 << (bit % 8));
            (GptHeader.TryRead(changed)?.CrcMatches ?? false).ShouldBeFalse($"bit {bit}");
        }
    }

    [Theory]
    [InlineData(0u)]
    [InlineData(91u)]
    [InlineData(513u)]
    [InlineData(uint.MaxValue)]
    public void A_header_of_an_absurd_size_is_none(uint size)
    {
        var sector = new GptHeader(92, 1, 9, 3, 6, Guid.NewGuid(), 2, 128, 128, 0, CrcMatches: true).ToSector(512);
        BitConverter.TryWriteBytes(sector.AsSpan(12), size);
        GptHeader.TryRead(sector).ShouldBeNull();
    }

    [Fact]
    public void A_slot_says_with_its_cylinders_that_sector_numbers_count()
    {
        var bytes = new byte[16];
        new PartitionSlot(0x80, 7, 2048, 131072).Write(bytes);
        Convert.ToHexString(bytes).ShouldBe("80FEFFFF07FEFFFF0008000000000200");
        PartitionSlot.Read(bytes).ShouldBe(new PartitionSlot(0x80, 7, 2048, 131072));
    }

    private static object Read(Type record, byte[] bytes)
    {
        var method = typeof(RecordLayoutTests).GetMethod(nameof(ReadAs), BindingFlags.Static | BindingFlags.NonPublic)!;
        return method.MakeGenericMethod(record).Invoke(null, [bytes])!;
    }

    private static T ReadAs<T>(byte[] bytes)
        where T : unmanaged
    {
        System.Runtime.CompilerServices.Unsafe.SizeOf<T>().ShouldBe(bytes.Length);
        return bytes.At<T>(0);
    }

    private static byte[] Bytes(object value)
    {
        var method = typeof(RecordLayoutTests).GetMethod(nameof(BytesOf), BindingFlags.Static | BindingFlags.NonPublic)!;
        return (byte[])method.MakeGenericMethod(value.GetType()).Invoke(null, [value])!;
    }

    private static byte[] BytesOf<T>(T value)
        where T : unmanaged => MemoryMarshal.AsBytes([value]).ToArray();
}
