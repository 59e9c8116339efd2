using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Core.Disks;

namespace Keel.Cli.Commands;

/// <summary>How the disks of a command are opened, where their files don't say it well enough.</summary>
internal sealed class DiskOptions
{
    private readonly Option<string?> kind = Kind();

    private readonly Option<bool> parents = new("--parents")
    {
        Description = "open files too that an image names outside of its folder"
    };

    private readonly Option<string[]> inside = Inside(
        "the virtual disk in this file of the disk, as volume:2:\\machines\\second.vhdx (repeatable, layer by layer)");

    /// <param name="command">The command.</param>
    /// <param name="withInside">Whether it can work on a virtual disk inside the disk.</param>
    public void AddTo(Command command, bool withInside)
    {
        if (withInside) command.Options.Add(inside);
        command.Options.Add(kind);
        command.Options.Add(parents);
    }

    /// <summary>What was said; files elsewhere are asked about where somebody is there to answer.</summary>
    public DiskTerms Of(ParseResult parsed, Output output) => new()
    {
        Format = FormatOf(parsed.GetValue(kind)),
        Inside = [.. (parsed.GetValue(inside) ?? []).Select(word => InsidePath.TryParse(word)!)],
        MayOpen = path => parsed.GetValue(parents) || ParentQuestion.Ask(output, path)
    };

    private static Option<string?> Kind()
    {
        var option = new Option<string?>("--kind")
        {
            Description = "what the image is, whatever it looks like: raw, vhd, vhdx, qcow2, vmdk, vdi",
            HelpName = "KIND"
        };
        option.TakesOneOf("raw", "vhd", "vhdx", "qcow2", "vmdk", "vdi");
        return option;
    }

    /// <summary>A place inside a disk.</summary>
    public static Option<string[]> Inside(string description)
    {
        var option = new Option<string[]>("--inside")
        {
            Description = description,
            HelpName = "volume:N:FILE"
        };
        option.Validators.Add(result =>
        {
            foreach (var token in result.Tokens.Where(token => InsidePath.TryParse(token.Value) is null))
                result.AddError($"\"{token.Value}\" is not of the form volume:2:\\machines\\second.vhdx.");
        });
        return option;
    }

    private static FileFormat? FormatOf(string? word) => word switch
    {
        "raw" => FileFormat.Raw,
        "vhd" => FileFormat.Vhd,
        "vhdx" => FileFormat.Vhdx,
        "qcow2" => FileFormat.Qcow2,
        "vmdk" => FileFormat.Vmdk,
        "vdi" => FileFormat.Vdi,
        _ => null
    };
}
