using System.CommandLine;
using Keel.Cli.Rounds;
using Keel.Cli.Terminal;
using Keel.Cli.Views.Reports;
using Keel.Core.Errors;
using Keel.Core.Keys;
using Keel.Core.Volumes;

namespace Keel.Cli.Commands;

/// <summary>keel round TARGET... --out FOLDER, keel round tally FOLDER... --out FILE</summary>
internal static class RoundCommand
{
    private const int MostJobs = 256;
    private static readonly TimeSpan Patience = TimeSpan.FromMinutes(15);

    public static Command Create(CommonOptions common)
    {
        var targets = new Argument<string[]>("TARGET")
        {
            Description = "disks, images, or folders of images",
            Arity = ArgumentArity.ZeroOrMore
        };
        var list = new Option<string?>("--list")
        {
            Description = "a file with a path in each line (# for remarks); - for the input",
            HelpName = "FILE"
        };
        var folder = new Option<string?>("--out")
        {
            Description = "the folder of the round; the same one goes on",
            HelpName = "FOLDER"
        };
        var jobs = Jobs();
        var shard = new Option<string?>("--shard") { Description = "only part K of N, for several computers", HelpName = "K/N" };
        var mend = new Option<string>("--mend")
        {
            Description = "none, or safe: what loses nothing and makes the chain sound is written, with a record each",
            DefaultValueFactory = _ => "none"
        };
        mend.TakesOneOf("none", "safe");
        var keys = UnlockOptions.List();
        var worker = new Option<bool>("--as-worker") { Hidden = true };
        var command = new Command("round", "Diagnose many disks and images; a stopped round goes on. 'round tally' counts.")
        {
            targets,
            list,
            folder,
            jobs,
            shard,
            mend,
            keys,
            worker,
            Tally(common)
        };
        command.SetAction(parsed =>
        {
            var mends = parsed.GetValue(mend) == "safe";
            using var ring = new KeyRing();
            UnlockOptions.Fill(ring, parsed.GetValue(keys), common.OutputOf(parsed));
            if (parsed.GetValue(worker))
            {
                new RoundWork(common.OpenLogbook(parsed), mends, ring, TimeProvider.System).Run(Console.In, Console.Out);
                return 0;
            }

            var terms = new RoundTerms(
                parsed.GetValue(jobs),
                mends,
                parsed.GetValue(common.Logbook),
                parsed.GetValue(keys),
                Patience);
            var part = parsed.GetValue(shard) is { } text ? RoundShard.Parse(text) : RoundShard.Whole;
            var all = RoundTargets.Of(parsed.GetValue(targets)!, parsed.GetValue(list));
            return Run(common.OutputOf(parsed), all, parsed.GetValue(folder), part, terms);
        });
        return command;
    }

    private static Option<int> Jobs()
    {
        var jobs = new Option<int>("--jobs")
        {
            Description = "how many are looked at side by side",
            HelpName = "N",
            DefaultValueFactory = _ => Environment.ProcessorCount
        };
        jobs.Validators.Add(result =>
        {
            if (result.Tokens is [var token] && (!int.TryParse(token.Value, out var number) || number is < 1 or > MostJobs))
                result.AddError($"--jobs takes a number from 1 to {MostJobs}, not \"{token.Value}\".");
        });
        return jobs;
    }

    private static int Run(Output output, IEnumerable<string> all, string? folder, RoundShard shard, RoundTerms terms)
    {
        if (folder is null)
        {
            throw new WrongUsageException(
                "Where is the round to be kept?",
                "What is found of each disk goes into a folder, and a stopped round goes on from there.",
                "Name it with --out FOLDER.");
        }

        var own = Path.GetFullPath(folder);
        var targets = all.Where(target => !IsOwn(target, own)).Where((_, place) => shard.Has(place)).ToList();
        if (targets.Count == 0 && shard.Count == 1)
        {
            throw new WrongUsageException(
                "There is nothing to go round.",
                "No disk, image or folder was named, or the folder is empty.",
                "Name some, or a list with --list.");
        }

        FileSystemLibraries.Require();
        using var ledger = new RoundLedger(Path.Combine(own, shard.FileName));
        var view = new RoundView(output);
        var run = new RoundRun(ledger, terms, view.Progress());
        run.Run(targets);
        view.Show(ledger, run, targets.Count, folder);
        return run.IsStopped ? 130 : 0;
    }

    /// <summary>The round may be kept among the images, and its files are none.</summary>
    private static bool IsOwn(string target, string folder) =>
        target.EndsWith(RoundLedger.Ending, StringComparison.Ordinal) && Path.GetDirectoryName(target) == folder.TrimEnd('/');

    private static Command Tally(CommonOptions common)
    {
        var folders = new Argument<string[]>("FOLDER")
        {
            Description = "the folders of rounds",
            Arity = ArgumentArity.OneOrMore
        };
        var files = new Option<string[]>("--out")
        {
            Description = "a new file: .html for a page with plots, .csv for a table (repeatable)",
            HelpName = "FILE",
            DefaultValueFactory = _ => []
        };
        var command = new Command("tally", "Count what rounds found: verdicts, findings, screens.") { folders, files };
        command.SetAction(parsed =>
        {
            List<NewTextFile> targets = [.. parsed.GetValue(files)!.Select(file => new NewTextFile(file))];
            foreach (var file in targets) RefuseForm(file);
            foreach (var file in targets) file.RefuseWhereItCanNotBe();
            var tally = RoundTally.Of(parsed.GetValue(folders)!);
            foreach (var file in targets) Write(file, tally);
            new RoundView(common.OutputOf(parsed)).Show(tally, [.. targets.Select(file => file.Path)]);
            return 0;
        });
        return command;
    }

    private static bool IsPage(NewTextFile file) => file.Ending is ".html" or ".htm";

    private static void RefuseForm(NewTextFile file)
    {
        if (IsPage(file) || file.Ending == ".csv") return;
        throw new WrongUsageException(
            $"{file.Path} says no form of tally.",
            "The ending of its name does: .html for a page with plots, .csv for a table.",
            "Such as --out round.html");
    }

    private static void Write(NewTextFile file, RoundTally tally) => file.Write(
        IsPage(file) ? new TallyPage(tally, TimeProvider.System.GetUtcNow()).Text() : TallyTable.Text(tally));
}
