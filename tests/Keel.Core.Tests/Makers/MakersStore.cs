using System.Buffers.Binary;
using System.Globalization;
using System.Text;
using Keel.Tests;

namespace Keel.Core.Tests.Makers;

/// <summary>A store that hivexsh writes: entries and elements as Windows' own setup leaves them.</summary>
internal sealed class MakersStore
{
    public const string Manager = "9dea862c-5cdd-4e70-acc1-f32b344d4795", MemoryTest = "b2721d73-1db4-4c62-bf78-c548a880142d";

    private const string
        Everything = "7ea2e1ac-2e61-4728-aaa3-896d9d0a9f0e",
        Loaders = "6efb52bf-1766-41db-a6b3-0ee5eff72bd7",
        Resumes = "1afa9c49-16ab-4a5c-901b-212802da9460",
        Debugger = "4636856e-540f-4170-a130-a84776f4c654",
        Serial = "0ce4991b-e6b3-4b16-b23c-5e0d9250e5d9",
        BadMemory = "5189b25c-5558-4bf2-bca4-289b11bd29e2",
        Hypervisor = "7ff607e0-4395-11db-b0de-0800200c9a66";

    private readonly StringBuilder script = new();

    public MakersStore()
    {
        script.Append("cd \\Objects\ndel\ncd \\\nadd Objects\n");
        Entry(Debugger, 0x20100000, Number(0x15000011, 0));
        Entry(Serial, 0x20100000, Flag(0x16000020, false));
        Entry(BadMemory, 0x20100000);
        Entry(Hypervisor, 0x20200003, Number(0x250000f3, 0), Number(0x250000f4, 1), Number(0x250000f5, 115200));
        Entry(Everything, 0x20100000, List(0x14000006, Debugger, Serial, BadMemory));
        Entry(Loaders, 0x20200003, List(0x14000006, Everything, Hypervisor));
        Entry(Resumes, 0x20200004, List(0x14000006, Everything));
    }

    /// <summary>The entries of a Windows: its loader's, and the one that resumes it.</summary>
    public void Windows(string id, string resume, byte[] device, string suffix, string title, string? recovery, bool isGraphical)
    {
        Entry(
            resume,
            0x10200004,
            Device(0x11000001, device),
            Text(0x12000002, $@"\Windows\system32\winresume.{suffix}"),
            Text(0x12000004, "Windows Resume Application"),
            Text(0x12000005, "en-US"),
            List(0x14000006, Resumes),
            Flag(0x16000060, true),
            Numbers(0x17000077, 0x15000075),
            Device(0x21000001, device),
            Text(0x22000002, @"\hiberfil.sys"),
            Number(0x25000008, isGraphical ? 1u : 0u));
        List<string> elements =
        [
            Device(0x11000001, device),
            Text(0x12000002, $@"\Windows\system32\winload.{suffix}"),
            Text(0x12000004, title),
            Text(0x12000005, "en-US"),
            List(0x14000006, Loaders),
            Flag(0x16000060, true),
            Numbers(0x17000077, 0x15000075),
            Device(0x21000001, device),
            Text(0x22000002, @"\Windows"),
            Reference(0x23000003, resume),
            Number(0x25000020, 0)
        ];
        if (isGraphical) elements.Add(Number(0x250000c2, 1));
        if (recovery is not null) elements.AddRange([List(0x14000008, recovery), Flag(0x16000009, true)]);
        Entry(id, 0x10200003, [.. elements]);
    }

    /// <summary>The entries of a recovery environment: what starts its image, and the options of the ramdisk.</summary>
    public void Recovery(string id, string options, byte[] holder, string folder, string suffix)
    {
        var ramdisk = Ramdisk(new Guid(options), holder, $@"{folder}\Winre.wim");
        Entry(
            options,
            0x30000000,
            Text(0x12000004, "Windows Recovery"),
            Device(0x31000003, holder),
            Text(0x32000004, $@"{folder}\boot.sdi"));
        Entry(
            id,
            0x10200003,
            Device(0x11000001, ramdisk),
            Text(0x12000002, $@"\windows\system32\winload.{suffix}"),
            Text(0x12000004, "Windows Recovery Environment"),
            Text(0x12000005, "en-US"),
            List(0x14000006, Loaders),
            Number(0x15000065, 3),
            Device(0x21000001, ramdisk),
            Text(0x22000002, @"\windows"),
            Number(0x25000020, 0),
            Number(0x250000c2, 1),
            Flag(0x26000022, true));
    }

    /// <summary>The manager, the memory test, and for UEFI the list of the firmware.</summary>
    public void Finish(byte[] system, bool isUefi, string resume, IReadOnlyList<string> order)
    {
        List<string> manager =
        [
            Device(0x11000001, system),
            Text(0x12000004, "Windows Boot Manager"),
            Text(0x12000005, "en-US"),
            List(0x14000006, Everything),
            Reference(0x23000003, order[0]),
            Reference(0x23000006, resume),
            List(0x24000001, [.. order]),
            List(0x24000010, MemoryTest),
            Number(0x25000004, 30)
        ];
        if (isUefi) manager.Add(Text(0x12000002, @"\EFI\MICROSOFT\BOOT\BOOTMGFW.EFI"));
        Entry(Manager, 0x10100002, [.. manager]);
        Entry(
            MemoryTest,
            0x10200005,
            Device(0x11000001, system),
            Text(0x12000002, isUefi ? @"\EFI\Microsoft\Boot\memtest.efi" : @"\boot\memtest.exe"),
            Text(0x12000004, "Windows Memory Diagnostic"),
            Text(0x12000005, "en-US"),
            List(0x14000006, Everything),
            Flag(0x1600000b, true));
        if (!isUefi) return;
        Entry("a5a30fa2-3d06-4e9f-b5f4-a01df9d1fcba", 0x10100001, List(0x24000001, Manager), Number(0x25000004, 1));
    }

    /// <summary>Has hivexsh write the store into a hive that is thrown away otherwise.</summary>
    public async Task<byte[]> Write(Scratch scratch)
    {
        var (hive, commands) = (scratch["store.hive"], scratch["store.hivexsh"]);
        await File.WriteAllBytesAsync(hive, Store.BootStore.Empty(DateTimeOffset.UnixEpoch.AddYears(50)).ToBytes());
        await File.WriteAllTextAsync(commands, $"{script}commit\nquit\n", Encoding.ASCII);
        await Tool.MustAgree("hivexsh", "-w", "-f", commands, hive);
        return await File.ReadAllBytesAsync(hive);
    }

    /// <summary>A partition as a device: by where it lies and its disk's signature, or by its GUID and its disk's.</summary>
    public static byte[] Partition(bool isGpt, MakersPart part, Guid disk, uint signature)
    {
        var bytes = Blank(type: 6, bodyBytes: 0x48);
        if (isGpt)
        {
            part.Id.TryWriteBytes(bytes.AsSpan(0x20));
            disk.TryWriteBytes(bytes.AsSpan(0x38));
            return bytes;
        }

        BinaryPrimitives.WriteInt64LittleEndian(bytes.AsSpan(0x20), part.Range.Start);
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(0x34), 1);
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(0x38), signature);
        return bytes;
    }

    /// <summary>"Where the start came from".</summary>
    public static byte[] StartedFrom() => Blank(type: 5, bodyBytes: 0x48);

    /// <summary>"The volume that has the file which this element names", as a generalised image has it.</summary>
    public static byte[] Search(uint element)
    {
        var bytes = Blank(type: 8, bodyBytes: 0x48);
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(0x24), element);
        return bytes;
    }

    public static byte[] Ramdisk(Guid options, byte[] holder, string path)
    {
        var name = Encoding.Unicode.GetBytes(path + "\0");
        var fileBytes = 12 + holder.Length - 16 + name.Length;
        var bytes = Blank(type: 0, bodyBytes: 16 + 4 + 20 + fileBytes);
        options.TryWriteBytes(bytes);
        bytes[0x14] = 1;
        bytes[0x20] = 3;
        var file = bytes.AsSpan(0x20 + 4 + 20);
        BinaryPrimitives.WriteInt32LittleEndian(file, 1);
        BinaryPrimitives.WriteInt32LittleEndian(file[4..], fileBytes);
        BinaryPrimitives.WriteInt32LittleEndian(file[8..], 5);
        holder.AsSpan(16).CopyTo(file[12..]);
        name.CopyTo(file[(12 + holder.Length - 16)..]);
        return bytes;
    }

    private static byte[] Blank(int type, int bodyBytes)
    {
        var bytes = new byte[16 + bodyBytes];
        bytes[0x10] = (byte)type;
        BinaryPrimitives.WriteInt32LittleEndian(bytes.AsSpan(0x18), bodyBytes);
        return bytes;
    }

    private void Entry(string id, uint type, params string[] elements)
    {
        script.Append(CultureInfo.InvariantCulture, $"cd \\Objects\nadd {{{id}}}\ncd \\Objects\\{{{id}}}\nadd Description\n");
        script.Append(
            CultureInfo.InvariantCulture,
            $"cd \\Objects\\{{{id}}}\\Description\nsetval 1\nType\ndword:0x{type:x8}\ncd \\Objects\\{{{id}}}\nadd Elements\n");
        foreach (var element in elements)
        {
            var (name, value) = (element[..8], element[9..]);
            script.Append(CultureInfo.InvariantCulture, $"cd \\Objects\\{{{id}}}\\Elements\nadd {name}\n");
            script.Append(
                CultureInfo.InvariantCulture,
                $"cd \\Objects\\{{{id}}}\\Elements\\{name}\nsetval 1\nElement\nhex:{value}\n");
        }
    }

    private static string Device(uint element, byte[] device) => Value(element, 3, device);

    private static string Text(uint element, string text) => Value(element, 1, Encoding.Unicode.GetBytes(text + "\0"));

    private static string Reference(uint element, string id) => Text(element, $"{{{id}}}");

    private static string List(uint element, params string[] ids) =>
        Value(element, 7, Encoding.Unicode.GetBytes(string.Concat(ids.Select(id => $"{{{id}}}\0")) + "\0"));

    private static string Number(uint element, ulong number) => Numbers(element, number);

    private static string Numbers(uint element, params ulong[] numbers)
    {
        var bytes = new byte[numbers.Length * sizeof(ulong)];
        for (var index = 0; index < numbers.Length; index++)
            BinaryPrimitives.WriteUInt64LittleEndian(bytes.AsSpan(index * sizeof(ulong)), numbers[index]);
        return Value(element, 3, bytes);
    }

    private static string Flag(uint element, bool isOn) => Value(element, 3, [isOn ? (byte)1 : (byte)0]);

    /// <summary>The element's number, and its value as hivexsh takes one: the type, then each byte.</summary>
    private static string Value(uint element, int type, byte[] bytes) =>
        $"{element:x8} {type}:{string.Join(',', bytes.Select(value => value.ToString("x2", CultureInfo.InvariantCulture)))}";
}
