using System.Globalization;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Disks.Virtual;

namespace Keel.Core.Disks.Nbd;

/// <summary>The text of a VMDK: which files it is made of, and what it differs from (VMware Virtual Disk Format 5.0).</summary>
internal sealed class VmdkText
{
    private const int SectorBytes = 512, MostBytes = 1024 * 1024, MostExtents = 1024;
    private const int UsualPlace = SectorBytes, UsualBytes = 20 * SectorBytes;
    private const string NoParent = "ffffffff";
    private static readonly string[] Access = ["RW", "RDONLY", "NOACCESS"];
    private static readonly string[] Flat = ["FLAT", "VMFS"], Sparse = ["SPARSE", "VMFSSPARSE"];

    private VmdkText(IReadOnlyList<VmdkExtent> extents, string? parent, bool isPacked = false)
    {
        Extents = extents;
        Parent = parent;
        IsPacked = isPacked;
    }

    /// <summary>Its parts, as they are named.</summary>
    public IReadOnlyList<VmdkExtent> Extents { get; }

    /// <summary>The name of the file that it differs from; null for none.</summary>
    public string? Parent { get; }

    /// <summary>Whether its blocks are packed, so that none can be written in its place.</summary>
    public bool IsPacked { get; }

    /// <summary>Whether a file holds blocks, with or without such a text in it.</summary>
    public static bool IsSparse(IReadableBlocks file) =>
        file.TryReadAnyway(0, sizeof(uint)) is { } mark
            && (mark.AsSpan().SequenceEqual("KDMV"u8) || mark.AsSpan().SequenceEqual("COWD"u8));

    /// <summary>
    /// The text of a file that holds blocks. It may stand where the header says, or where such files usually have it, and whoever
    /// reads one of the two must not see another truth than who reads the other.
    /// </summary>
    /// <exception cref="Errors.UnreadableException">It is no such file, or one that keel can't follow.</exception>
    public static VmdkText OfSparse(IReadableBlocks file)
    {
        const int headBytes = 44, flagsAt = 8, capacityAt = 12, placeAt = 28, lengthAt = 36;
        const uint packed = 0x10000;
        var head = file.TryReadAnyway(0, headBytes) ?? throw Damaged("it is too short");
        if (head.AsSpan().StartsWith("COWD"u8)) return new VmdkText([], null);
        if (BitConverter.ToInt64(head, capacityAt) <= 0)
            throw Damaged("its header gives it no size: its parts would be taken from a text");
        var (place, length) = (BitConverter.ToInt64(head, placeAt), BitConverter.ToInt64(head, lengthAt));
        var parents = new List<string?>();
        if (place > 0)
        {
            if (place > file.LengthBytes / SectorBytes || length is <= 0 or > MostBytes / SectorBytes)
                throw Damaged("its header puts its text where none can be");
            parents.Add(ParentIn(TextAt(file, place * SectorBytes, (int)length * SectorBytes)));
        }

        if (place != UsualPlace / SectorBytes && TextAt(file, UsualPlace, UsualBytes) is var usual && usual.StartsWith('#'))
            parents.Add(ParentIn(usual));
        return parents.Distinct().Count() <= 1
            ? new VmdkText([], parents.FirstOrDefault(), (BitConverter.ToUInt32(head, flagsAt) & packed) != 0)
            : throw Damaged("it has two texts, which name different files");
    }

    /// <summary>A text that is a file by itself.</summary>
    /// <exception cref="Errors.UnreadableException">It is damaged, or of a form that keel can't follow.</exception>
    public static VmdkText OfText(IReadableBlocks file)
    {
        if (file.LengthBytes > MostBytes) throw Damaged("its text is far too long");
        var text = TextAt(file, 0, (int)file.LengthBytes);
        var extents = new List<VmdkExtent>();
        foreach (var line in Lines(text).Where(IsExtent))
        {
            extents.Add(ExtentIn(line));
            if (extents.Count > MostExtents) throw Damaged("it has far too many parts");
        }

        return extents.Count > 0 ? new VmdkText(extents, ParentIn(text)) : throw Damaged("it names no part that could be read");
    }

    /// <summary>
    /// Writes a text of the same parts under names that lead to the files that were resolved, and nowhere else; gives its path.
    /// </summary>
    /// <param name="extents">The parts, their paths full.</param>
    /// <param name="folder">A private folder, which is made.</param>
    public static string WriteResolved(IReadOnlyList<VmdkExtent> extents, string folder)
    {
        Directory.CreateDirectory(folder);
        var text = new StringBuilder("# Disk DescriptorFile\nversion=1\nCID=fffffffe\nparentCID=ffffffff\n");
        text.Append("createType=\"twoGbMaxExtentFlat\"\n");
        for (var number = 0; number < extents.Count; number++)
        {
            var extent = extents[number];
            File.CreateSymbolicLink(Path.Combine(folder, $"part{number}"), extent.Path);
            text.Append(CultureInfo.InvariantCulture, $"RW {extent.Sectors} {extent.Kind} \"part{number}\"");
            if (extent.Kind == "FLAT") text.Append(CultureInfo.InvariantCulture, $" {extent.FirstSector ?? 0}");
            text.Append('\n');
        }

        text.Append("ddb.adapterType = \"ide\"\n");
        var path = Path.Combine(folder, "text");
        File.WriteAllText(path, text.ToString());
        return path;
    }

    private static bool IsExtent(string line) =>
        Access.Contains(line.Split((char[])[' ', '\t', '"'], 2)[0], StringComparer.Ordinal);

    private static VmdkExtent ExtentIn(string line)
    {
        var (before, quoted) = (line.IndexOf('"', StringComparison.Ordinal), line.LastIndexOf('"'));
        var words = (before < 0 ? line : line[..before]).Split((char[])[' ', '\t'], StringSplitOptions.RemoveEmptyEntries);
        if (words.Length != 3
            || words[0] != "RW"
            || quoted <= before
            || !long.TryParse(words[1], NumberStyles.None, CultureInfo.InvariantCulture, out var sectors)
            || sectors is <= 0 or > long.MaxValue / SectorBytes)
        {
            throw Damaged($"a line of its text is none that keel can follow: {line}");
        }

        if (!Flat.Contains(words[2], StringComparer.Ordinal) && !Sparse.Contains(words[2], StringComparer.Ordinal))
            throw Damaged($"it has a part of the kind {words[2]}");
        var name = line[(before + 1)..quoted];
        if (name.Length == 0 || name.Contains('"')) throw Damaged("a part of it has no name");
        var rest = line[(quoted + 1)..].Trim();
        if (rest.Length == 0) return new VmdkExtent(sectors, words[2], name, FirstSector: null);
        return long.TryParse(rest.Split(' ', '\t')[0], NumberStyles.None, CultureInfo.InvariantCulture, out var first)
            ? new VmdkExtent(sectors, words[2], name, first)
            : throw Damaged($"a line of its text is none that keel can follow: {line}");
    }

    private static string? ParentIn(string text)
    {
        string? name = null, id = null;
        foreach (var line in Lines(text))
        {
            if (ValueOf(line, "parentFileNameHint") is { } hint) name = hint.Trim('"');
            if (ValueOf(line, "parentCID") is { } parent) id = parent;
        }

        if (id is null || id.Equals(NoParent, StringComparison.OrdinalIgnoreCase)) return null;
        return name is { Length: > 0 } ? name : throw Damaged("it differs from another one, and does not say from which");
    }

    private static string? ValueOf(string line, string key)
    {
        var at = line.IndexOf('=', StringComparison.Ordinal);
        return at > 0 && line[..at].Trim().Equals(key, StringComparison.OrdinalIgnoreCase) ? line[(at + 1)..].Trim() : null;
    }

    private static IEnumerable<string> Lines(string text) =>
        text.Split('\n').Select(line => line.Trim(' ', '\t', '\r')).Where(line => line.Length > 0 && line[0] != '#');

    private static string TextAt(IReadableBlocks file, long at, int length)
    {
        var count = (int)Math.Clamp(file.LengthBytes - at, 0, length);
        var text = file.TryReadAnyway(at, count) is { } bytes ? Encoding.UTF8.GetString(bytes) : "";
        var end = text.IndexOf('\0', StringComparison.Ordinal);
        return end < 0 ? text : text[..end];
    }

    private static Errors.UnreadableException Damaged(string why) => VirtualDiskErrors.Damaged("VMDK", why);
}
