using System.CommandLine;
using Keel.Cli.Views;
using Keel.Cli.Wording;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Store;

namespace Keel.Cli.Commands;

/// <summary>
/// keel store list | show | check | save | load | create | rebuild | add | drop | change | order | prefer | menu | once
/// </summary>
internal static class StoreCommand
{
    public static Command Create(CommonOptions common) => new(
        "store",
        "The boot configuration: look, back up, repair, build, change.")
    {
        List(common),
        Show(common),
        Check(common),
        Save(common),
        Load(common),
        New(common),
        StoreRebuildCommand.Create(common),
        StoreAddCommand.Create(common),
        Drop(common),
        Change(common), Order(common), Prefer(common), Menu(common), StoreOnceCommand.Create(common)
    };

    private static Command List(CommonOptions common)
    {
        var target = new StoreTarget();
        var all = new Option<bool>("--all") { Description = "settings entries too, and every setting" };
        var command = new Command("list", "The menu as the user would see it, then the other entries.") { all };
        target.AddTo(command, writes: false);
        command.SetAction(parsed =>
            target.Look(
                parsed,
                common,
                (store, devices, machine) =>
                    new StoreView(common.OutputOf(parsed), store, devices, machine).ShowList(parsed.GetValue(all))));
        return command;
    }

    private static Command Show(CommonOptions common)
    {
        var target = new StoreTarget("ENTRY");
        var command = new Command("show", "All settings of an entry, the inherited ones with where they come from.");
        target.AddTo(command, writes: false);
        command.SetAction(parsed => target.Look(parsed, common, (store, devices, machine) =>
            new StoreView(
                common.OutputOf(parsed),
                store,
                devices,
                machine).ShowEntry(EntryPicker.Pick(store, One(target.Rest(parsed), "ENTRY")), parsed.GetValue(common.Verbose))));
        return command;
    }

    private static Command Check(CommonOptions common)
    {
        var target = new StoreTarget();
        var command = new Command("check", "What is wrong with the store, and what would mend it.");
        target.AddTo(command, writes: false);
        command.SetAction(parsed =>
        {
            var findings = target.Check(parsed, common);
            new StoreCheckView(common.OutputOf(parsed)).Show(findings);
            return findings.Count == 0 ? 0 : 1;
        });
        return command;
    }

    private static Command Save(CommonOptions common)
    {
        var target = new StoreTarget("FILE");
        var form = Form();
        var command = new Command("save", "A copy out of the disk, into a file that does not exist yet, or a folder.") { form };
        target.AddTo(command, writes: false);
        command.SetAction(parsed => target.Look(parsed, common, (store, devices, machine) =>
        {
            var named = One(target.Rest(parsed), "FILE");
            var file = Directory.Exists(named) ? Path.Combine(named, "BCD") : named;
            if (File.Exists(file))
            {
                throw new WrongUsageException(
                    $"{file} is already there.",
                    "A copy never replaces anything.",
                    "Name another file.");
            }

            StoreFile.Write(file, parsed.GetValue(form) == "json" ? StoreJson.Write(store) : store.ToBytes());
            new StoreView(common.OutputOf(parsed), store, devices, machine).ShowSaved(file, parsed.GetValue(form)!);
        }));
        return command;
    }

    private static Command Load(CommonOptions common)
    {
        var target = new StoreTarget("FILE");
        var form = Form();
        var command = new Command("load", "A copy in; what differs is shown first, and the old store is set aside.") { form };
        target.AddTo(command, writes: true);
        command.SetAction(parsed =>
        {
            var path = One(target.Rest(parsed), "FILE");
            var bytes = StoreFile.ReadBytes(path);
            var isJson = parsed.GetValue(form) == "json" || StoreJson.LooksLike(bytes);
            var store = isJson ? StoreJson.Read(bytes) : StoreFile.Parse(path, bytes);
            return target.Replace(
                parsed,
                common,
                Remark.Of("step.load-store", Fact.EntryCount.Is(store.Entries.Count)),
                isJson ? store.ToBytes() : bytes,
                store);
        });
        return command;
    }

    private static Command New(CommonOptions common)
    {
        var target = new StoreTarget();
        var bare = new Option<bool>("--bare") { Description = "without the boot manager's entry and settings" };
        var command = new Command(
            "create",
            "A new store with the boot manager's entry, and no system yet; one there is set aside.")
        {
            bare
        };
        target.AddTo(command, writes: true);
        command.SetAction(parsed => target.Replace(
            parsed,
            common,
            Remark.Of("step.empty-store"),
            machine =>
            {
                var now = DateTimeOffset.UtcNow;
                return parsed.GetValue(bare) || machine?.SystemVolume is not { } system
                    ? BootStore.Empty(now)
                    : FreshStore.Build(system, machine.BootFiles, [], FreshStore.UsualLanguage, now, Guid.NewGuid);
            }));
        return command;
    }

    private static Command Drop(CommonOptions common)
    {
        var target = new StoreTarget("ENTRY");
        var last = new Option<bool>("--even-last") { Description = "also the last way to start" };
        var command = new Command("drop", "Take an entry out, with every reference to it.") { last };
        target.AddTo(command, writes: true);
        command.SetAction(parsed => target.Change(parsed, common, (store, _, machine) =>
        {
            var entry = EntryPicker.Pick(store, One(target.Rest(parsed), "ENTRY"));
            bool LeadsNowhere(BootEntry other) => machine is not null && StoreRequests.LeadsNowhere(machine, other);
            StoreEditing.Drop(store, entry, parsed.GetValue(last), LeadsNowhere);
            return Remark.Of("step.drop-entry", Fact.Title.Is(entry.Name));
        }));
        return command;
    }

    private static Command Change(CommonOptions common)
    {
        var target = new StoreTarget("ENTRY SETTING=VALUE...", "the disk, the entry, and the settings; SETTING- removes one");
        var command = new Command("change", "Set or remove settings of an entry.");
        target.AddTo(command, writes: true);
        command.SetAction(parsed =>
        {
            var rest = target.Rest(parsed);
            if (rest.Length < 2)
            {
                throw new WrongUsageException(
                    "Too little was named.",
                    "An entry and at least one setting are needed.",
                    "Such as: keel store change DISK 1 safe-start=minimal");
            }

            return target.Change(parsed, common, (store, devices, machine) =>
            {
                var entry = EntryPicker.Pick(store, rest[0]);
                var text = new SettingText(store, devices);
                foreach (var word in rest.Skip(1)) Apply(text, entry, word);
                return Remark.Of("step.change-entry", Fact.Title.Is(entry.Name));
            });
        });
        return command;
    }

    private static void Apply(SettingText text, BootEntry entry, string word)
    {
        var at = word.IndexOf('=', StringComparison.Ordinal);
        if (at > 0)
            text.Set(entry, word[..at], word[(at + 1)..]);
        else if (word.EndsWith('-'))
            text.Remove(entry, word[..^1]);
        else
        {
            throw new WrongUsageException(
                $"\"{word}\" is no change of a setting.",
                "A setting is given as SETTING=VALUE, or removed as SETTING-.",
                $"Write {word}=VALUE or {word}-");
        }
    }

    private static Command Order(CommonOptions common)
    {
        var target = new StoreTarget("ENTRY...");
        var command = new Command("order", "Put entries at the head of the menu, in this order.");
        target.AddTo(command, writes: true);
        command.SetAction(parsed => target.Change(parsed, common, (store, _, _) =>
        {
            var entries = target.Rest(parsed).Select(word => EntryPicker.Pick(store, word)).ToList();
            StoreEditing.Order(store, entries);
            return Remark.Of("step.order-menu", Fact.Names.Is([.. entries.Select(entry => entry.Name)]));
        }));
        return command;
    }

    private static Command Prefer(CommonOptions common)
    {
        var target = new StoreTarget("ENTRY");
        var command = new Command("prefer", "Make an entry the one that starts when nobody chooses.");
        target.AddTo(command, writes: true);
        command.SetAction(parsed => target.Change(parsed, common, (store, _, _) =>
        {
            var entry = EntryPicker.Pick(store, One(target.Rest(parsed), "ENTRY"));
            StoreEditing.Prefer(store, entry);
            return Remark.Of("step.prefer", Fact.Title.Is(entry.Name));
        }));
        return command;
    }

    private static Command Menu(CommonOptions common)
    {
        var target = new StoreTarget();
        var seconds = new Option<int?>("--seconds") { Description = "how long the menu waits", HelpName = "N" };
        var always = new Option<string?>("--always") { Description = "yes or no: show it at every start" };
        var look = new Option<string?>("--look") { Description = "text or graphical" };
        seconds.Validators.Add(result =>
        {
            const int most = 9999;
            if (!int.TryParse(result.Tokens.Count > 0 ? result.Tokens[0].Value : "", out var number) || number is < 0 or > most)
                result.AddError($"--seconds takes a whole number, 0 to {most}.");
        });
        always.TakesOneOf("yes", "no");
        look.TakesOneOf("text", "graphical");
        var command = new Command("menu", "How long the menu waits, whether it always shows, how it looks.")
        {
            seconds,
            always,
            look
        };
        target.AddTo(command, writes: true);
        command.SetAction(parsed =>
        {
            if (parsed.GetValue(seconds) is null && parsed.GetValue(always) is null && parsed.GetValue(look) is null)
            {
                return target.Look(parsed, common, (store, _, _) =>
                    common.OutputOf(parsed).Paragraph(StoreOutline.MenuSentence(store)));
            }

            return target.Change(parsed, common, (store, _, _) =>
            {
                StoreEditing.Menu(
                    store,
                    parsed.GetValue(seconds),
                    parsed.GetValue(always) is { } show ? show == "yes" : null,
                    parsed.GetValue(look) is { } chosen ? chosen == "graphical" : null);
                return Remark.Of("step.change-menu");
            });
        });
        return command;
    }

    private static Option<string> Form()
    {
        var form = new Option<string>("--as")
        {
            Description = "hive, or json for a readable form",
            DefaultValueFactory = _ => "hive"
        };
        form.TakesOneOf("hive", "json");
        return form;
    }

    internal static string One(string[] words, string name) => words is [var word]
        ? word
        : throw new WrongUsageException(
            $"One {name} is needed, and {words.Length} were named.",
            "",
            "'keel store list' shows the entries.");
}
