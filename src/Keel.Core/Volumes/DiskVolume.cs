using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Keys;
using Keel.Core.Layout;
using Keel.Core.Volumes.BitLocker;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;
using Keel.Core.Volumes.Snapshots;

namespace Keel.Core.Volumes;

/// <summary>A partition with what stands on it: its blocks in the disk's overlay, and its files once somebody asks.</summary>
public sealed class DiskVolume : IDisposable
{
    private readonly Lazy<FileSystemKind> rawKind, kind;
    private readonly Lazy<BootSectorFault?> fault;
    private readonly Lazy<EncryptionFacts?> encryption;
    private readonly Lazy<(UnlockedBlocks Blocks, OpenedVolume Opened)?> unlocked;
    private readonly KeyRing keys;
    private IVolume? files;
    private bool tried;

    /// <summary>A volume of a disk; nothing is read before it is asked for.</summary>
    /// <param name="diskPath">The path of its disk.</param>
    /// <param name="disk">The disk, with what would be changed on it.</param>
    /// <param name="layout">The disk's table.</param>
    /// <param name="partition">The partition that the volume lies in.</param>
    /// <param name="keys">What opens it, where it is encrypted; null where nothing is at hand.</param>
    public DiskVolume(string diskPath, IWritableBlocks disk, DiskLayout layout, Partition partition, KeyRing? keys = null)
    {
        DiskPath = diskPath;
        Partition = partition;
        DiskIdentity = layout.Identity;
        Scheme = layout.Scheme;
        this.keys = keys ?? new KeyRing();
        RawBlocks = new Slice(disk, partition.Range);
        fault = new Lazy<BootSectorFault?>(() => partition.IsExtended || Kind == FileSystemKind.Unknown ? null : FindFault());
        encryption = new Lazy<EncryptionFacts?>(() => IsEncrypted ? ReadEncryption() : null);
        unlocked = new Lazy<(UnlockedBlocks, OpenedVolume)?>(() => IsEncrypted ? Unlock() : null);
        rawKind = new Lazy<FileSystemKind>(() => partition.IsExtended ? FileSystemKind.Unknown : Identify(RawBlocks));
        kind = new Lazy<FileSystemKind>(() => unlocked.Value is { } open ? Identify(open.Blocks) : rawKind.Value);
    }

    public string DiskPath { get; }

    /// <summary>The partition that it lies in.</summary>
    public Partition Partition { get; }

    public DiskIdentity DiskIdentity { get; }

    /// <summary>The scheme of the table that names the partition.</summary>
    public PartitionScheme Scheme { get; }

    /// <summary>The partition's bytes as they stand on the disk.</summary>
    public Slice RawBlocks { get; }

    /// <summary>The bytes of its file system: the partition's, or what they hold encrypted, where that was opened.</summary>
    public IWritableBlocks Blocks => unlocked.Value is { } open ? open.Blocks : RawBlocks;

    /// <summary>Whether it is encrypted, opened or not.</summary>
    public bool IsEncrypted => rawKind.Value == FileSystemKind.BitLocker;

    /// <summary>Whether its partition has fewer bytes than were encrypted: it can't be opened before that is put right.</summary>
    public bool IsCutShort => Encryption is { IsWhole: true } facts && facts.EncryptedBytes > RawBlocks.LengthBytes;

    /// <summary>Whether it is encrypted, and was opened.</summary>
    public bool IsUnlocked => unlocked.Value is not null;

    /// <summary>What opened it; null where it is not open, or its key lies beside in the clear.</summary>
    public VolumeKeyKind? OpenedBy => unlocked.Value?.Opened.By;

    /// <summary>The protector that was opened; null where it is not open.</summary>
    public Protector? OpenedProtector => unlocked.Value?.Opened.Protector;

    /// <summary>The number of the partition, from 1.</summary>
    public int Number => Partition.Number;

    /// <summary>The virtual disk file that its disk lies in, among the disks of a machine; null for a disk by itself.</summary>
    public string? InFile { get; init; }

    /// <summary>Which volume it is, for whoever only tells of it.</summary>
    public VolumeRef Ref => new(DiskPath, Number, InFile);

    /// <summary>Which file system it has, by its boot sector; that of an encrypted volume only where it was opened.</summary>
    public FileSystemKind Kind => kind.Value;

    /// <summary>
    /// What it tells of its encryption without a key; null where it is not encrypted, or none of its metadata is whole.
    /// </summary>
    public EncryptionFacts? Encryption => encryption.Value;

    /// <summary>
    /// The error of the disk where the first sector can't be read, so that nothing tells what the volume is; null where it can.
    /// </summary>
    public ReadFailedException? Unreadable
    {
        get
        {
            _ = Kind;
            return field;
        }

        private set;
    }

    /// <summary>
    /// What is wrong with its boot sector, as the backup copy and what stands on the volume say; null where nothing is. As long
    /// as something is, its files are neither read nor written: they would be others.
    /// </summary>
    public BootSectorFault? SectorFault => fault.Value;

    /// <summary>Why the files can't be read; null where they can, or where there is no file system.</summary>
    public KeelException? FilesProblem { get; private set; }

    /// <summary>The files, opened for looking; null where the file system is not one that keel reads, or is damaged.</summary>
    public IVolume? Files
    {
        get
        {
            if (tried) return files;
            tried = true;
            FilesProblem = Unreadable;
            try
            {
                if (SectorFault is { } wrong) throw Misread(wrong);
                files = Open(VolumeUse.Looking);
            }
            catch (KeelException e)
            {
                FilesProblem = e;
            }

            return files;
        }
    }

    /// <summary>Whether Windows keeps snapshots of it; one sector is read for that.</summary>
    public bool HasSnapshots => Kind == FileSystemKind.Ntfs && VolumeSnapshots.AreOn(Blocks);

    /// <summary>Opens its snapshots; null where it has none.</summary>
    /// <exception cref="UnreadableException">They are damaged, or the library that reads them is not installed.</exception>
    public VolumeSnapshots? OpenSnapshots() =>
        Kind == FileSystemKind.Ntfs ? VolumeSnapshots.Open(Blocks, ToString()) : null;

    /// <summary>Changes files; the changes land in the disk's overlay.</summary>
    /// <exception cref="RefusedException">The volume is hibernated, or its journal has work in it.</exception>
    public void Edit(Action<IVolume> change) => Edit(change, VolumeUse.Writing);

    /// <summary>Changes what keeps the session of a hibernated Windows, so that it is given up.</summary>
    /// <exception cref="RefusedException">Its journal has work in it.</exception>
    internal void GiveUpSession(Action<IVolume> change) => Edit(change, VolumeUse.GivingUpSession);

    /// <summary>
    /// Why nothing may be written on it, by whatever way; null where it may, or where its file system can't be read at all.
    /// Nothing is changed by asking.
    /// </summary>
    internal RefusedException? WhyNotWritten()
    {
        if (unlocked.Value?.Blocks.WhyNotWritten is { } why) return why;
        if (Kind == FileSystemKind.BitLocker)
        {
            return new RefusedException(
                $"{this} is not written.",
                "It is encrypted and locked: what would be written there would not be what stands there for Windows.",
                "With its recovery key: the same command with --unlock - (it asks for the key), or --unlock FILE.");
        }

        if (Kind != FileSystemKind.Ntfs) return null;
        try
        {
            using var tried = NtfsVolume.Open(new Overlay(Blocks), ToString(), VolumeUse.Writing);
            return null;
        }
        catch (RefusedException e)
        {
            return e;
        }
        catch (KeelException)
        {
            return null;
        }
    }

    private void Edit(Action<IVolume> change, VolumeUse use)
    {
        Close();
        if (SectorFault is { } wrong) throw Misread(wrong);
        if (unlocked.Value?.Blocks.WhyNotWritten is { } why) throw why;
        using var writable = Open(use)
            ?? throw new RefusedException(
                $"{this} can't be written.",
                $"It holds {(Kind == FileSystemKind.Unknown ? "no known file system" : FileSystemProbe.Name(Kind))}.",
                "Name another volume with --volume.");
        change(writable);
        writable.Close();
    }

    /// <inheritdoc/>
    public void Dispose() => Close();

    /// <summary>"volume 2": how a volume is named everywhere.</summary>
    public override string ToString() => $"{Ref}";

    private void Close()
    {
        files?.Dispose();
        files = null;
        tried = false;
    }

    private BootSectorFault? FindFault()
    {
        try
        {
            return BootSectorFault.Of(Blocks);
        }
        catch (KeelException)
        {
            return null;        // what the disk does not give proves nothing; opening it says more
        }
    }

    private UnreadableException Misread(BootSectorFault wrong) => new(
        $"{this} would be misread.",
        $"Its boot sector is wrong: {string.Join(", ", wrong.Fields)}. The backup copy, and what stands on the volume, say "
            + "otherwise.",
        "'keel mend' puts it right from the copy.");

    private FileSystemKind Identify(IReadableBlocks blocks)
    {
        try
        {
            return FileSystemProbe.Identify(blocks);
        }
        catch (ReadFailedException e)
        {
            Unreadable = e;
            return FileSystemKind.Unknown;
        }
    }

    /// <summary>Where none of it is given, it is as good as damaged.</summary>
    private EncryptionFacts? ReadEncryption() => EncryptionReader.TryRead(RawBlocks);

    private (UnlockedBlocks Blocks, OpenedVolume Opened)? Unlock()
    {
        try
        {
            return VolumeUnlocking.Open(RawBlocks, ToString(), keys);
        }
        catch (ReadFailedException)
        {
            return null;
        }
    }

    private IVolume? Open(VolumeUse use) => Kind switch
    {
        FileSystemKind.Ntfs => NtfsVolume.Open(Blocks, ToString(), use),
        FileSystemKind.Fat12 or FileSystemKind.Fat16 or FileSystemKind.Fat32 =>
            FatVolume.Open(Blocks, ToString(), use != VolumeUse.Looking),
        _ => null
    };
}
