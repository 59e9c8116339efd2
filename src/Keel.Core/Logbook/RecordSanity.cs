using Keel.Core.Blocks;

namespace Keel.Core.Logbook;

/// <summary>Whether a record that was read can be trusted with a disk: complete, and no number out of its bounds.</summary>
internal static class RecordSanity
{
    /// <exception cref="DamagedRecordException">It can't.</exception>
    public static void Check(string id, RecordDocument? document, RecordStates states)
    {
        if (document is not { Disks: not null, Steps: not null, Program: not null } || document.Id != id)
            throw new DamagedRecordException(id, "a part of it is missing");
        if (states.Parts.Count != document.Disks.Count + (document.Variables is null ? 0 : 1))
            throw new DamagedRecordException(id, "its state speaks of another number of disks");
        if (document.Steps.Any(step => step is not { Link: not null, Finding: not null, Summary: not null }))
            throw new DamagedRecordException(id, "a step is incomplete");
        foreach (var disk in document.Disks) Check(id, disk);
        if (document.Variables is { } variables) Check(id, variables);
    }

    private static void Check(string id, RecordedDisk? disk)
    {
        if (disk is not { Path.Length: > 0, Ranges: not null, IdentityBefore: not null, IdentityAfter: not null })
            throw new DamagedRecordException(id, "a disk is incomplete");
        foreach (var range in disk.Ranges)
        {
            if (range is not { Length: > 0 and <= DiskChanges.RangeLimitBytes, Start: >= 0 }
                || range.Start > disk.LengthBytes - range.Length)
            {
                throw new DamagedRecordException(id, "a range lies outside its disk");
            }

            if (Checksum.TryParse(range.Before) is null || Checksum.TryParse(range.After) is null)
                throw new DamagedRecordException(id, "a range has no checksum");
        }
    }

    private static void Check(string id, RecordedVariables variables)
    {
        if (variables is not { Folder.Length: > 0, Files: not null })
            throw new DamagedRecordException(id, "its firmware variables are incomplete");
        foreach (var file in variables.Files)
        {
            if (file is not { Name.Length: > 0 }
                || file.Name.Contains('/', StringComparison.Ordinal)
                || !IsBase64(file.Before)
                || !IsBase64(file.After))
            {
                throw new DamagedRecordException(id, "a firmware variable is incomplete");
            }
        }
    }

    private static bool IsBase64(string? text) => text is null || Convert.TryFromBase64String(text, new byte[text.Length], out _);
}
