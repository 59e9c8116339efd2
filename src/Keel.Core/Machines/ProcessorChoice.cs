using Keel.Core.Errors;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Processor = System.Reflection.PortableExecutable.Machine;

namespace Keel.Core.Machines;

/// <summary>
/// For which processor a Windows is: what most of its start programs say, since one of them may be the damaged one.
/// </summary>
internal sealed record ProcessorChoice(Processor? Processor)
{
    private static readonly string[] Witnesses = ["ntoskrnl.exe", "hal.dll", "winload.efi", "winload.exe", "winresume.exe"];

    public static ProcessorChoice Of(IReadOnlyList<WindowsInstallation> installations)
    {
        var said = installations
            .SelectMany(installation => Witnesses.Select(name => Look(installation, name)))
            .OfType<Processor>()
            .ToList();
        return new ProcessorChoice(
            said.Count == 0 ? null : said.GroupBy(processor => processor).MaxBy(group => group.Count())!.Key);
    }

    private static Processor? Look(WindowsInstallation installation, string name)
    {
        try
        {
            var path = $@"{installation.Folder}\System32\{name}";
            return installation.Volume.Files is { } files && files.FileExists(path)
                ? ProgramFile.TryRead(files.OpenFile(path))?.Machine
                : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
