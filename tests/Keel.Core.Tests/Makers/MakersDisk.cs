using System.Globalization;
using Keel.Core.BootCode;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Layout;
using Keel.Tests;

namespace Keel.Core.Tests.Makers;

/// <summary>A disk of a maker's layout: its table by sfdisk or sgdisk, its volumes by mkntfs, mkfs.fat and mke2fs.</summary>
/// <param name="Path">The image.</param>
/// <param name="Parts">Its partitions.</param>
/// <param name="Id">The identifier of its GPT.</param>
/// <param name="Signature">The signature of its MBR.</param>
/// <param name="Tool">dos or gpt (both by sfdisk), or sgdisk.</param>
internal sealed record MakersDisk(string Path, IReadOnlyList<MakersPart> Parts, Guid Id, uint Signature, string Tool)
{
    private const long MiB = 1024 * 1024;

    public bool IsGpt => Tool != "dos";

    /// <summary>A partition of this disk, as the store names it.</summary>
    public byte[] Device(MakersPart part) => MakersStore.Partition(IsGpt, part, Id, Signature);

    public static async Task<MakersDisk> Make(string path, string text, long firstSector, Random chance)
    {
        var colon = text.IndexOf(':', StringComparison.Ordinal);
        var (tool, words) = (text[..colon], text[(colon + 1)..]);
        var id = new byte[16];
        chance.NextBytes(id);
        var parts = MakersPart.ReadAll(words, firstSector, chance);
        var disk = new MakersDisk(path, parts, new Guid(id), (uint)chance.NextInt64(1, uint.MaxValue), tool);
        await using (var file = File.Create(path)) file.SetLength(parts.Max(part => part.Range.End) + 2 * MiB);
        await (tool == "sgdisk" ? disk.Sgdisk() : disk.Sfdisk());
        foreach (var part in parts) await disk.Format(part);
        return disk;
    }

    private async Task Sfdisk()
    {
        var lines = new List<string> { $"label: {Tool}", IsGpt ? $"label-id: {Id}" : $"label-id: 0x{Signature:x8}" };
        var logical = Parts.Where(part => part.IsLogical).ToList();
        foreach (var part in Parts.Where(part => !part.IsLogical)) lines.Add(Line(part));
        if (logical.Count > 0)
        {
            var start = logical[0].StartSector - MakersPart.SectorsInMiB;
            lines.Add($"start={start}, size={logical[^1].StartSector + logical[^1].Sectors - start}, type=f");
            lines.AddRange(logical.Select(Line));
        }

        await File.WriteAllLinesAsync($"{Path}.table", lines);
        await Run("sh", "-c", $"sfdisk -q '{Path}' < '{Path}.table'");
    }

    private string Line(MakersPart part)
    {
        var place = $"start={part.StartSector}, size={part.Sectors}";
        if (!IsGpt) return $"{place}, type={part.Role.MbrType}{(part.IsActive ? ", bootable" : "")}";
        var bits = part.Role.GptBits.Select(bit => bit == 0 ? "RequiredPartition" : $"GUID:{bit}");
        return $"{place}, type={part.Role.GptType}, uuid={part.Id}, attrs=\"{string.Join(' ', bits)}\"";
    }

    private async Task Sgdisk()
    {
        List<string> arguments = [$"--disk-guid={Id}"];
        foreach (var part in Parts)
        {
            arguments.Add(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"--new={part.Number}:{part.StartSector}:{part.StartSector + part.Sectors - 1}"));
            arguments.Add($"--typecode={part.Number}:{part.Role.GptType}");
            arguments.Add($"--partition-guid={part.Number}:{part.Id}");
            arguments.AddRange(part.Role.GptBits.Select(bit => $"--attributes={part.Number}:set:{bit}"));
        }

        await Run("sgdisk", ["--set-alignment=1", .. arguments, Path]);
    }

    private async Task Format(MakersPart part)
    {
        var (kind, blocks) = (part.Role.FileSystem, $"{part.Sectors / 2}");
        if (kind == "ntfs")
        {
            using var image = DiskFile.OpenForWriting(Path);
            Formatter.Ntfs(image, part.Range, part.Role.Label, clusterBytes: 4096);
        }
        else if (kind is "fat16" or "fat32")
        {
            var start = $"{part.StartSector}";
            string[] clusters = kind == "fat32" ? ["-s", "1"] : [];
            await Run(
                "mkfs.fat",
                ["--offset", start, "-h", start, "-F", kind[3..], "-n", part.Role.Label, .. clusters, Path, blocks]);
        }
        else if (kind == "ext4")
        {
            await Run("mke2fs", "-q", "-F", "-t", "ext4", "-E", $"offset={part.Range.Start}", Path, $"{blocks}k");
        }
        else if (kind == "locked")
        {
            Lock(part);
        }
    }

    /// <summary>
    /// The first sector of an encrypted volume, and metadata that Windows made, told to be of this place; what else there is
    /// can't be told from chance.
    /// </summary>
    private void Lock(MakersPart part)
    {
        var first = new byte[8192];
        new Random(part.Number).NextBytes(first.AsSpan(512));
        byte[] head = [0xEB, 0x58, 0x90, .. "-FVE-FS-"u8, 0, 2, 8];
        head.CopyTo(first.AsSpan());
        new Guid("4967D63B-2E29-4AD8-8399-F6A339E3D001").TryWriteBytes(first.AsSpan(0xA0));
        for (var copy = 1; copy <= 3; copy++) BitConverter.TryWriteBytes(first.AsSpan(0xA8 + copy * 8), copy * 4 * MiB);
        (first[510], first[511]) = (0x55, 0xAA);
        using var image = DiskFile.OpenForWriting(Path);
        image.Write(part.Range.Start, first);
        var metadata = WindowsVolume.Unpack("aes-xts-128").First(piece => piece.Bytes.AsSpan().StartsWith("-FVE-FS-"u8)).Bytes;
        var length = BitConverter.ToUInt16(metadata, 8) * 16;
        BitConverter.TryWriteBytes(metadata.AsSpan(0x10), part.Range.Length);
        for (var copy = 1; copy <= 3; copy++) BitConverter.TryWriteBytes(metadata.AsSpan(0x18 + (copy * 8)), copy * 4 * MiB);
        System.IO.Hashing.Crc32.Hash(metadata.AsSpan(0, length), metadata.AsSpan(length + 4));
        for (var copy = 1; copy <= 3; copy++) image.Write(part.Range.Start + (copy * 4 * MiB), metadata);
    }

    /// <summary>The code that starts the active partition: other than that, the sector stays as sfdisk left it.</summary>
    public void WriteStartCode()
    {
        using var image = DiskFile.OpenForWriting(Path);
        var sector = new byte[MasterBootRecord.Size];
        image.Read(0, sector);
        var record = new MasterBootRecord(sector);
        record.SetCode(KeelBootCode.Mbr());
        image.Write(0, record.ToBytes());
    }

    private static Task<string> Run(string program, params string[] arguments) => Keel.Tests.Tool.MustAgree(program, arguments);
}
