using System.CommandLine;
using Keel.Core.Facts;
using Keel.Core.Store;

namespace Keel.Cli.Commands;

/// <summary>keel store once [DISK] ENTRY [--safe minimal|network|prompt]</summary>
internal static class StoreOnceCommand
{
    public static Command Create(CommonOptions common)
    {
        var target = new StoreTarget("ENTRY");
        var safe = new Option<string?>("--safe")
        {
            Description = "with what is needed only: minimal, network, or prompt for no desktop",
            HelpName = "HOW"
        };
        safe.TakesOneOf("minimal", "network", "prompt");
        var command = new Command("once", "Start an entry the next time, and that time alone; a Windows also safely.") { safe };
        target.AddTo(command, writes: true);
        command.SetAction(parsed => target.Change(parsed, common, (store, _, _) =>
        {
            var entry = EntryPicker.Pick(store, StoreCommand.One(target.Rest(parsed), "ENTRY"));
            var started = StoreEditing.Once(store, entry, ModeOf(parsed.GetValue(safe)));
            return Remark.Of("step.once", Fact.Title.Is(started.Name));
        }));
        return command;
    }

    internal static SafeStart? ModeOf(string? word) => word switch
    {
        "minimal" => SafeStart.Minimal,
        "network" => SafeStart.Network,
        "prompt" => SafeStart.Prompt,
        _ => null
    };
}
