namespace Keel.Core.Disks.Nbd;

/// <summary>Requests of the NBD protocol.</summary>
internal enum NbdCommand
{
    Read = 0,
    Write = 1,
    Disconnect = 2,
    Flush = 3
}
