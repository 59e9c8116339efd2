using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Chain.Checks.Session;

/// <summary>The letter that a Windows calls its own volume by, which it must also give it.</summary>
internal static class WindowsLetter
{
    public static readonly FindingKind Elsewhere = new(
        "windows-letter-elsewhere",
        Link.Session,
        Severity.Warning,
        "Windows gives the letter that it calls itself by to another volume.",
        StartupScreens.BlackAfterSignIn,
        StartupScreens.SignInEnds);

    public static IReadOnlyList<FindingKind> Kinds => [Elsewhere];

    public static IEnumerable<Finding> Of(Machine machine, StartedWindows windows)
    {
        if (LetterOf(machine, windows) is not { } own || machine.Letters is not { } letters) yield break;
        if (letters.Gives(own, windows.Volume)) yield break;
        var other = machine.Volumes.FirstOrDefault(volume =>
            volume != windows.Volume && volume.DiskPath == windows.Volume.DiskPath && letters.Gives(own, volume));
        var given = letters.LetterOf(windows.Volume);
        if (other is null && given is null) yield break;
        KnownFact[] facts = [Fact.Title.Is($"{own}:"), Fact.Volume.Is(windows.Volume.Ref)];
        if (other is not null) facts = [.. facts, Fact.OtherVolume.Is(other.Ref)];
        if (given is not null) facts = [.. facts, Fact.OtherTitle.Is(given)];
        yield return Elsewhere.At(facts);
    }

    /// <summary>The letter that the started Windows calls its volume by; null where it does not say.</summary>
    public static char? LetterOf(Machine machine, StartedWindows windows)
    {
        var installation = windows.InstallationIn(machine);

        // Letters are read of the first installation that is found: of another one they say nothing.
        return installation is not null && installation == machine.Installations[0] ? installation.SystemLetter : null;
    }
}
