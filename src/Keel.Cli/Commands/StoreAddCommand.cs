using System.CommandLine;
using Keel.Cli.Wording;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Requests;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Cli.Commands;

/// <summary>keel store add windows | nt5 | recovery | program | like</summary>
internal static class StoreAddCommand
{
    public static Command Create(CommonOptions common) =>
        new("add", "A new entry, at the end of the menu.")
        {
            Windows(common),
            Nt5(common),
            Recovery(common),
            Program(common),
            Like(common)
        };

    private static Option<string?> TitleOption() => new("--title") { Description = "what the menu shows", HelpName = "TITLE" };

    private static Option<string> On() =>
        new Option<string>("--volume")
        {
            Description = "the volume where it lies, also N@DISK",
            HelpName = "N",
            Required = true
        }.CompletesVolumes();

    private static Command Windows(CommonOptions common)
    {
        var target = new StoreTarget(hasVolume: false);
        var title = TitleOption();
        var on = On();
        var folder = new Option<string>("--folder")
        {
            Description = @"the Windows folder",
            HelpName = "FOLDER",
            DefaultValueFactory = _ => @"\Windows"
        };
        var inside = DiskOptions.Inside("the Windows in this virtual disk file, as volume:2:\\machines\\second.vhdx");
        on.Required = false;
        var command = new Command("windows", "An entry for a Windows installation.") { on, inside, folder, title };
        target.AddTo(command, writes: true);
        command.SetAction(parsed => target.Change(parsed, common, (store, _, machine) =>
        {
            var volume = VolumeOf(RequireDisk(machine), parsed.GetValue(on), parsed.GetValue(inside) ?? []);
            var installation = machine!.Installations.FirstOrDefault(found =>
                found.Volume == volume && found.Folder.Equals(parsed.GetValue(folder), StringComparison.OrdinalIgnoreCase));
            if (installation is null)
            {
                var others = string.Join(
                    "; ",
                    machine.Installations.Select(found => found.ToString()).DefaultIfEmpty("none on this disk"));
                throw new RefusedException(
                    "Nothing was written.",
                    $"There is no Windows in {parsed.GetValue(folder)} on {volume}. There is: {others}.",
                    "Name the right volume with --volume, the folder with --folder.");
            }

            if (volume.InFile is not null)
                common.OutputOf(parsed).Message($"Note: {Words.Of(Remark.Of("line.inside-form-unchecked"))}.");
            return Added(StoreEditing.AddWindows(
                store,
                machine.BootFiles,
                Guid.NewGuid(),
                machine.DeviceOf(volume),
                installation.Folder,
                parsed.GetValue(title) ?? installation.Product,
                installation.Build));
        }));
        return command;
    }

    private static Command Nt5(CommonOptions common)
    {
        var target = new StoreTarget(hasVolume: false);
        var title = TitleOption();
        var command = new Command("nt5", "An entry for the older loader, which reads boot.ini.") { title };
        target.AddTo(command, writes: true);
        command.SetAction(parsed => target.Change(parsed, common, (store, _, machine) =>
            Added(StoreEditing.AddProgram(
                store,
                default,
                EntryType.Nt5Loader,
                parsed.GetValue(title) ?? "Earlier Windows",
                DeviceOf(machine, words: null),
                @"\ntldr"))));
        return command;
    }

    private static Command Recovery(CommonOptions common)
    {
        var target = new StoreTarget(hasVolume: false);
        var command = new Command("recovery", "An entry for the recovery environment of each Windows that is listed.");
        target.AddTo(command, writes: true);
        command.SetAction(parsed => target.Change(parsed, common, (store, _, machine) =>
        {
            var before = store.ToBytes();
            var summary = RecoveryRequests.Add(RequireDisk(machine), store);
            if (!store.ToBytes().AsSpan().SequenceEqual(before))
                common.OutputOf(parsed).Message($"Note: {Words.Of(Remark.Of("line.ramdisk-form-unchecked"))}.");
            return summary;
        }));
        return command;
    }

    private static Command Program(CommonOptions common)
    {
        var target = new StoreTarget(hasVolume: false);
        var title = TitleOption();
        var on = On();
        var file = new Option<string>("--program-file")
        {
            Description = "the program's path",
            HelpName = "PATH",
            Required = true
        };
        var command = new Command("program", "An entry for any start program.") { on, file, title };
        target.AddTo(command, writes: true);
        command.SetAction(parsed => target.Change(parsed, common, (store, _, machine) =>
            Added(StoreEditing.AddProgram(
                store,
                Guid.NewGuid(),
                new EntryType(0x1020000A),
                parsed.GetValue(title) ?? parsed.GetValue(file)!,
                DeviceOf(machine, parsed.GetValue(on)),
                parsed.GetValue(file)!))));
        return command;
    }

    private static Command Like(CommonOptions common)
    {
        var target = new StoreTarget("ENTRY", hasVolume: false);
        var title = TitleOption();
        var command = new Command("like", "A copy of an entry.") { title };
        target.AddTo(command, writes: true);
        command.SetAction(parsed => target.Change(parsed, common, (store, _, _) =>
            Added(StoreEditing.AddLike(
                store,
                EntryPicker.Pick(store, StoreCommand.One(target.Rest(parsed), "ENTRY")),
                Guid.NewGuid(),
                parsed.GetValue(title)))));
        return command;
    }

    private static Remark Added(BootEntry entry) => Remark.Of("step.add-entry", Fact.Title.Is(entry.Name));

    /// <summary>The device of a volume by its words; of the system volume where there are none.</summary>
    private static BootDevice DeviceOf(Machine? machine, string? words)
    {
        var known = RequireDisk(machine);
        var volume = words is null ? BootCodeRequests.VolumeOrSystem(known, number: null) : VolumeOf(known, words);
        return known.DeviceOf(volume);
    }

    /// <summary>The volume that is named, by itself or as the one of Windows in a virtual disk file.</summary>
    private static DiskVolume VolumeOf(Machine machine, string? words, string[] inside)
    {
        if (inside is [var file] && words is null) return InsideMachine.WindowsVolume(machine, InsidePath.TryParse(file)!);
        return words is not null && inside.Length == 0
            ? VolumeOf(machine, words)
            : throw new WrongUsageException(
                "It is not clear where that Windows lies.",
                "Either its volume is named, or the virtual disk file that it is in.",
                "Name one of them: --volume N, or --inside volume:N:FILE.");
    }

    private static DiskVolume VolumeOf(Machine machine, string words) =>
        machine.VolumeOf(new MachineDevices(machine).Parse(words))!;

    private static Machine RequireDisk(Machine? machine) =>
        machine
            ?? throw new WrongUsageException(
                "An entry for a volume needs the disk.",
                "The store stands by itself, so volumes are not known.",
                "Work on the store inside its disk.");
}
