using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>What a Windows starts between the kernel and the desktop.</summary>
/// <param name="Shell">The program that shows the desktop; null where that is not said.</param>
/// <param name="Userinit">The programs that sign a user in, parted by commas; null where that is not said.</param>
/// <param name="BootExecute">What the session manager runs first; null where that is not said.</param>
public sealed record LogonSettings(string? Shell, string? Userinit, IReadOnlyList<string>? BootExecute)
{
    /// <summary>The key with the first two, in the SOFTWARE hive.</summary>
    public const string WinlogonKey = @"Microsoft\Windows NT\CurrentVersion\Winlogon";

    /// <summary>The key with the third, in a control set of the SYSTEM hive.</summary>
    public const string SessionKey = @"Control\Session Manager";

    /// <summary>The usual desktop.</summary>
    public const string UsualShell = "explorer.exe";

    /// <summary>What the session manager usually runs.</summary>
    public const string UsualBootExecute = "autocheck autochk *";

    /// <summary>Reads them; what can't be read is not said.</summary>
    /// <param name="files">The volume of the Windows.</param>
    /// <param name="folder">Its folder.</param>
    /// <param name="system">Its SYSTEM hive.</param>
    public static LogonSettings Read(IVolume files, string folder, SystemHive? system)
    {
        var winlogon = InstallationFinder.TryKey(files, $@"{folder}\System32\config\SOFTWARE", WinlogonKey);
        var session = system is { ControlSet: { } set, Root: { } root } ? root.Find($@"{set}\{SessionKey}") : null;
        return new LogonSettings(
            winlogon?.Value("Shell")?.AsText(),
            winlogon?.Value("Userinit")?.AsText(),
            session?.Value("BootExecute")?.AsTextList());
    }
}
