namespace Keel.Core.BootCode;

/// <summary>A field of a boot sector, side by side with what other places say of it.</summary>
/// <param name="Name">What the field is called.</param>
/// <param name="Here">In sector 0.</param>
/// <param name="Backup">In the backup copy; empty where there is none.</param>
/// <param name="Expected">What partition table and file system say; empty where nothing is known.</param>
public sealed record SectorField(string Name, string Here, string Backup, string Expected)
{
    /// <summary>Whether the sector says other than its backup, or than the partition table.</summary>
    public bool Differs => (Backup.Length > 0 && Backup != Here) || (Expected.Length > 0 && Expected != Here);
}
