namespace Keel.Core.BootCode;

/// <summary>What boot code looks for.</summary>
public enum LoaderKind
{
    /// <summary>BOOTMGR, of NT 6 and later.</summary>
    BootManager,

    /// <summary>NTLDR, of NT 5.</summary>
    Nt5Loader
}
