using System.CommandLine;
using Keel.Cli.Views;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Firmware;
using Keel.Core.Keys;
using Keel.Core.Machines;

namespace Keel.Cli.Commands;

/// <summary>keel drill list | new | check</summary>
internal static class DrillCommand
{
    /// <summary>By their numbers.</summary>
    private static readonly string[] PackingMethods = ["xpress4k", "lzx", "xpress8k", "xpress16k"];

    public static Command Create(CommonOptions common) =>
        new("drill", "Practice disks with a fault and a service ticket, made up at Brackwater Ferries.")
        {
            List(common),
            New(common),
            Check(common)
        };

    private static Command List(CommonOptions common)
    {
        var answers = new Option<bool>("--answers") { Description = "name the faults too" };
        var command = new Command("list", "The tickets one can practise on.") { answers };
        command.SetAction(parsed =>
        {
            new DrillView(common.OutputOf(parsed)).ShowList(Faults.All, parsed.GetValue(answers));
            return 0;
        });
        return command;
    }

    private static Command New(CommonOptions common)
    {
        var fault = new Argument<string>("FAULT")
        {
            Description = "a ticket such as BF-1041, a fault such as store-missing, several with + between them, or random"
        };
        fault.CompletionSources.Add(_ => Faults.All.Select(one => one.Id).Order(StringComparer.Ordinal));
        var output = new Option<string>("--out")
        {
            Description = "the image to make; must not exist",
            HelpName = "FILE",
            Required = true
        };
        var machine = new Option<string>("--machine")
        {
            Description = "the machine's name",
            HelpName = "NAME",
            DefaultValueFactory = _ => "PURSER-02"
        };
        var firmware = CommonOptions.Firmware("for which firmware it is laid out; BIOS where the fault applies to both");
        var sector = CommonOptions.Sector();
        var encrypted = Encrypted();
        var packed = Packed();
        var command = new Command("new", "Make a practice disk.")
        {
            fault,
            output,
            machine,
            firmware,
            sector,
            encrypted,
            packed
        };
        command.SetAction(parsed =>
        {
            var asked = CommonOptions.FirmwareKindOf(parsed.GetValue(firmware));
            var path = Path.GetFullPath(parsed.GetValue(output)!);
            var name = parsed.GetValue(fault)!;
            var isRandom = name.Equals("random", StringComparison.OrdinalIgnoreCase);
            var screen = common.OutputOf(parsed);
            var usual = Spec(parsed.GetValue(machine)!, parsed.GetValue(sector)) with
            {
                Encrypted = MethodOf(parsed.GetValue(encrypted)),
                PackedBy = parsed.GetValue(packed) is { } word ? (uint)Array.IndexOf(PackingMethods, word) : null
            };
            var (chosen, spec) = screen.Working("making the practice disk", () => isRandom
                ? MakeRandom(path, usual, asked)
                : MakeNamed(path, usual, asked, Faults.FindAll(name)));
            screen.Commands.Typed(parsed.GetValue(output)!, path);
            new DrillView(screen).ShowNew(chosen, spec, path);
            return 0;
        });
        return command;
    }

    private static Option<string?> Encrypted()
    {
        var option = new Option<string?>("--encrypted")
        {
            Description = "encrypt its Windows volume; the recovery key lies beside, in OUT.key",
            HelpName = "METHOD"
        };
        option.TakesOneOf("xts128", "xts256", "cbc128", "cbc256", "diffused128", "diffused256");
        return option;
    }

    private static Option<string?> Packed()
    {
        var option = new Option<string?>("--packed")
        {
            Description = "pack its system files, as Windows does on small disks",
            HelpName = "METHOD"
        };
        option.TakesOneOf(PackingMethods);
        return option;
    }

    private static PracticeMethod? MethodOf(string? word) =>
        word is null ? null : Enum.Parse<PracticeMethod>(word, ignoreCase: true);

    private static Command Check(CommonOptions common)
    {
        var disk = CommonOptions.Disk();
        var answer = new Option<bool>("--answer") { Description = "open the sealed answer too" };
        var command = new Command("check", "Whether a practice disk is well again.") { disk, answer };
        command.SetAction(parsed =>
        {
            var path = DiskPath.Resolve(parsed.GetValue(disk)!);
            var answers = parsed.GetValue(answer) ? SealedAnswer.Read(path) : null;
            var (variables, clone) = (PracticeVariables.FolderFor(path), PracticeDisk.CloneFor(path));
            using var ring = new KeyRing();
            if (PracticeDisk.KeyFileFor(path) is var keyFile && File.Exists(keyFile)) UnlockOptions.FillFrom(ring, keyFile);
            using var machine = Machine.Open(
                File.Exists(clone) ? [path, clone] : [path],
                Directory.Exists(variables) ? FirmwareVariables.Open(variables) : null,
                startsThrough: null,
                terms: DiskTerms.Usual with { Keys = ring });
            var walk = Walk.Of(machine);
            new DrillView(common.OutputOf(parsed)).ShowCheck(machine, walk, answers);
            return walk.Verdict == Verdict.Sound ? 0 : 1;
        });
        return command;
    }

    private static PracticeSpec Spec(string machine, int? sectorBytes) =>
        new() { MachineName = machine, SectorBytes = sectorBytes ?? 512 };

    private static (Fault Fault, PracticeSpec Spec) MakeNamed(string path, PracticeSpec spec, FirmwareKind? asked, Fault fault)
    {
        var kind = asked ?? fault.Only ?? (spec.SectorBytes == 512 ? FirmwareKind.Bios : FirmwareKind.Uefi);
        if (!fault.AppliesTo(kind))
        {
            throw new WrongUsageException(
                $"The fault {fault.Id} has no {SurveyView.FirmwareName(kind)} drill.",
                $"It is one of {SurveyView.FirmwareName(fault.Only!.Value)} machines.",
                "Leave --firmware out.");
        }

        spec = spec with { Firmware = kind };
        PracticeDisk.Make(path, spec, fault);
        return (fault, spec);
    }

    private static (Fault Fault, PracticeSpec Spec) MakeRandom(string path, PracticeSpec spec, FirmwareKind? asked)
    {
        const int draws = 5;
        spec = spec with { Firmware = asked ?? (Random.Shared.Next(2) == 0 ? FirmwareKind.Bios : FirmwareKind.Uefi) };
        for (var draw = 1; ; draw++)
        {
            var (fault, answer) = Faults.Random(spec.Firmware, Random.Shared);
            try
            {
                PracticeDisk.Make(path, spec, fault);
                SealedAnswer.Write(path, answer);
                return (fault, spec);
            }
            catch (UnreadableException) when (draw < draws)
            {
                // One of these faults takes from another what it would spoil: they are not a pair.
            }
        }
    }
}
