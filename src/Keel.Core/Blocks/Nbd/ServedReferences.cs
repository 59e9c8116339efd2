using System.Buffers.Binary;
using System.Text;
using System.Text.RegularExpressions;
using Keel.Core.Blocks.VirtualDisks;

namespace Keel.Core.Blocks.Nbd;

/// <summary>
/// What other files an image names, which its helper would open: they must lie in the image's folder, or be agreed to. Who
/// makes an image can name any file of this computer in it.
/// </summary>
internal sealed partial class ServedReferences(DiskTerms terms)
{
    private const int DeepestChain = 64, LongestName = 4096;
    private const RegexOptions Options = RegexOptions.Multiline | RegexOptions.ExplicitCapture;
    private readonly HashSet<string> seen = [];

    /// <exception cref="Errors.RefusedException">A file outside of the folder is named.</exception>
    /// <exception cref="Errors.UnreadableException">The chain has no end.</exception>
    public void Check(string path, FileFormat format)
    {
        if (!seen.Add(path) || seen.Count > DeepestChain)
            throw VirtualDiskErrors.Damaged(FileFormats.Name(format), "it names itself as a part of itself");
        using var file = DiskFile.Open(path);
        var names = format switch
        {
            FileFormat.Qcow2 => OfQcow2(file),
            FileFormat.Vmdk => OfVmdk(file),
            _ => []
        };
        foreach (var name in names) CheckNamed(path, name);
    }

    private void CheckNamed(string image, string name)
    {
        var folder = Path.GetDirectoryName(image)!;
        var beside = FileNames.InFolder(folder, name);
        var target = beside ?? Path.GetFullPath(Path.Combine(folder, name));
        var isPlain = !name.Contains(':', StringComparison.Ordinal) || File.Exists(target);
        if (beside is null && (!isPlain || !terms.MayOpen(target))) throw ParentFiles.Elsewhere(image, isPlain ? target : name);
        if (!File.Exists(target) || DiskPath.IsSame(image, target)) return;
        using var file = DiskFile.Open(target);
        var format = FileFormats.Of(file);
        if (format is FileFormat.Qcow2 or FileFormat.Vmdk) Check(target, format);
    }

    /// <summary>The backing file, and a data file of its own (qcow2 specification, "Header" and "Header extensions").</summary>
    private static List<string> OfQcow2(IReadableBlocks file)
    {
        const int headBytes = 104, backingAt = 8, backingLengthAt = 16, versionAt = 4, featuresAt = 72;
        const ulong externalData = 4;
        if (file.TryReadAnyway(0, headBytes) is not { } head) return [];
        var names = new List<string>();
        var at = BinaryPrimitives.ReadUInt64BigEndian(head.AsSpan(backingAt));
        var length = BinaryPrimitives.ReadUInt32BigEndian(head.AsSpan(backingLengthAt));
        if (at is > 0 and < long.MaxValue && length is > 0 and <= LongestName
            && file.TryReadAnyway((long)at, (int)length) is { } backing)
        {
            names.Add(Encoding.UTF8.GetString(backing));
        }

        var isThird = BinaryPrimitives.ReadUInt32BigEndian(head.AsSpan(versionAt)) >= 3;
        if (isThird && (BinaryPrimitives.ReadUInt64BigEndian(head.AsSpan(featuresAt)) & externalData) != 0)
            names.Add("an external data file: its name is not read");
        return names;
    }

    /// <summary>The extents and the parent, as its text names them.</summary>
    private static List<string> OfVmdk(IReadableBlocks file)
    {
        const int headBytes = 44, descriptorAt = 28, sectorBytes = 512, mostBytes = 64 * 1024;
        if (file.TryReadAnyway(0, headBytes) is not { } head) return [];
        var at = 0L;
        if (head.AsSpan().StartsWith("KDMV"u8))
        {
            var sector = BinaryPrimitives.ReadUInt64LittleEndian(head.AsSpan(descriptorAt));
            if (sector is 0 or > long.MaxValue / sectorBytes) return [];
            at = (long)sector * sectorBytes;
        }

        var count = (int)Math.Clamp(file.LengthBytes - at, 0, mostBytes);
        var text = file.TryReadAnyway(at, count) is { } bytes ? Encoding.UTF8.GetString(bytes) : "";
        var isAlone = at > 0;
        var names = Extent().Matches(text).Select(match => match.Groups["name"].Value).ToList();
        if (isAlone && names.Count <= 1) names.Clear();         // it names itself, by whatever name it had when it was made
        names.AddRange(ParentHint().Matches(text).Select(match => match.Groups["name"].Value));
        return names;
    }

    [GeneratedRegex("^(?:RW|RDONLY|NOACCESS) [^\"\n]*\"(?<name>[^\"\n]*)\"", Options, matchTimeoutMilliseconds: 1000)]
    private static partial Regex Extent();

    [GeneratedRegex("^parentFileNameHint=\"(?<name>[^\"\n]*)\"", Options, matchTimeoutMilliseconds: 1000)]
    private static partial Regex ParentHint();
}
