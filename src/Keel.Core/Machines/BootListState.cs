using System.Text;
using Keel.Core.BootLists;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Machines;

/// <summary>The list of systems of an NT 5 machine, or why there is none.</summary>
/// <param name="Condition">How it stands.</param>
/// <param name="Seen">What was seen, for people.</param>
/// <param name="List">The list; also one that can only be read by guessing at its text.</param>
public sealed record BootListState(BootListCondition Condition, Remark Seen, BootList? List)
{
    /// <summary>Where it lies on the system volume.</summary>
    public const string Path = @"\boot.ini";

    private const int MostBytes = 64 * 1024;

    /// <summary>The error of the disk, where it does not give the file.</summary>
    public ReadFailedException? DiskError { get; private init; }

    /// <summary>Reads the one of a machine.</summary>
    internal static BootListState Of(Machine machine)
    {
        if (machine.SystemVolume is not { } volume)
            return new(BootListCondition.NoVolume, Remark.Of("system-volume.not-known"), null);
        if (volume.Files is not { } files)
            return new(BootListCondition.NoVolume, Remark.Of("volume.files-unreadable", Fact.Volume.Is(volume.Ref)), null);
        KnownFact[] where = [Fact.Path.Is(Path), Fact.Volume.Is(volume.Ref)];
        try
        {
            return Of(files, where, PageOf(machine));
        }
        catch (ReadFailedException e)
        {
            return new(BootListCondition.Unreadable, Remark.Of("boot-list.said", [.. where, Fact.Said.Is(e.What)]), null)
            {
                DiskError = e
            };
        }
        catch (KeelException e)
        {
            return new(BootListCondition.Unreadable, Remark.Of("boot-list.said", [.. where, Fact.Said.Is(e.Why)]), null);
        }
    }

    private static BootListState Of(IVolume files, KnownFact[] where, Encoding page)
    {
        switch (files.Find(Path))
        {
            case null: return new(BootListCondition.Missing, Remark.Of("file.missing", where), null);
            case { IsFolder: true }: return new(BootListCondition.Unreadable, Remark.Of("file.folder", where), null);
            case { SizeBytes: 0 }: return new(BootListCondition.Empty, Remark.Of("file.empty", where), null);
            case { SizeBytes: > MostBytes }:
                return new(BootListCondition.Unreadable, Remark.Of("boot-list.too-large", where), null);
            default: return Of(files.ReadFile(Path), where, page);
        }
    }

    private static BootListState Of(byte[] bytes, KnownFact[] where, Encoding page)
    {
        if (AsWide(bytes) is { } wide)
            return new(
                BootListCondition.Unreadable,
                Remark.Of("boot-list.wide", where),
                BootList.Read(page.GetBytes(wide), page));
        var list = BootList.Read(bytes, page);
        if (bytes.AsSpan().IndexOfAnyInRange((byte)0, (byte)8) >= 0)
            return new(BootListCondition.Unreadable, Remark.Of("boot-list.no-text", where), null);
        return list.Lines.Count == 0
            ? new(BootListCondition.Empty, Remark.Of("boot-list.no-systems", where), list)
            : new(BootListCondition.Loaded, Remark.Of("boot-list.sound", [.. where, Fact.EntryCount.Is(list.Lines.Count)]), list);
    }

    /// <summary>The text of a file that an editor saved in two bytes a letter, which the loader does not read.</summary>
    private static string? AsWide(byte[] bytes) => bytes switch
    {
        [0xFF, 0xFE, ..] => Encoding.Unicode.GetString(bytes, 2, bytes.Length - 2),
        [0xFE, 0xFF, ..] => Encoding.BigEndianUnicode.GetString(bytes, 2, bytes.Length - 2),
        [(byte)'[', 0, ..] => Encoding.Unicode.GetString(bytes),
        _ => null
    };

    /// <summary>The code page of the console, as the first NT 5 Windows that tells it says.</summary>
    internal static Encoding PageOf(Machine machine)
    {
        foreach (var windows in machine.Installations.Where(found => found.IsNt5))
        {
            if (windows.Volume.Files is { } files && PageOf(files, windows.SystemHivePath) is { } number)
                return BootListPages.Of(number);
        }

        return BootListPages.Of(BootListPages.Usual);
    }

    private static int? PageOf(IVolume files, string hive)
    {
        try
        {
            var current = InstallationFinder.TryKey(files, hive, "Select")?.Value("Current")?.AsNumber() ?? 1;
            var pages = InstallationFinder.TryKey(files, hive, $@"ControlSet{current:000}\Control\Nls\CodePage");
            return int.TryParse(pages?.Value("OEMCP")?.AsText(), out var number) ? number : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
