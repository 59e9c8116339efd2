using Keel.Core.Errors;
using Keel.Core.Firmware;

namespace Keel.Core.Logbook;

/// <summary>Brings the firmware variables of a record to the state before or after it.</summary>
internal static class VariableRewriting
{
    public static RecordedVariable Record(VariableChange change) => new(
        change.Name, change.Before is null ? null : Convert.ToBase64String(change.Before), change.After is null ? null : Convert.ToBase64String(change.After));

    public static bool Holds(string folder, string name, byte[]? bytes) =>
        VariableFile.Read(folder, name) is var now && (now is null || bytes is null ? now == bytes : now.AsSpan().SequenceEqual(bytes));

    /// <summary>The names of variables that are neither as before nor as after.</summary>
    public static IEnumerable<string> Foreign(RecordedVariables variables, bool pending) => variables.Files
        .Where(file => !Holds(variables.Folder, file.Name, file.BytesAfter) && !(pending && Holds(variables.Folder, file.Name, file.BytesBefore)))
        .Select(file => $"variable {file.Name}");

    /// <summary>Writes one side, and reads it back.</summary>
    public static void Carry(RecordedVariables variables, bool toAfter)
    {
        foreach (var file in variables.Files)
        {
            var bytes = toAfter ? file.BytesAfter : file.BytesBefore;
            if (Holds(variables.Folder, file.Name, bytes)) continue;
            VariableFile.Write(variables.Folder, file.Name, bytes);
            if (!Holds(variables.Folder, file.Name, bytes))
                throw new UnreadableException($"What was written to the firmware variable {file.Name} does not read back the same.", "The firmware did not take it.", "Look at its settings: some lock their start entries.");
        }
    }
}
