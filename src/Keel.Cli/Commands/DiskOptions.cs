using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Core.Blocks;

namespace Keel.Cli.Commands;

/// <summary>How the disks of a command are opened, where their files don't say it well enough.</summary>
internal sealed class DiskOptions
{
    private readonly Option<string?> kind = Kind();

    private readonly Option<bool> parents = new("--parents")
    {
        Description = "open files too that an image names outside of its folder"
    };

    public void AddTo(Command command)
    {
        command.Options.Add(kind);
        command.Options.Add(parents);
    }

    /// <summary>What was said; files elsewhere are asked about where somebody is there to answer.</summary>
    public DiskTerms Of(ParseResult parsed, Output output) => new()
    {
        Format = FormatOf(parsed.GetValue(kind)),
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
