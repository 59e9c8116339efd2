namespace Keel.Cli.Wording;

/// <summary>What is told of boot files one by one, and of what the machine itself wrote down.</summary>
internal static class FileWords
{
    public static readonly (string Id, string Text)[] All =
    [
        ("boot-file.volume-unreadable", "{volume} can't be read"),
        ("boot-file.unreadable", "unreadable: {why}"),
        ("boot-file.missing", "MISSING"),
        ("boot-file.folder", "a FOLDER in its place"),
        ("boot-file.empty", "EMPTY"),
        ("boot-file.zeros", "holds ZEROS only"),
        ("boot-file.no-program", "no program"),
        ("boot-file.cut-short", "CUT SHORT"),
        ("boot-file.other-processor", "for another processor"),
        ("boot-file.packed", "{attributes}: boot code can't read it"),
        ("boot-file.attributes", "{attributes}, and should not be"),
        ("boot-file.older", "older than the installation's copy ({otherVersion})"),
        ("boot-file.shorter", "shorter than the installation's copy ({sizeBytes:byte|bytes})"),

        (
            "trace.boot-status",
            "the last start {isStarted?came|did NOT come} to its end, the last shutdown {isShutDown?did|did NOT}"),
        (
            "trace.start-repair",
            "Windows tried to repair its start[, {times:time|times}][, because of stop {stop}]; its log ends with: {said}"),
        ("trace.start-log", "the log of a start ends with: {said}"),
        ("trace.servicing-pending", "an update or another change of Windows was not finished")
    ];
}
