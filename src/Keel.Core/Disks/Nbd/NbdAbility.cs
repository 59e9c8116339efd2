namespace Keel.Core.Disks.Nbd;

/// <summary>What a server can do (NBD protocol, "Transmission flags").</summary>
[Flags]
internal enum NbdAbility
{
    None = 0,

    /// <summary>The others are valid.</summary>
    Known = 1,

    /// <summary>Nothing may be written.</summary>
    ReadOnly = 2,

    /// <summary>It can be told to put everything on stable storage.</summary>
    CanFlush = 4
}
