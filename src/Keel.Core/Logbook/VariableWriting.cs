using Keel.Core.Errors;
using Keel.Core.Firmware;

namespace Keel.Core.Logbook;

/// <summary>Brings the firmware variables of a record to the state before or after it.</summary>
internal static class VariableWriting
{
    public static RecordedVariables? Describe(VariableChanges? changes) => changes is null ? null : new RecordedVariables(
        changes.Folder,
        [.. changes.Files.Select(change =>
            new RecordedVariable(
                change.Name,
                Text(change.Before),
                Text(change.After),
                VariableFile.IsProtected(changes.Folder, change.Name)))]);

    /// <summary>What the variables of a record hold now, to be put back to what they held before it.</summary>
    public static RecordedVariables AsTheyAre(RecordedVariables old, string folder) =>
        new(
            folder,
            [.. old.Files.Select(file =>
                new RecordedVariable(
                    file.Name,
                    Text(VariableFile.Read(folder, file.Name)),
                    file.Before,
                    file.Protected || VariableFile.IsProtected(folder, file.Name)))]);

    /// <exception cref="RefusedException">A variable is not what it was when the plan was made.</exception>
    public static void RefuseIfChanged(VariableChanges changes)
    {
        if (changes.Files.FirstOrDefault(file => !Holds(changes.Folder, file.Name, file.Before)) is not { } other) return;
        throw new RefusedException(
            $"The firmware variable {other.Name} has changed since it was looked at, and nothing was written.",
            "Another program has written to it in the meantime.",
            "End the other program, and run the same command again.");
    }

    /// <summary>
    /// The names of variables that are neither as before nor as after; one that was cut off while it was written counts as
    /// between.
    /// </summary>
    public static IEnumerable<string> Foreign(RepairRecord record, string folder)
    {
        var isBetween = RepairRecord.IsBetween(record.Parts[record.VariablesPart!.Value]);
        return record.Document.Variables!.Files
            .Where(file =>
                !Holds(folder, file.Name, file.BytesAfter)
                    && !(isBetween && IsBetween(VariableFile.Read(folder, file.Name), file)))
            .Select(file => $"variable {file.Name}");
    }

    /// <summary>Writes one side, and reads it back.</summary>
    public static void Carry(RecordedVariables variables, string folder, bool toAfter)
    {
        foreach (var file in variables.Files)
        {
            var bytes = toAfter ? file.BytesAfter : file.BytesBefore;
            if (!Holds(folder, file.Name, bytes)) VariableFile.Write(folder, file.Name, bytes);
            if (bytes is not null && file.Protected) VariableFile.Protect(folder, file.Name);
            if (!Holds(folder, file.Name, bytes))
            {
                throw new UnreadableException(
                    $"What was written to the firmware variable {file.Name} does not read back the same.",
                    "The firmware did not take it.",
                    "Look at its settings: some lock their start entries.");
            }
        }
    }

    private static bool Holds(string folder, string name, byte[]? bytes) => Same(VariableFile.Read(folder, name), bytes);

    private static bool IsBetween(byte[]? now, RecordedVariable file) =>
        now is null || Same(now, file.BytesBefore) || IsBeginning(now, file.BytesAfter) || IsBeginning(now, file.BytesBefore);

    private static bool IsBeginning(byte[] now, byte[]? whole) => whole is not null && whole.AsSpan().StartsWith(now);

    private static bool Same(byte[]? one, byte[]? other) =>
        one is null || other is null ? one == other : one.AsSpan().SequenceEqual(other);

    private static string? Text(byte[]? bytes) => bytes is null ? null : Convert.ToBase64String(bytes);
}
