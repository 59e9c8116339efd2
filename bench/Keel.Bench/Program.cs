using Keel.Core.Blocks;
using Keel.Core.Chain;

// fill FROM TO COUNT: a copy of a practice disk with that many more files on its Windows volume.
if (args is not ["fill", var from, var to, var countText] || !int.TryParse(countText, out var count))
{
    Console.Error.WriteLine("usage: fill FROM TO COUNT");
    return 2;
}

File.Copy(from, to, overwrite: true);
using var machine = Machine.Open(to);
var windows = machine.Volumes.First(volume => volume.Number == 2);
windows.Edit(files =>
{
    for (var number = 0; number < count; number++)
    {
        var folder = number % 4 == 0 ? @"\Windows\System32" : $@"\Users\purser\Documents\Sailings{number % 100}";
        if (number < 100 && number % 4 != 0) files.CreateFolder(folder);
        files.WriteFile($@"{folder}\sailing{number:000000}.txt", "07:15 Brackwater - North Quay"u8);
    }
});
using var image = DiskFile.Open(to, forWriting: true);
var overlay = machine.StartDisk.Overlay;
foreach (var range in overlay.Changes())
{
    for (var at = range.Start; at < range.End; at += 1 << 20) image.Write(at, overlay.ReadBytes(at, (int)Math.Min(1 << 20, range.End - at)));
}

return 0;
