using System.Text;
using Keel.Core.Errors;
using Keel.Core.Firmware;
using Keel.Core.Store;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Load options, device paths and the variables they are kept in.</summary>
public sealed class FirmwareTests
{
    private const string Global = "8be4df61-93ca-11d2-aa0d-00e098032b8c";

    private static readonly HardDrivePlace Place = new(
        1,
        2048,
        204800,
        new Guid("b4ac0042-0000-4000-8000-000000000001"),
        IsGpt: true);

    [Fact]
    public void A_windows_entry_has_the_layout_of_the_specification()
    {
        var bytes = LoadOption.OfWindows("Windows Boot Manager", Place, @"\EFI\Microsoft\Boot\bootmgfw.efi").ToBytes();
        BitConverter.ToUInt32(bytes).ShouldBe(1u);
        var pathBytes = BitConverter.ToUInt16(bytes, 4);
        Encoding.Unicode.GetString(bytes, 6, 40).ShouldBe("Windows Boot Manager");
        var path = bytes.AsSpan(6 + 42, pathBytes).ToArray();
        path[..4].ShouldBe([4, 1, 42, 0]);
        BitConverter.ToUInt32(path, 4).ShouldBe(1u);
        BitConverter.ToUInt64(path, 8).ShouldBe(2048ul);
        BitConverter.ToUInt64(path, 16).ShouldBe(204800ul);
        new Guid(path.AsSpan(24, 16)).ShouldBe(Place.Id);
        path[40..42].ShouldBe([2, 2]);
        path[42..44].ShouldBe([4, 4]);
        path[^4..].ShouldBe([0x7F, 0xFF, 4, 0]);
        var data = bytes[(6 + 42 + pathBytes)..];
        Encoding.ASCII.GetString(data, 0, 8).ShouldBe("WINDOWS\0");
        BitConverter.ToInt32(data, 12).ShouldBe(data.Length);
        Encoding.Unicode.GetString(data, 20, 96).ShouldEndWith(EntryId.Manager.ToString());
    }

    [Fact]
    public void What_is_written_is_read_back_and_written_the_same()
    {
        for (var seed = 0; seed < 500; seed++)
        {
            var random = new Random(seed);
            var option = new LoadOption(
                (uint)random.Next(16),
                new string('q', random.Next(40)) + seed,
                [.. Enumerable
                    .Range(0, random.Next(5))
                    .Select(_ => new DevicePathNode((byte)random.Next(1, 6), (byte)random.Next(30), Bytes(random)))],
                Bytes(random));
            var read = LoadOption.TryRead(option.ToBytes())!;
            read.ToBytes().ShouldBe(option.ToBytes());
            (read.Title, read.Attributes, read.Path.Count).ShouldBe((option.Title, option.Attributes, option.Path.Count));
        }
    }

    [Fact]
    public void Any_bytes_are_survived()
    {
        var sound = LoadOption.OfWindows("Windows Boot Manager", Place, @"\EFI\x.efi").ToBytes();
        for (var seed = 0; seed < 5000; seed++)
        {
            var random = new Random(seed);
            var bytes = sound[..random.Next(sound.Length + 1)].ToArray();
            if (bytes.Length > 0) bytes[random.Next(bytes.Length)] = (byte)random.Next(256);
            var option = LoadOption.TryRead(bytes);
            _ = (option?.FilePath, option?.HardDrive, option?.IsForWindows, option?.ToBytes());
        }
    }

    [Fact]
    public void Entries_order_and_next_start_change_together()
    {
        using var scratch = new Scratch();
        File.WriteAllBytes(scratch[$"BootOrder-{Global}"], [7, 0, 0, 0, 3, 0, 9, 0]);
        File.WriteAllBytes(scratch[$"BootNext-{Global}"], [7, 0, 0, 0, 3, 0]);
        File.WriteAllBytes(
            scratch[$"Boot0003-{Global}"],
            [7, 0, 0, 0, .. LoadOption.OfWindows("Old", Place, @"\a.efi").ToBytes()]);
        File.WriteAllBytes(scratch[$"Lang-{Global}"], [1, 2, 3, 4, 5]);
        var variables = FirmwareVariables.Open(scratch.Folder);
        (variables.Next, variables.Entry(3)!.Title, variables.Entry(9)).ShouldBe(((ushort?)3, "Old", null));
        variables.Order.ShouldBe([(ushort)3, (ushort)9]);
        variables.Add(LoadOption.OfWindows("New", Place, @"\b.efi")).ShouldBe((ushort)0);
        var saved = variables.Save();
        variables.Drop(3);
        variables.Next.ShouldBeNull();
        variables.Order.ShouldBe([(ushort)9]);
        variables.Numbers.ShouldBe([(ushort)0]);
        variables.Changes().Select(change => change.Name[..8]).ShouldBe(["Boot0000", "Boot0003", "BootNext", "BootOrde"]);
        variables.Restore(saved);
        variables.Order.ShouldBe([(ushort)3, (ushort)9]);
        variables.Changes().Count.ShouldBe(1);
        File.Exists(scratch[$"Boot0000-{Global}"]).ShouldBeFalse();
        VariableFile.Write(scratch.Folder, variables.Changes()[0].Name, variables.Changes()[0].After);
        FirmwareVariables.Open(scratch.Folder).Entry(0)!.Title.ShouldBe("New");
    }

    [Fact]
    public void A_missing_folder_is_told() =>
        Should.Throw<UnreadableException>(() => FirmwareVariables.Open("/nowhere")).Todo.ShouldContain("--variables");

    private static byte[] Bytes(Random random)
    {
        var bytes = new byte[random.Next(60)];
        random.NextBytes(bytes);
        return bytes;
    }
}
