using Keel.Bench;

// bootset DISK: 300 boot files of 40 MiB in all, among the copies of the installation on a practice disk for UEFI.
if (args is ["bootset", var bootDisk])
{
    Changed.Write(bootDisk, machine => machine.Volumes.First(volume => volume.Number == 3).Edit(files =>
    {
        const int count = 300, bytes = 40 * 1024 * 1024 / count;
        files.CreateFolder(@"\Windows\Boot\EFI\quays");
        for (var number = 0; number < count; number++)
            files.WriteFile($@"\Windows\Boot\EFI\quays\quay{number:000}.mui", Samples.Noise(number, bytes));
    }));
    return 0;
}

// drivers DISK COUNT: that many more boot drivers, each with a file of its own, on a practice disk for BIOS.
if (args is ["drivers", var driverDisk, var driverText] && int.TryParse(driverText, out var driverCount))
{
    Changed.Write(driverDisk, machine => Drivers.Add(machine, driverCount));
    return 0;
}

// history DISK LOG: an event log of 20 MiB and 30 crash dumps on a practice disk for BIOS, and the log beside it.
if (args is ["history", var historyDisk, var log])
{
    var contents = Memories.EventLog(20 * 1024 * 1024);
    File.WriteAllBytes(log, contents);
    Changed.Write(historyDisk, machine => machine.Volumes.First(volume => volume.Number == 2).Edit(files =>
        Memories.Write(files, contents, 30)));
    return 0;
}

// fill FROM TO COUNT: a copy of a practice disk with that many more files on its Windows volume.
// store TO COUNT: a store of that many entries. hive TO COUNT: a hive of that many keys.
if (args is ["store" or "hive", var file, var number] && int.TryParse(number, out var entries))
{
    File.WriteAllBytes(file, args[0] == "store" ? Samples.Store(entries) : Samples.Hive(entries));
    return 0;
}

// tree FILE: reads a whole hive into memory, and says how much memory that took.
if (args is ["tree", var hive])
{
    var bytes = File.ReadAllBytes(hive);
    var before = GC.GetTotalMemory(forceFullCollection: true);
    var tree = Keel.Core.Hives.Hive.Open(bytes).ReadTree();
    Console.WriteLine($"{(GC.GetTotalMemory(forceFullCollection: true) - before) / 1048576.0:0.0} MiB over a hive of "
        + $"{bytes.Length / 1048576.0:0.0} MiB ({tree.Children.Count} keys below the root)");
    return 0;
}

// unlock VOLUME KEY open|read: opens an encrypted volume, and reads all of it.
if (args is ["unlock", var locked, var keyFile, "open" or "read"])
{
    using var ring = new Keel.Core.Keys.KeyRing();
    foreach (var key in Keel.Core.Volumes.BitLocker.KeyFile.Read(File.ReadAllBytes(keyFile), keyFile)) ring.Add(key);
    using var volume = Keel.Core.Disks.DiskFile.Open(locked);
    var overlay = new Keel.Core.Blocks.Overlay(volume);
    if (Keel.Core.Volumes.BitLocker.VolumeUnlocking.Open(overlay, "the volume", ring) is not { } open) return 1;
    var piece = new byte[1024 * 1024];
    for (var at = 0L; args[3] == "read" && at < open.Blocks.LengthBytes; at += piece.Length) open.Blocks.Read(at, piece);
    return 0;
}

if (args is not ["fill", var from, var to, var countText] || !int.TryParse(countText, out var count))
{
    Console.Error.WriteLine(
        "usage: bootset DISK | drivers DISK COUNT | history DISK LOG | fill FROM TO COUNT | store TO COUNT | hive TO COUNT | "
            + "tree FILE | unlock VOLUME KEY open|read");
    return 2;
}

File.Copy(from, to, overwrite: true);
Changed.Write(to, machine => machine.Volumes.First(volume => volume.Number == 2).Edit(files =>
{
    for (var number = 0; number < count; number++)
    {
        var folder = number % 4 == 0 ? @"\Windows\System32" : $@"\Users\purser\Documents\Sailings{number % 100}";
        if (number < 100 && number % 4 != 0) files.CreateFolder(folder);
        files.WriteFile($@"{folder}\sailing{number:000000}.txt", "07:15 Brackwater - North Quay"u8);
    }
}));
return 0;
