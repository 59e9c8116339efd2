namespace Keel.Cli.Wording;

/// <summary>What a machine remembers, in keel's own words.</summary>
internal static class HistoryWords
{
    public static readonly (string Id, string Text)[] All =
    [
        ("history.started", "Windows began to start"),
        ("history.services-ran", "it started, so far that services ran"),
        ("history.shut-down", "it was shut down in order"),
        ("history.unexpected-end", "it had gone off before without being shut down"),
        ("history.power-lost", "it had gone off before, or was reset, without being shut down"),
        ("history.fast-start-failed", "waking from the fast shutdown failed, so it started in full"),
        ("history.log-cleared", "the event log was emptied"),
        ("history.stop-noted", "the start before ended in stop {stop}[, dump {path}]"),
        ("history.dump", "stop {stop}, with {parameters}"),
        ("history.service-failed", "service {driver} did not start"),
        ("history.service-waits", "service {driver} did not start, because one that it needs did not"),
        ("history.drivers-not-loaded", "these drivers did not load: {names#6}"),
        ("history.bad-block", "a block of {device} could not be read"),
        ("history.controller-error", "the controller of {device} reported an error"),
        ("history.paging-error", "an error while memory was moved to or from {device}"),
        ("history.disk-predicts-failure", "{device} says itself that it will fail soon"),
        ("history.disk-retried", "reading or writing {device} had to be tried again"),
        ("history.disk-removed", "{device} vanished while it was in use"),
        ("history.controller-reset", "{device} did not answer, and was reset"),
        ("history.file-system-damaged", "the file system of {device} is damaged"),
        ("history.file-system-check", "the file system of {device} wants to be checked"),
        ("history.file-system-repaired", "the file system of {device} was repaired"),
        ("history.no-dump-possible", "no crash dump can be written: the page file is missing or too small"),
        ("history.dump-failed", "a crash dump could not be written"),
        ("history.service-new", "driver or service {driver} was installed[, {start}][: {path}]"),
        ("history.driver-new", "driver package {driver} was installed[, version {version}][, for {device}]"),
        ("history.driver-key", "the settings of driver {driver} were written, later than the rest"),
        ("history.device-installed", "a device was set up: {what}"),
        ("history.device-failed", "setting a device up failed: {what}"),
        ("history.update-installed", "update installed: {title}"),
        ("history.update-failed", "update failed[ ({code})]: {title}"),
        ("history.update-begun", "update begun: {title}"),
        ("history.servicing-log", "the servicing log ends with: {said}"),
        ("history.setup-errors", "the log of setup's errors ends with: {said}"),
        ("history.setup-rollback", "a setup was rolled back; its log ends with: {said}"),
        ("history.pending-files", "{pendingCount:file operation waits|file operations wait} for the next start"),
        ("history.event", "[{said}]"),

        (
            "step.switch-off-new-driver",
            "Switch driver {driver} off: it came just before the trouble, and no copy of it is sound."),
        ("line.started-without", "it started well without {driver} at {at}; the driver came at {written}"),
        (
            "update-half-done",
            "an update was not finished ({path} on {volume}[, written {written}])[, and the last good start was at {at}]")
    ];
}
