using System.Buffers.Binary;
using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Core.Firmware;

/// <summary>
/// The start variables of a UEFI firmware: one file each in a folder, as Linux shows them; changes stay in memory.
/// </summary>
/// <remarks>A file is 4 bytes of attributes and then the data (Linux, Documentation/filesystems/efivarfs).</remarks>
public sealed class FirmwareVariables
{
    /// <summary>Where Linux shows the variables of the machine that it runs on.</summary>
    public const string UsualFolder = "/sys/firmware/efi/efivars";
    private const string GlobalGuid = "8be4df61-93ca-11d2-aa0d-00e098032b8c";
    private const string DatabaseGuid = "d719b2cb-3d3a-4596-a3bc-dad00e67656f";
    private const int DatabaseLimitBytes = 1024 * 1024;
    private const int AttributeBytes = 4, LimitBytes = 64 * 1024, CountLimit = 4096;
    private const uint KeptAtBothTimes = 7;                     // survives power off, seen by start programs and by systems

    private const string OrderName =
        "BootOrder-" + GlobalGuid, NextName = "BootNext-" + GlobalGuid, CurrentName = "BootCurrent-" + GlobalGuid;

    private readonly Dictionary<string, byte[]> files;
    private Dictionary<string, byte[]?> changed = new(StringComparer.OrdinalIgnoreCase);

    private FirmwareVariables(string folder, Dictionary<string, byte[]> files)
    {
        Folder = folder;
        this.files = files;
    }

    /// <summary>The folder with the variable files.</summary>
    public string Folder { get; }

    /// <summary>Whether this computer was started through UEFI and shows its variables.</summary>
    public static bool AreHere => Directory.Exists(UsualFolder) && Directory.EnumerateFileSystemEntries(UsualFolder).Any();

    /// <summary>Told before every change: whoever keeps something read from the variables forgets it.</summary>
    public Action? Changing { get; set; }

    /// <summary>The numbers of the start order; empty where there is none.</summary>
    public IReadOnlyList<ushort> Order
    {
        get
        {
            var data = Data(OrderName) ?? [];
            return [.. Enumerable
                .Range(0, data.Length / 2)
                .Select(index => BinaryPrimitives.ReadUInt16LittleEndian(data.AsSpan(index * 2)))];
        }
        set => Set(OrderName, [.. value.SelectMany(number => new[] { (byte)number, (byte)(number >> 8) })]);
    }

    /// <summary>The entry for the next start alone; null where none is set.</summary>
    public ushort? Next
    {
        get => Number(NextName);
        set
        {
            if (value is { } number) Set(NextName, [(byte)number, (byte)(number >> 8)]);
            else Remove(NextName);
        }
    }

    /// <summary>The entry that the running system was started through; null where that is not told.</summary>
    public ushort? Current => Number(CurrentName);

    /// <summary>The numbers of all entries, those in the order first.</summary>
    public IReadOnlyList<ushort> Numbers
    {
        get
        {
            var there = files.Keys
                .Where(name => changed.GetValueOrDefault(name, []) is not null)
                .Concat(changed.Where(file => file.Value is not null).Select(file => file.Key))
                .Select(NumberOf).OfType<ushort>().Distinct().Order().ToList();
            return [.. Order.Distinct().Where(there.Contains), .. there.Where(number => !Order.Contains(number))];
        }
    }

    /// <summary>Reads the start variables of a folder; others are not looked at.</summary>
    /// <exception cref="UnreadableException">There is no such folder, or it can't be read.</exception>
    public static FirmwareVariables Open(string folder)
    {
        try
        {
            var full = Path.GetFullPath(folder);
            if (!Directory.Exists(full))
            {
                throw new UnreadableException(
                    $"The firmware's variables can't be read: there is no folder {folder}.",
                    folder == UsualFolder
                        ? "This computer was started through BIOS, or its efivarfs is not mounted."
                        : "It is not there, or not a folder.",
                    "Start the rescue system through UEFI, or name a folder of variable files with --variables.");
            }

            var names = Directory
                .EnumerateFiles(full, "Boot*-" + GlobalGuid, new EnumerationOptions { MatchCasing = MatchCasing.CaseInsensitive })
                .Take(CountLimit);
            return new FirmwareVariables(
                full,
                Distinct(names).ToDictionary(
                    path => Path.GetFileName(path),
                    path => ReadFile(path, LimitBytes),
                    StringComparer.OrdinalIgnoreCase));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw CantRead(folder, e);
        }
    }

    /// <summary>Names that differ in case only are one variable to a firmware; the first in order is taken.</summary>
    private static IEnumerable<string> Distinct(IEnumerable<string> paths) =>
        paths.Order(StringComparer.Ordinal).DistinctBy(Path.GetFileName, StringComparer.OrdinalIgnoreCase);

    /// <summary>Variables that were read elsewhere.</summary>
    internal static FirmwareVariables Of(string folder, Dictionary<string, byte[]> files) => new(folder, files);

    /// <summary>Whether the firmware starts signed programs only, and whose; read anew at each call.</summary>
    /// <exception cref="UnreadableException">A variable is there and can't be read.</exception>
    public SecureBoot ReadSecureBoot() =>
        Other("SecureBoot-" + GlobalGuid) is not { Length: > 0 } switchedOn
            ? SecureBoot.Unknown
            : new SecureBoot(
                switchedOn[0] == 1,
                SignatureDatabase.Read(Other("db-" + DatabaseGuid) ?? []),
                SignatureDatabase.Read(Other("dbx-" + DatabaseGuid) ?? []));

    /// <summary>The data of a variable that keel never changes; null where there is none.</summary>
    private byte[]? Other(string name)
    {
        var path = Path.Combine(Folder, name);
        try
        {
            return HostFile.ReadIfThere(path, DatabaseLimitBytes, followLink: false) is { Length: >= AttributeBytes } bytes
                ? bytes[AttributeBytes..]
                : null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw CantRead(Folder, e);
        }
    }

    /// <summary>An entry; null where it is missing or damaged.</summary>
    public LoadOption? Entry(ushort number) => Data(NameOf(number)) is { } data ? LoadOption.TryRead(data) : null;

    /// <summary>Writes an entry.</summary>
    public void SetEntry(ushort number, LoadOption entry) => Set(NameOf(number), entry.ToBytes());

    /// <summary>Adds an entry under the first free number, and gives that; the order stays as it is.</summary>
    public ushort Add(LoadOption entry)
    {
        var taken = Numbers.Concat(Order).ToHashSet();
        var number = (ushort)Enumerable.Range(0, ushort.MaxValue).First(candidate => !taken.Contains((ushort)candidate));
        SetEntry(number, entry);
        return number;
    }

    /// <summary>Drops an entry, and takes it out of the order and of the next start.</summary>
    public void Drop(ushort number)
    {
        Remove(NameOf(number));
        if (Order.Contains(number)) Order = [.. Order.Where(other => other != number)];
        if (Next == number) Next = null;
    }

    /// <summary>The files that would change, with what they hold before and after; null where there is no such file.</summary>
    public IReadOnlyList<VariableChange> Changes() =>
        [.. changed
            .Select(file => new VariableChange(file.Key, files.GetValueOrDefault(file.Key), file.Value))
            .Where(change => !Same(change.Before, change.After))
            .OrderBy(change => change.Name, StringComparer.Ordinal)];

    /// <summary>What has changed so far, to come back to with <see cref="Restore"/>.</summary>
    public IReadOnlyDictionary<string, byte[]?> Save() =>
        new Dictionary<string, byte[]?>(changed, StringComparer.OrdinalIgnoreCase);

    /// <summary>Puts a state back; null stands for a variable that was not there.</summary>
    public void Restore(IReadOnlyDictionary<string, byte[]?> state)
    {
        Changing?.Invoke();
        changed = new Dictionary<string, byte[]?>(state, StringComparer.OrdinalIgnoreCase);
    }

    /// <summary>"Boot0003".</summary>
    public static string ShortName(ushort number) => $"Boot{number:X4}";

    private static bool Same(byte[]? before, byte[]? after) =>
        before is null || after is null ? before == after : before.AsSpan().SequenceEqual(after);

    private static string NameOf(ushort number) => $"{ShortName(number)}-{GlobalGuid}";

    private static ushort? NumberOf(string name) =>
        name.Length == "Boot0000-".Length + GlobalGuid.Length
            && ushort.TryParse(name.AsSpan(4, 4), System.Globalization.NumberStyles.HexNumber, null, out var number)
            ? number
            : null;

    private static UnreadableException CantRead(string folder, Exception e) => new(
        $"The firmware's variables in {folder} can't be read.",
        $"The system says: {e.Message}",
        "Run keel as root, or name another folder with --variables.",
        e);

    private static byte[] ReadFile(string path, int limitBytes)
    {
        try
        {
            return HostFile.Read(path, limitBytes, followLink: false);
        }
        catch (IOException e)
        {
            throw new UnreadableException(
                $"{path} is no variable of a firmware.",
                $"The system says: {e.Message}.",
                "Take the file out of the folder.",
                e);
        }
    }

    private ushort? Number(string name) =>
        Data(name) is { Length: >= 2 } data ? BinaryPrimitives.ReadUInt16LittleEndian(data) : null;

    private byte[]? Bytes(string name) => changed.TryGetValue(name, out var bytes) ? bytes : files.GetValueOrDefault(name);

    private byte[]? Data(string name) => Bytes(name) is { Length: >= AttributeBytes } bytes ? bytes[AttributeBytes..] : null;

    private void Set(string name, byte[] data)
    {
        var attributes = Bytes(name) is { Length: >= AttributeBytes } old
            ? BinaryPrimitives.ReadUInt32LittleEndian(old)
            : KeptAtBothTimes;
        var file = new byte[AttributeBytes + data.Length];
        BinaryPrimitives.WriteUInt32LittleEndian(file, attributes);
        data.CopyTo(file, AttributeBytes);
        Changing?.Invoke();
        changed[name] = file;
    }

    private void Remove(string name)
    {
        Changing?.Invoke();
        changed[name] = null;
    }
}
