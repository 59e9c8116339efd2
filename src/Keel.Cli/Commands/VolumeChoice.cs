using System.CommandLine;
using System.Globalization;
using Keel.Core.Errors;
using Keel.Core.Machines;

namespace Keel.Cli.Commands;

/// <summary>Lets the shell complete the number of a volume, from the disks that were typed.</summary>
internal static class VolumeChoice
{
    /// <summary>Offers the volumes of the disks on the command line.</summary>
    public static Option<T> CompletesVolumes<T>(this Option<T> option)
    {
        option.CompletionSources.Add(context => NumbersOf(context.ParseResult));
        return option;
    }

    private static IEnumerable<string> NumbersOf(ParseResult parsed)
    {
        var disk = parsed.Tokens.Select(token => token.Value).FirstOrDefault(File.Exists);
        if (disk is null) return [];
        try
        {
            using var machine = Machine.Open(disk);
            return [.. machine.Volumes.Select(volume => volume.Number.ToString(CultureInfo.InvariantCulture))];
        }
        catch (KeelException)
        {
            return [];
        }
    }
}
