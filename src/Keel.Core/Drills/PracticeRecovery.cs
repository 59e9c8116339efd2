using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Drills;

/// <summary>The recovery environment of a practice machine: a stand-in image, and what Windows remembers of it.</summary>
internal static class PracticeRecovery
{
    /// <summary>The folder of the image.</summary>
    public const string Folder = @"\Recovery\WindowsRE";

    /// <summary>The path of the image.</summary>
    public const string File = $@"{Folder}\{RecoveryImage.FileName}";

    /// <summary>The entry that Windows looks for.</summary>
    private const string EntryId = "{b4ac0042-0e0e-4e0e-8e0e-0b0a7ca57001}";

    private const int TableBytes = 512, BodyBytes = 24_000, SdiBytes = 3_168;

    /// <summary>Writes it.</summary>
    /// <param name="holder">The volume of the image.</param>
    /// <param name="windows">The volume of the Windows.</param>
    public static void Write(DiskVolume holder, DiskVolume windows)
    {
        holder.Edit(files =>
        {
            files.CreateFolder(Folder);
            files.WriteFile(File, Image());
            files.WriteFile($@"{Folder}\{RecoveryImage.SdiName}", Sdi());
        });
        windows.Edit(files =>
        {
            files.CreateFolder(@"\Windows\System32\Recovery");
            files.WriteFile(@"\Windows\System32\Recovery\ReAgent.xml", Encoding.UTF8.GetBytes(Settings(holder)));
        });
    }

    /// <summary>An image of the right form: header, data, the table of its parts, its description.</summary>
    internal static byte[] Image()
    {
        var description = Encoding.Unicode.GetBytes("<WIM><IMAGE INDEX=\"1\"><NAME>Brackwater recovery</NAME></IMAGE></WIM>");
        var tableAt = ImageHeaderRecord.Bytes + BodyBytes;
        var image = new byte[tableAt + TableBytes + description.Length];
        image.Put(0, new ImageHeaderRecord
        {
            Signature = ImageHeaderRecord.UsualSignature,
            HeaderBytes = ImageHeaderRecord.Bytes,
            Version = 0x00010D00,
            Part = 1,
            Parts = 1,
            Images = 1,
            LookupTableLength = TableBytes,
            LookupTableOffset = (ulong)tableAt,
            LookupTableWholeLength = TableBytes,
            DescriptionLength = (ulong)description.Length,
            DescriptionOffset = (ulong)(tableAt + TableBytes),
            DescriptionWholeLength = (ulong)description.Length,
            StartImage = 1
        });
        new Random(42).NextBytes(image.AsSpan(ImageHeaderRecord.Bytes, BodyBytes));
        description.CopyTo(image, tableAt + TableBytes);
        return image;
    }

    private static byte[] Sdi()
    {
        var sdi = new byte[SdiBytes];
        "$SDI0001"u8.CopyTo(sdi);
        return sdi;
    }

    private static string Settings(DiskVolume holder)
    {
        var disk = holder.DiskIdentity;
        return string.Join("\r\n",
            "<?xml version='1.0' encoding='utf-8'?>",
            "<WindowsRE version=\"2.0\">",
            $"  <WinreBCD id=\"{EntryId}\"/>",
            $"  <WinreLocation path=\"{Folder}\" id=\"{disk.Signature}\" offset=\"{holder.Partition.Range.Start}\""
                + $" guid=\"{{{disk.Guid}}}\"/>",
            "  <InstallState state=\"1\"/>",
            "</WindowsRE>",
            "");
    }
}
