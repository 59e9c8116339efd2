using System.Globalization;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// What is written into an NTFS volume has the rights that Windows would give it, and is in no other name of a file.
/// </summary>
public sealed class FileSecurityTests
{
    private const string Installer = "S-1-5-80-956008885-3418522649-1831038044-1853292631-2271478464";
    private const int VolumeBytes = 32 * 1024 * 1024;

    /// <summary>What mkntfs gives the root: the administrators', full control for them and the system.</summary>
    [Theory]
    [InlineData(@"\bootmgr")]
    [InlineData(@"\Users\purser\notes.txt")]
    [InlineData(@"\Windows\System32\winload.efi")]
    public async Task A_new_file_is_never_everybodys(string path)
    {
        using var scratch = new Scratch();
        var image = Format(scratch);
        Write(image, files =>
        {
            files.CreateFolder(VolumeExtensions.FolderOf(path));
            files.WriteFile(path, [1, 2, 3]);
        });
        (await Descriptor(image, path)).ShouldNotContain("S-1-1-0");
        await Sound(image);
    }

    [Fact]
    public async Task A_file_that_is_put_back_has_what_its_neighbours_have()
    {
        using var scratch = new Scratch();
        var image = Format(scratch);
        const string folder = @"\Windows\System32", back = folder + @"\winload.efi", neighbour = folder + @"\winresume.efi";
        Write(image, files =>
        {
            files.CreateFolder(folder);
            files.WriteFile(neighbour, [1]);
            files.WriteFile(back, [1]);
        });
        await SetOwner(image, neighbour);
        await SetOwner(image, back);
        var before = await Descriptor(image, back);
        Write(image, files => files.Delete(back));
        Write(image, files => files.WriteFile(back, [2]));
        (await Descriptor(image, back)).ShouldBe(before);
        (await Descriptor(image, back)).ShouldContain(Installer);
        await Sound(image);
    }

    /// <summary>Folders have no extension either, and what they hand down is nothing for a file.</summary>
    [Fact]
    public async Task A_folder_is_no_neighbour()
    {
        using var scratch = new Scratch();
        var image = Format(scratch);
        string[] folders = [@"\Windows", @"\Users", @"\Boot"];
        Write(image, files =>
        {
            foreach (var folder in folders) files.CreateFolder(folder);
            files.WriteFile(@"\BOOTNXT", [1]);
        });
        foreach (var folder in folders) await SetOwner(image, folder, "Directory");
        Write(image, files => files.WriteFile(@"\bootmgr", [2]));
        (await Descriptor(image, @"\bootmgr")).ShouldNotContain(Installer);
    }

    [Fact]
    public void A_damaged_neighbour_keeps_nobody_from_writing()
    {
        using var scratch = new Scratch();
        var image = Format(scratch);
        Write(image, files =>
        {
            files.CreateFolder(@"\Windows");
            files.WriteFile(@"\Windows\damaged.exe", [1]);
        });
        var bytes = File.ReadAllBytes(image);
        var name = System.Text.Encoding.Unicode.GetBytes("damaged.exe");
        const int recordBytes = 1024;
        var records = Enumerable.Range(0, bytes.Length / recordBytes)
            .Where(record => bytes.AsSpan(record * recordBytes, 4).SequenceEqual("FILE"u8)
                && bytes.AsSpan(record * recordBytes, 400).IndexOf(name) >= 0)
            .ToList();
        foreach (var record in records) "BAAD"u8.CopyTo(bytes.AsSpan(record * recordBytes));
        records.Count.ShouldBeGreaterThan(0);
        File.WriteAllBytes(image, bytes);
        Write(image, files =>
        {
            files.WriteFile(@"\Windows\new.exe", [2]);
            files.ReadFile(@"\Windows\new.exe").ShouldBe([2]);
        });
    }

    [Fact]
    public async Task What_is_written_under_one_name_is_not_in_another()
    {
        using var scratch = new Scratch();
        var image = Format(scratch);
        const string inForce = @"\Windows\System32\winload.efi", ofComponent = @"\Windows\WinSxS\amd64_loader_10.0\winload.efi";
        Write(image, files =>
        {
            files.CreateFolder(VolumeExtensions.FolderOf(inForce));
            files.CreateFolder(VolumeExtensions.FolderOf(ofComponent));
            files.WriteFile(inForce, "as it was"u8);
            ((NtfsVolume)files).Link(inForce, ofComponent);
        });
        await SetOwner(image, inForce);
        var before = await Descriptor(image, inForce);

        Write(image, files => files.WriteFile(inForce, "made new"u8));

        Write(image, files =>
        {
            files.ReadFile(inForce).ShouldBe("made new"u8.ToArray());
            files.ReadFile(ofComponent).ShouldBe("as it was"u8.ToArray());
        });
        (await Descriptor(image, inForce)).ShouldBe(before);
        await Sound(image);
    }

    /// <summary>A short name of DOS beside a long one is no second name.</summary>
    [Fact]
    public async Task A_short_name_of_dos_is_no_link()
    {
        using var scratch = new Scratch();
        var image = Format(scratch);
        var numbers = new List<long>();
        Write(image, files => files.WriteFile(@"\winload.efi", new byte[9000]));
        for (var time = 0; time < 2; time++)
        {
            Write(image, files => files.WriteFile(@"\winload.efi", new byte[9000 + time]));
            var said = await Tool.MustAgree("ntfsinfo", "-F", "/winload.efi", image);
            var line = said.Split('\n').First(line => line.Contains("inode", StringComparison.OrdinalIgnoreCase));
            numbers.Add(long.Parse(new string([.. line.Where(char.IsAsciiDigit)]), CultureInfo.InvariantCulture));
        }

        numbers.Distinct().Count().ShouldBe(1);
    }

    private static string Format(Scratch scratch)
    {
        var image = scratch["volume.img"];
        using (var file = File.Create(image)) file.SetLength(VolumeBytes);
        using var disk = DiskFile.OpenForWriting(image);
        Formatter.Ntfs(disk, new ByteRange(0, VolumeBytes), "Deck", 4096);
        return image;
    }

    private static void Write(string image, Action<IVolume> change)
    {
        using var disk = DiskFile.OpenForWriting(image);
        using var volume = NtfsVolume.Open(new Slice(disk, new ByteRange(0, disk.LengthBytes)), "the volume", VolumeUse.Writing);
        change(volume);
        volume.Close();
    }

    /// <summary>Has ntfssecaudit give a file to the installer of Windows; administrators may read.</summary>
    private static async Task SetOwner(string image, string path, string kind = "File")
    {
        var lines = new List<string> { $"{kind} {path.Replace('\\', '/')}" };
        var hex = Convert.ToHexString(OfInstaller()).ToLowerInvariant();
        for (var at = 0; at < hex.Length; at += 32)
        {
            var words = Enumerable.Range(0, 4).Select(word => at + word * 8).Where(from => from < hex.Length);
            var line = string.Join(' ', words.Select(from => hex[from..Math.Min(from + 8, hex.Length)]));
            lines.Add($"        {at / 2:x6}  {line}");
        }

        lines.Add("");
        await File.WriteAllLinesAsync($"{image}.acl", lines);
        await Tool.MustAgree("ntfssecaudit", "-s", image, $"{image}.acl");
        (await Descriptor(image, path)).ShouldContain(Installer);
    }

    private static byte[] OfInstaller()
    {
        var installer = Sid(5, 80, 956008885, 3418522649, 1831038044, 1853292631, 2271478464);
        var administrators = Sid(5, 32, 544);
        byte[] list = [.. Entry(0x1F01FF, installer), .. Entry(0x1200A9, administrators)];
        byte[] access = [2, 0, .. BitConverter.GetBytes((ushort)(8 + list.Length)), 2, 0, 0, 0, .. list];
        var ownerAt = 20 + access.Length;
        byte[] head = [1, 0, 4, 0x80, .. BitConverter.GetBytes(ownerAt), .. BitConverter.GetBytes(ownerAt + installer.Length)];
        return [.. head, 0, 0, 0, 0, 20, 0, 0, 0, .. access, .. installer, .. installer];
    }

    private static byte[] Entry(int rights, byte[] sid) =>
        [0, 0, .. BitConverter.GetBytes((ushort)(8 + sid.Length)), .. BitConverter.GetBytes(rights), .. sid];

    private static byte[] Sid(byte authority, params uint[] parts) =>
        [1, (byte)parts.Length, 0, 0, 0, 0, 0, authority, .. parts.SelectMany(BitConverter.GetBytes)];

    private static async Task<string> Descriptor(string image, string path) =>
        await Tool.MustAgree("ntfssecaudit", "-vv", image, path.Replace('\\', '/'));

    private static async Task Sound(string image) => await Tool.MustAgree("ntfsfix", "-n", image);
}
