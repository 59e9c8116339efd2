using System.CommandLine;

namespace Keel.Cli.Commands;

/// <summary>All commands. A command is made when it is asked for: to make them all takes longer than some of them run.</summary>
internal sealed class CommandTree(CommonOptions common)
{
    private const string About =
        "keel says why a Windows machine does not start, and mends its boot chain: on its disk, or on an image of it.";

    private static readonly (string Name, Func<CommonOptions, Command> Create)[] Known =
    [
        ("explain", ExplainCommand.Create),
        ("survey", SurveyCommand.Create),
        ("diagnose", DiagnoseCommand.Create),
        ("history", HistoryCommand.Create),
        ("mend", MendCommand.Create),
        ("report", ReportCommand.Create),
        ("layout", LayoutCommand.Create),
        ("mbr", MbrCommand.Create),
        ("sector", SectorCommand.Create),
        ("store", StoreCommand.Create),
        ("files", FilesCommand.Create),
        ("firmware", FirmwareCommand.Create),
        ("bootini", BootIniCommand.Create),
        ("services", ServicesCommand.Create),
        ("programs", ProgramsCommand.Create),
        ("updates", UpdatesCommand.Create),
        ("snapshots", SnapshotsCommand.Create),
        ("round", RoundCommand.Create),
        ("undo", UndoCommand.Create),
        ("logbook", LogbookCommand.Create),
        ("disk", DiskCommand.Create),
        ("stick", StickCommand.Create),
        ("drill", DrillCommand.Create),
        ("completion", CompletionCommand.Create),
        ("manual", ManualCommand.Create)
    ];

    public static IReadOnlyList<string> Names => [.. Known.Select(command => command.Name)];

    /// <summary>Whether a word behind the command may be a disk, so that it is no slip in the name of a subcommand.</summary>
    public static bool TakesWordsOfItsOwn(string name) => name is "logbook" or "round";

    /// <summary>Whether a word with a hyphen at its head is one of the command's own: the attributes of files.</summary>
    public static bool TakesDashedWords(Command command) => command.Name == "mark";

    /// <summary>The names of a command's own commands; none where it has none.</summary>
    public IReadOnlyList<string> SubcommandsOf(string name) =>
        [.. Known.First(command => command.Name == name).Create(common).Subcommands.Select(command => command.Name)];

    /// <summary>What a command line asks for; the result has errors where it asks for nothing that is known.</summary>
    public ParseResult Parse(string[] arguments)
    {
        // Bundles of letters are not read as options: "-hidden" is an attribute, not -h, -i and -d.
        var how = new ParserConfiguration { EnablePosixBundling = false };
        var named = Known.FirstOrDefault(command => arguments.Contains(command.Name, StringComparer.Ordinal));
        var asksForVersion = arguments is ["--version"];
        if (named.Create is not null || asksForVersion)
        {
            // What looked like the command may be the value of an option; the whole tree judges then.
            var parsed = Root(named.Create is null ? [] : [named]).Parse(arguments, how);
            if (parsed.UnmatchedTokens.Count == 0 && parsed.CommandResult.Command is not RootCommand) return parsed;
            if (asksForVersion) return parsed;
        }

        return Root(Known).Parse(arguments, how);
    }

    public RootCommand Whole() => Root(Known);

    private RootCommand Root(IEnumerable<(string Name, Func<CommonOptions, Command> Create)> commands)
    {
        var root = new RootCommand(About);
        foreach (var (_, create) in commands) root.Subcommands.Add(create(common));
        common.AddTo(root);
        return root;
    }
}
