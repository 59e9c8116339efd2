using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Programs;
using Keel.Core.Volumes;

namespace Keel.Core.Sticks;

/// <summary>Looks whether a recovery medium is whole, and whether both kinds of firmware find something to start on it.</summary>
public sealed class StickCheck(DiskFile stick)
{
    private const string FirmwareFile = @"\EFI\BOOT\BOOTX64.EFI";
    private const int PieceBytes = 4 * 1024 * 1024;
    private readonly List<Remark> problems = [];

    /// <summary>Told how many bytes of how many are through.</summary>
    public Action<StickStage, long, long> Progress { get; init; } = (_, _, _) => { };

    /// <summary>Checks it.</summary>
    /// <param name="image">What it should hold; null to go by the checksum that it carries.</param>
    public StickReport Run(DiskFile? image)
    {
        var found = MediumImage.Of(stick);
        var overlay = new Overlay(stick);
        var layout = DiskLayout.Read(overlay);
        return new StickReport(
            found,
            IsWhole(image),
            StartsBios(found),
            StartsUefi(overlay, layout),
            LogOf(overlay, layout),
            problems);
    }

    private bool? IsWhole(DiskFile? image)
    {
        if (image is not null) return IsSame(image);
        if (MediumSum.Of(stick) is not { } sum)
        {
            problems.Add(Remark.Of("stick.no-checksum"));
            return null;
        }

        if (sum.Fits(stick, at => Progress(StickStage.Checking, at, sum.LengthBytes))) return true;
        problems.Add(stick.LengthBytes < sum.LengthBytes
            ? Remark.Of("stick.too-short", Fact.SizeBytes.Is(stick.LengthBytes), Fact.NeededBytes.Is(sum.LengthBytes))
            : Remark.Of("stick.checksum-wrong"));
        return false;
    }

    /// <summary>The same bytes, from the first that no partition table has a say in.</summary>
    private bool IsSame(DiskFile image)
    {
        if (stick.LengthBytes < image.LengthBytes)
        {
            problems.Add(Remark.Of(
                "stick.too-short",
                Fact.SizeBytes.Is(stick.LengthBytes),
                Fact.NeededBytes.Is(image.LengthBytes)));
            return false;
        }

        var (wanted, there) = (new byte[PieceBytes], new byte[PieceBytes]);
        for (long at = IsoVolumeRecord.AtBytes; at < image.LengthBytes;)
        {
            var count = (int)Math.Min(PieceBytes, image.LengthBytes - at);
            image.Read(at, wanted.AsSpan(0, count));
            stick.Read(at, there.AsSpan(0, count));
            var same = wanted.AsSpan(0, count).CommonPrefixLength(there.AsSpan(0, count));
            if (same < count)
            {
                problems.Add(Remark.Of("stick.differs", Fact.AtBytes.Is([at + same])));
                return false;
            }

            at += count;
            Progress(StickStage.Checking, at, image.LengthBytes);
        }

        return true;
    }

    private bool StartsBios(MediumImage found)
    {
        if (!found.StartsFromDisk) problems.Add(Remark.Of("stick.no-boot-code"));
        return found.StartsFromDisk;
    }

    private bool StartsUefi(Overlay overlay, DiskLayout layout)
    {
        foreach (var partition in layout.Partitions.Where(partition => partition.IsEfiSystem))
        {
            using var volume = new DiskVolume(stick.Path, overlay, layout, partition);
            if (ProblemOf(volume) is not { } problem) return true;
            problems.Add(problem);
            return false;
        }

        problems.Add(Remark.Of("stick.no-efi-partition"));
        return false;
    }

    private static Remark? ProblemOf(DiskVolume volume)
    {
        try
        {
            if (volume.Files is not { } files) return Remark.Of("stick.efi-unreadable", Fact.Volume.Is(volume.Ref));
            if (files.Find(FirmwareFile) is null)
                return Remark.Of("stick.no-firmware-file", Fact.Path.Is(FirmwareFile), Fact.Volume.Is(volume.Ref));
            var file = files.OpenFile(FirmwareFile);
            return ProgramFile.TryRead(file) is null || ProgramContent.Read(file) is { IsAltered: true }
                ? Remark.Of("stick.firmware-file-bad", Fact.Path.Is(FirmwareFile), Fact.Volume.Is(volume.Ref))
                : null;
        }
        catch (KeelException)
        {
            return Remark.Of("stick.efi-unreadable", Fact.Volume.Is(volume.Ref));
        }
    }

    private Partition? LogOf(Overlay overlay, DiskLayout layout)
    {
        var log = LogPartition.Find(overlay, layout);
        if (log is null)
        {
            problems.Add(Remark.Of("stick.no-log"));
            return null;
        }

        using var volume = new DiskVolume(stick.Path, overlay, layout, log);
        if (volume.Files is null) problems.Add(Remark.Of("stick.log-unreadable", Fact.Volume.Is(volume.Ref)));
        return log;
    }
}
