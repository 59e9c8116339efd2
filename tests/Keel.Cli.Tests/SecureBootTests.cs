using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// The boot manager is held against the keys that OVMF's firmware has enrolled, the usual ones: a loader signed for them, one
/// of a distribution, one without a signature.
/// </summary>
public sealed class SecureBootTests
{
    private const string GlobalGuid = "8be4df61-93ca-11d2-aa0d-00e098032b8c";
    private const string DatabaseGuid = "d719b2cb-3d3a-4596-a3bc-dad00e67656f";

    [Theory]
    [InlineData("BOOTX64.EFI", true, null)]
    [InlineData("grubx64.efi", true, "whom the firmware does not know")]
    [InlineData("stand-in", true, "has no signature")]
    [InlineData("stand-in", false, null)]
    [InlineData("forbidden", true, "is a program that the firmware was told to refuse")]
    public async Task A_manager_is_trusted_or_not_as_the_firmware_would(string program, bool isOn, string? words)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none", firmware: "uefi");
        var variables = disk + ".variables";
        Enroll(variables, isOn);
        var file = program == "forbidden" ? "grubx64.efi" : program;
        if (file != "stand-in") await PutManager(scratch, disk, file);
        if (program == "forbidden") await Forbid(scratch, variables);

        var diagnosis = await KeelProgram.Run("diagnose", disk, "--variables", variables, "--all");
        var flat = string.Join(' ', diagnosis.Output.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        if (words is null)
        {
            flat.ShouldNotContain("manager-not-trusted");
        }
        else
        {
            flat.ShouldStartWith("BROKEN at manager-file: Secure Boot is on, and the firmware refuses the boot manager.");
            flat.ShouldContain("This disk would show \"Secure Boot violation\"");
            flat.ShouldContain(words);
            flat.ShouldContain("Bring an installation medium that is up to date");
        }
    }

    [Theory]
    [InlineData(true, "Secure Boot is on: the firmware starts a boot manager only where it is signed")]
    [InlineData(false, "Secure Boot is off")]
    public async Task A_survey_says_whether_it_is_on_and_what_it_means_for_boot_code(bool isOn, string words)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none", firmware: "uefi");
        Enroll(disk + ".variables", isOn);
        var survey = await KeelProgram.Must(0, "survey", disk, "--variables", disk + ".variables");
        var flat = survey.ReplaceLineEndings(" ");
        flat.ShouldContain(words);
        if (isOn) flat.ShouldContain("neither keel's nor another's");
        (await KeelProgram.Json(0, "survey", disk, "--variables", disk + ".variables"))
            .GetProperty("secureBoot").GetBoolean().ShouldBe(isOn);
    }

    [Fact]
    public async Task Where_the_variables_do_not_tell_nothing_is_said()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none", firmware: "uefi");
        (await KeelProgram.Must(0, "survey", disk, "--variables", disk + ".variables")).ShouldNotContain("Secure Boot");
    }

    private static void Enroll(string folder, bool isOn)
    {
        OvmfVariables.Extract("/usr/share/OVMF/OVMF_VARS_4M.ms.fd", folder, "db");
        File.Exists(Path.Combine(folder, $"db-{DatabaseGuid}")).ShouldBeTrue();
        File.WriteAllBytes(Path.Combine(folder, $"SecureBoot-{GlobalGuid}"), [6, 0, 0, 0, (byte)(isOn ? 1 : 0)]);
    }

    /// <summary>A loader of the rescue medium in the place of the boot manager.</summary>
    private static async Task PutManager(Scratch scratch, string disk, string file)
    {
        var medium = $"{RescueMachine.Image}@@{await Images.StartOf(RescueMachine.Image, 2)}";
        await Tool.MustAgree("mcopy", "-i", medium, $"::/EFI/BOOT/{file}", scratch["manager.efi"]);
        var volume = $"{disk}@@{await Images.StartOf(disk, 1)}";
        await Tool.MustAgree("mcopy", "-o", "-i", volume, scratch["manager.efi"], "::/EFI/Microsoft/Boot/bootmgfw.efi");
    }

    /// <summary>Puts the manager's digest, as osslsigncode takes it, into dbx, behind what is there.</summary>
    private static async Task Forbid(Scratch scratch, string folder)
    {
        var (_, said, _) = await Tool.Run("osslsigncode", "verify", "-in", scratch["manager.efi"]);
        var line = said.Split('\n').First(text => text.Contains("Calculated message digest", StringComparison.Ordinal));
        var digest = line.Split(':')[1].Trim();
        byte[] list =
        [
            .. new Guid("c1c41626-504c-4092-aca9-41f936934328").ToByteArray(),
            .. BitConverter.GetBytes(28 + 48), .. BitConverter.GetBytes(0), .. BitConverter.GetBytes(48),
            .. new byte[16], .. Convert.FromHexString(digest)
        ];
        var path = Path.Combine(folder, $"dbx-{DatabaseGuid}");
        byte[] before = File.Exists(path) ? await File.ReadAllBytesAsync(path) : [0x27, 0, 0, 0];
        await File.WriteAllBytesAsync(path, [.. before, .. list]);
    }
}
