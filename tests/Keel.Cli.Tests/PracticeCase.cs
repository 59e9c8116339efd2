using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>One practice disk of a test, with its firmware's variables: made, driven, started, judged.</summary>
internal sealed class PracticeCase(Scratch scratch, string fault, string firmware)
{
    private const string ThroughEntry = @"\EFI\Microsoft\Boot\bootmgfw.efi", ThroughFallback = @"\EFI\Boot\bootx64.efi";
    private readonly bool isUefi = firmware == "uefi";

    public string Path { get; } = scratch["disk.img"];

    /// <summary>The key is used for all but what is about the lock itself.</summary>
    private bool HasKey => File.Exists(Path + ".key") && !fault.StartsWith("volume-encrypted", StringComparison.Ordinal)
        && !fault.StartsWith("encryption-", StringComparison.Ordinal);

    public string Variables => Path + ".variables";

    /// <summary>The part of the image that is its system volume, in MiB.</summary>
    public (int Start, int Length) SystemPart => isUefi ? (1, 100) : (1, 64);

    public (int Start, int Length) WindowsPart => isUefi ? (117, 256) : (65, 256);

    private readonly bool isNt5 = Core.Drills.Faults.FindAll(fault).IsNt5;

    public Task Make() => KeelProgram.Practice(Path, fault, firmware);

    /// <summary>Disk and variables together.</summary>
    public async Task<string> Hash() => await Images.Hash(Path)
        + (Directory.Exists(Variables)
            ? string.Concat(
                Directory
                    .GetFiles(Variables)
                    .Order(StringComparer.Ordinal)
                    .Select(file => $" {System.IO.Path.GetFileName(file)[..8]}={Convert.ToHexString(File.ReadAllBytes(file))}"))
            : "");

    public Task<JsonElement> Json(int exitCode, string command, params string[] more) =>
        KeelProgram.Json(exitCode, [command, Path, .. With(), .. MediumFor(command), .. more]);

    /// <summary>The same, whatever the exit code says.</summary>
    public async Task<JsonElement> JsonOfAnyEnd(string command, params string[] more)
    {
        var (code, output, error) = await KeelProgram.Run(
            [command, Path, .. With(), .. MediumFor(command), .. more, "--format", "json"]);
        output.ShouldNotBeEmpty($"{code}: {error}");
        return JsonDocument.Parse(output).RootElement;
    }

    public Task<string> Must(int exitCode, string command, params string[] more) =>
        KeelProgram.Must(exitCode, [.. command.Split(' '), Path, .. With(), .. MediumFor(command), .. more]);

    /// <summary>Takes the last repair back, of the disk and of its firmware's variables.</summary>
    public Task<string> Undo(params string[] more)
    {
        string[] variables = Directory.Exists(Variables) ? ["--variables", Variables] : [];
        return KeelProgram.Must(0, ["undo", Path, "--yes", .. variables, "--logbook", scratch["logbook"], .. more]);
    }

    /// <summary>
    /// Before the mend: whether the firmware reaches the boot manager where it should be. Gives what was seen, in words.
    /// </summary>
    public async Task<string> StartsBefore(bool reaches)
    {
        if (!isUefi && fault != "layout-firmware-mismatch")
        {
            (await Emulator.Reaches(Path, seconds: reaches ? 30 : 2)).ShouldBe(reaches);
            return reaches ? "reached" : "not reached";
        }

        if (IsBehindTheManager) return "not tried: the stand-in reads nothing behind itself";
        if (!IsStarted) return "";
        var said = await Start(fault == "fallback-missing" ? null : Variables);
        if (reaches
            && fault is not ("fallback-missing"
                or "firmware-entry-missing"
                or "firmware-order-wrong"
                or "layout-firmware-mismatch"))
        {
            said.ShouldContain(ThroughEntry, Case.Insensitive);
        }
        else
            said.ShouldNotContain(ThroughEntry, Case.Insensitive);
        if (fault is "fallback-missing"
            or "esp-formatted"
            or "esp-fat-damaged"
            or "gpt-protective-missing"
            or "layout-firmware-mismatch")
        {
            said.ShouldBe("");
        }

        return said.Length == 0 ? "not reached"
            : said.Contains(ThroughEntry, StringComparison.OrdinalIgnoreCase) ? "through its entry"
            : "through the fallback file only";
    }

    /// <summary>
    /// After the mend: the firmware reaches it through its entry, and without any entry through the fallback file.
    /// </summary>
    public async Task<string> StartsAfter()
    {
        if (!isUefi)
        {
            (await Emulator.Reaches(Path)).ShouldBeTrue();
            return "reached";
        }

        if (!IsStarted || (IsBehindTheManager && !MatrixRow.IsWanted)) return "";
        var said = await Start(Variables);
        said.ShouldContain(ThroughEntry, Case.Insensitive);
        said.ShouldContain("options 0088");
        if (!TouchesFallback) return "through its entry";
        (await Start(null)).ShouldContain(ThroughFallback, Case.Insensitive);
        return "through its entry, and through the fallback file";
    }

    /// <summary>File systems, table and store are judged by others' programs.</summary>
    public async Task OthersAgree()
    {
        var system = Images.Part(Path, scratch, "system.volume", SystemPart.Start, SystemPart.Length);
        await Tool.MustAgree("ntfsfix", "-n", await PlainWindows());
        (await Tool.MustAgree("sfdisk", "--verify", Path)).ShouldContain("No errors");
        if (isUefi)
        {
            (await Tool.MustAgree("sgdisk", "--verify", Path)).ShouldContain("No problems found");
            await Tool.MustAgree("fsck.fat", "-n", system);
            await Tool.MustAgree("mcopy", "-n", "-i", system, "::EFI/Microsoft/Boot/BCD", scratch["BCD"]);
        }
        else
        {
            await Tool.MustAgree("ntfsfix", "-n", system);
            if (isNt5)
            {
                await OthersReadHive();
                return;
            }

            await Tool.MustAgree("sh", "-c", $"ntfscat -f {system} Boot/BCD > {scratch["BCD"]}");
        }

        await Tool.MustAgree("regfinfo", scratch["BCD"]);
        (await Tool.MustAgree("hivexml", scratch["BCD"])).ShouldContain("9dea862c-5cdd-4e70-acc1-f32b344d4795");
    }

    /// <summary>The Windows volume; where it is encrypted, as another's program opens it.</summary>
    public async Task<string> PlainWindows(string method = "xts128")
    {
        var volume = Images.Part(Path, scratch, "windows.volume", WindowsPart.Start, WindowsPart.Length);
        if (!File.Exists(Path + ".key")) return volume;
        var key = (await File.ReadAllTextAsync(Path + ".key")).Trim();

        // The libbde of Debian opens no volume of this method, Windows' own neither.
        return method == "xts256"
            ? await OtherDecryptor.Decrypt(scratch, volume, key)
            : await OtherDecryptor.Mounted(scratch, volume, "-r", key);
    }

    /// <summary>The SYSTEM hive of an NT 5 Windows.</summary>
    private async Task OthersReadHive()
    {
        var windows = scratch["windows.volume"];
        await Tool.MustAgree("sh", "-c", $"ntfscat -f {windows} WINDOWS/system32/config/system > {scratch["system"]}");
        await Tool.MustAgree("regfinfo", scratch["system"]);
        (await Tool.MustAgree("hivexml", scratch["system"])).ShouldContain("ControlSet001");
    }

    /// <summary>What the stand-in says when OVMF starts the disk with these variables.</summary>
    public async Task<string> Start(string? variables)
    {
        var flash = scratch[$"flash{Guid.NewGuid():N}"];
        OvmfVariables.Make(flash, variables);
        return await Emulator.StartUefi(Path, flash);
    }

    /// <summary>OVMF takes its time: each fault is started every third day, and whenever all are wanted.</summary>
    private bool IsStarted => MatrixRow.IsWanted || Rotation.IsToday(fault, 3);

    private bool IsBehindTheManager =>
        new[]
        {
            "store-",
            "entry-",
            "order-",
            "preferred-",
            "manager-entry-",
            "wait-",
            "device-",
            "loader-",
            "system-hive-",
            "control-",
            "kernel-",
            "driver-",
            "storage-",
            "volume-",
            "mft-",
            "clone-",
            "windows-",
            "software-",
            "start-driver-",
            "inside-",
            "recovery-",
            "detect-",
            "boot-list-",
            "boot-line-",
            "nt5-hive-",
            "nt5-kernel-",
            "logon-",
            "userinit-",
            "boot-execute-",
            "encrypted-",
            "encryption-",
            "files-packed-", "controller-"
        }.Any(beginning => fault.StartsWith(beginning, StringComparison.Ordinal));

    private bool TouchesFallback =>
        fault is "none" or "manager-missing" or "files-hidden-locked"
            || fault.StartsWith("esp-", StringComparison.Ordinal)
            || fault.StartsWith("fallback-", StringComparison.Ordinal);

    private string[] MediumFor(string command) =>
        command == "mend" && Directory.Exists(Path + ".medium") ? ["--from", Path + ".medium"] : [];

    private string[] With() =>
    [
        "--logbook",
        scratch["logbook"],
        .. HasKey ? ["--unlock", Path + ".key"] : Array.Empty<string>(),
        .. File.Exists(Path + ".copy") ? ["--with", Path + ".copy"] : Array.Empty<string>(),
        .. Directory.Exists(Variables) ? ["--variables", Variables] : Array.Empty<string>()
    ];
}
