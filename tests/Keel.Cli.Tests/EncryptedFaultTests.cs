using System.Text.Json;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// Every fault once more, on a machine whose Windows volume is encrypted: with the key it is found and mended as on a plain one,
/// and another's program opens the volume afterwards.
/// </summary>
public sealed class EncryptedFaultTests
{
    private const int DaysUntilAll = 12;

    /// <summary>What leaves nothing of the volume's beginning, so that there is nothing to encrypt.</summary>
    private static readonly string[] WithoutVolume = ["windows-volume-no-file-system"];

    public static TheoryData<string, string, string> Today()
    {
        string[] methods = ["xts128", "xts256", "cbc128", "cbc256", "diffused128", "diffused256"];
        var rows = new TheoryData<string, string, string>();
        var number = 0;
        var plain = Faults.All.Where(fault => fault is { IsEncrypted: false, IsNt5: false, IsInside: false, WithClone: false });
        foreach (var fault in plain)
        {
            foreach (var firmware in Enum.GetValues<FirmwareKind>().Where(fault.AppliesTo))
            {
                number++;
                if (WithoutVolume.Contains(fault.Id) || !Rotation.IsToday($"{fault.Id} {firmware}", DaysUntilAll)) continue;
                rows.Add(fault.Id, firmware == FirmwareKind.Uefi ? "uefi" : "bios", methods[number % methods.Length]);
            }
        }

        return rows;
    }

    [Theory, MemberData(nameof(Today))]
    public async Task It_is_found_and_mended_behind_the_lock(string fault, string firmware, string method)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, fault, firmware);
        await KeelProgram.Must(0, "drill", "new", fault, "--out", disk.Path, "--firmware", firmware, "--encrypted", method);
        using var plainScratch = new Scratch();
        var plain = new PracticeCase(plainScratch, fault, firmware);
        await plain.Make();
        var (before, lockBefore) = (await disk.Hash(), LockOf(disk));

        var expected = await plain.JsonOfAnyEnd("diagnose");
        var found = await disk.JsonOfAnyEnd("diagnose");
        Ids(found).ShouldBe(Ids(expected));
        found.GetProperty("verdict").GetString().ShouldBe(expected.GetProperty("verdict").GetString());

        string[] freely = ["--yes", "--replace-foreign", "--new-file-system"];
        var mendedPlain = await plain.JsonOfAnyEnd("mend", freely);
        var mended = await disk.JsonOfAnyEnd("mend", freely);
        mended.GetProperty("verdict").GetString().ShouldBe(mendedPlain.GetProperty("verdict").GetString());
        mended.GetProperty("plan").GetArrayLength().ShouldBe(mendedPlain.GetProperty("plan").GetArrayLength());
        LockOf(disk).ShouldBe(lockBefore, "the first sector and the metadata of the volume");
        if (mended.GetProperty("record").ValueKind == JsonValueKind.Null) return;
        if (mended.GetProperty("verdict").GetString() == "sound")
            await Tool.MustAgree("ntfsfix", "-n", await disk.PlainWindows(method));
        await disk.Undo();
        (await disk.Hash()).ShouldBe(before);
    }

    private static IEnumerable<string> Ids(JsonElement found) => FaultMatrix.Findings(found, "error", "warning");

    /// <summary>What encryption itself put on the volume: the first sector, and the three regions.</summary>
    private static string LockOf(PracticeCase disk)
    {
        const int regionBytes = 65536, placesAt = 0xB0;
        using var file = File.OpenRead(disk.Path);
        byte[] Read(long at, int length)
        {
            var bytes = new byte[length];
            file.Position = (disk.WindowsPart.Start * 1048576L) + at;
            file.ReadExactly(bytes);
            return bytes;
        }

        var sector = Read(0, 512);
        byte[] all =
        [
            .. sector,
            .. Enumerable.Range(0, 3)
                .SelectMany(number => Read(BitConverter.ToInt64(sector, placesAt + (number * 8)), regionBytes))
        ];
        return Convert.ToHexString(System.Security.Cryptography.SHA256.HashData(all));
    }
}
