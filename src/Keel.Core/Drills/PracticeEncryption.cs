using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Volumes.BitLocker;

namespace Keel.Core.Drills;

/// <summary>Encrypts the Windows volume of a practice disk where it lies, as Windows does: what is used, and no more.</summary>
/// <param name="number">The number of the volume.</param>
/// <param name="place">Where it lies, whatever a fault has made of the table.</param>
internal sealed class PracticeEncryption(int number, ByteRange place)
{
    private const string Folder = @"\System Volume Information";
    private const int ClusterBytes = 4096, MarkBytes = 16;
    private static readonly Guid Mark = new("B4AC0000-F0E5-4B1D-9C41-2A77C0D1E5AA");
    private HashSet<long> usedBefore = [];

    /// <summary>The file with the recovery key, beside the image.</summary>
    public static string KeyFileFor(string imagePath) => imagePath + ".key";

    /// <summary>Makes room while the volume is sound: a fault may leave it so that no file is written on it.</summary>
    public void Prepare(Machine machine)
    {
        Reserve(VolumeOf(machine)!);
        usedBefore = UsedClusters(VolumeOf(machine));
    }

    /// <summary>Encrypts the volume.</summary>
    /// <param name="machine">The machine; what is written lands in its overlay.</param>
    /// <param name="spec">What the disk is like.</param>
    /// <param name="method">How it is encrypted.</param>
    /// <param name="isSuspended">Whether the key lies beside in the clear.</param>
    public void Encrypt(Machine machine, PracticeSpec spec, PracticeMethod method, bool isSuspended)
    {
        var raw = new Slice(machine.StartDisk.Overlay, place);
        var used = Filled(raw, [.. usedBefore, .. UsedClusters(VolumeOf(machine))]);
        var reserved = Reserved(raw, used);
        var (places, movedAt) = (reserved[..EncryptionFacts.BlockCount], reserved[^1]);
        var metadata = new PracticeMetadata(spec, NumberOf(method), isSuspended);
        var key = new PracticeKeys(spec.MachineName).Volume(EncryptionMethod.KeyBytes(NumberOf(method)));
        using var cipher = EncryptionMethod.CipherOf(NumberOf(method), key, spec.SectorBytes)!;
        var hidden = places.Select(at => new ByteRange(at, EncryptionMetadata.RegionBytes))
            .Append(new ByteRange(movedAt, PracticeMetadata.HeadBytes));
        var layout = new EncryptedPlaces(
            new ByteRange(0, PracticeMetadata.HeadBytes),
            movedAt,
            raw.LengthBytes / spec.SectorBytes * spec.SectorBytes,
            [.. hidden.OrderBy(range => range.Start)]);
        var encrypted = new UnlockedBlocks(raw, cipher, layout, whyNotWritten: null);
        foreach (var at in used.Where(at => !layout.Hidden.Any(range => range.Contains(at))))
            encrypted.Write(at, raw.ReadBytes(at, ClusterBytes));
        var last = raw.LengthBytes - spec.SectorBytes;
        if (!used.Contains(last / ClusterBytes * ClusterBytes)) encrypted.Write(last, raw.ReadBytes(last, spec.SectorBytes));
        foreach (var at in places) raw.Write(at, new byte[EncryptionMetadata.RegionBytes]);
        raw.Write(0, new byte[PracticeMetadata.HeadBytes]);
        raw.Write(0, metadata.FirstSector(places));
        var block = metadata.Block(places, movedAt, layout.EncryptedBytes);
        foreach (var at in places) raw.Write(at, block);
    }

    private DiskVolume? VolumeOf(Machine machine) =>
        machine.StartDisk.Volumes.FirstOrDefault(one => one.Number == number && one.Partition.Range == place);

    private static ushort NumberOf(PracticeMethod method) => method switch
    {
        PracticeMethod.Xts256 => EncryptionMethod.Xts256,
        PracticeMethod.Cbc128 => EncryptionMethod.Cbc128,
        PracticeMethod.Cbc256 => EncryptionMethod.Cbc256,
        PracticeMethod.Diffused128 => EncryptionMethod.Diffused128,
        PracticeMethod.Diffused256 => EncryptionMethod.Diffused256,
        _ => EncryptionMethod.Xts128
    };

    /// <summary>Files keep the places, as Windows' own do: of three blocks of metadata, and of the beginning.</summary>
    private static void Reserve(DiskVolume volume) => volume.Edit(files =>
    {
        files.CreateFolder(Folder);
        for (var file = 0; file <= EncryptionFacts.BlockCount; file++)
        {
            var contents = new byte[file < EncryptionFacts.BlockCount
                ? EncryptionMetadata.RegionBytes
                : PracticeMetadata.HeadBytes];
            for (var at = 0; at < contents.Length; at += ClusterBytes)
            {
                Mark.TryWriteBytes(contents.AsSpan(at));
                BinaryPrimitives.WriteInt32LittleEndian(contents.AsSpan(at + MarkBytes), file);
                BinaryPrimitives.WriteInt32LittleEndian(contents.AsSpan(at + MarkBytes + sizeof(int)), at);
            }

            files.WriteFile($@"{Folder}\FVE2.{Mark:B}.{file + 1}", contents);
        }
    });

    /// <summary>Where the files came to lie, by what stands in each of their clusters.</summary>
    private static long[] Reserved(Slice raw, HashSet<long> used)
    {
        var starts = new long[EncryptionFacts.BlockCount + 1];
        foreach (var at in used)
        {
            var head = raw.ReadBytes(at, MarkBytes + (2 * sizeof(int)));
            if (new Guid(head.AsSpan(0, MarkBytes)) != Mark) continue;
            var file = BinaryPrimitives.ReadInt32LittleEndian(head.AsSpan(MarkBytes));
            var start = at - BinaryPrimitives.ReadInt32LittleEndian(head.AsSpan(MarkBytes + sizeof(int)));
            if (starts[file] != 0 && starts[file] != start)
            {
                throw new Errors.UnreadableException(
                    "The practice disk can't be made.",
                    "No room in one piece was found for what encryption needs.",
                    "Make it without --encrypted.");
            }

            starts[file] = start;
        }

        return starts;
    }

    /// <summary>With what holds anything at all, whoever holds it for free.</summary>
    private static HashSet<long> Filled(Slice raw, HashSet<long> used)
    {
        for (var at = 0L; at + ClusterBytes <= raw.LengthBytes; at += ClusterBytes)
        {
            if (!used.Contains(at) && raw.ReadBytes(at, ClusterBytes).AsSpan().ContainsAnyExcept((byte)0)) used.Add(at);
        }

        return used;
    }

    /// <summary>What the file system holds for used; nothing where it can't be read any more.</summary>
    private static HashSet<long> UsedClusters(DiskVolume? volume)
    {
        if (volume?.Files is not { } files) return [];
        var bitmap = files.OpenFile(@"\$Bitmap");
        var bytes = bitmap.ReadBytes(0, (int)bitmap.LengthBytes);
        var used = new HashSet<long>();
        for (var cluster = 0L; cluster < bytes.Length * 8L; cluster++)
        {
            var at = cluster * ClusterBytes;
            if (at + ClusterBytes > volume!.RawBlocks.LengthBytes) break;
            if ((bytes[cluster / 8] >> (int)(cluster % 8) & 1) != 0) used.Add(at);
        }

        return used;
    }
}
