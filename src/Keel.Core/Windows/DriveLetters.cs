using System.Buffers.Binary;
using Keel.Core.Layout;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>The letters that an installation gives to volumes, from its SYSTEM hive.</summary>
public sealed class DriveLetters
{
    private const string LetterPrefix = @"\DosDevices\";
    private const int MbrBytes = 12, GuidBytes = 16;

    private static ReadOnlySpan<byte> GptMark => "DMIO:ID:"u8;

    private readonly List<(char Letter, byte[] Target)> letters = [];

    /// <summary>Reads the letters of an installation; none where its SYSTEM hive can't be read.</summary>
    public static DriveLetters Of(WindowsInstallation installation)
    {
        var result = new DriveLetters();
        if (installation.Volume.Files is not { } files) return result;
        foreach (var value in InstallationFinder.TryKey(files, installation.SystemHivePath, "MountedDevices")?.Values() ?? [])
        {
            if (value.Name.StartsWith(LetterPrefix, StringComparison.OrdinalIgnoreCase)
                && value.Name.Length == LetterPrefix.Length + 2)
            {
                result.letters.Add((char.ToUpperInvariant(value.Name[LetterPrefix.Length]), value.Data));
            }
        }

        return result;
    }

    /// <summary>The MBR partitions that letters stand for: disk signature, and start in bytes.</summary>
    public IEnumerable<(char Letter, uint Signature, long StartBytes)> MbrTargets => letters
        .Where(entry => entry.Target.Length == MbrBytes)
        .Select(entry => (
            entry.Letter,
            BinaryPrimitives.ReadUInt32LittleEndian(entry.Target),
            BinaryPrimitives.ReadInt64LittleEndian(entry.Target.AsSpan(sizeof(uint)))));

    /// <summary>The GPT partitions that letters stand for.</summary>
    public IEnumerable<(char Letter, Guid Partition)> GptTargets => letters
        .Where(entry => entry.Target.Length == GptMark.Length + GuidBytes && entry.Target.AsSpan().StartsWith(GptMark))
        .Select(entry => (entry.Letter, new Guid(entry.Target.AsSpan(GptMark.Length))));

    /// <summary>Such as "C:"; null where the installation gives the volume none.</summary>
    public string? LetterOf(DiskVolume volume)
    {
        foreach (var (letter, target) in letters)
        {
            if (Names(target, volume)) return $"{letter}:";
        }

        return null;
    }

    /// <summary>Whether a letter stands for a volume, be it one of several.</summary>
    public bool Gives(char letter, DiskVolume volume) =>
        letters.Exists(entry => entry.Letter == letter && Names(entry.Target, volume));

    private static bool Names(byte[] target, DiskVolume volume)
    {
        if (target.Length == MbrBytes)
        {
            return volume.Scheme == PartitionScheme.Mbr
                && BinaryPrimitives.ReadUInt32LittleEndian(target) == volume.DiskIdentity.Signature
                && BinaryPrimitives.ReadInt64LittleEndian(target.AsSpan(sizeof(uint))) == volume.Partition.Range.Start;
        }

        return target.Length == GptMark.Length + GuidBytes
            && target.AsSpan().StartsWith(GptMark)
            && new Guid(target.AsSpan(GptMark.Length)) == volume.Partition.Id
            && volume.Partition.Id != default;
    }
}
