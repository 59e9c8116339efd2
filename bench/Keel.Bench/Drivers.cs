using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Bench;

/// <summary>Fills a practice installation with start drivers.</summary>
internal static class Drivers
{
    private const string Hive = @"\Windows\System32\config\SYSTEM", Folder = @"\Windows\System32\drivers";

    public static void Add(Machine machine, int count)
    {
        var windows = machine.Volumes.First(volume => volume.Number == 2);
        var hive = Core.Hives.Hive.Open(windows.Files!.ReadFile(Hive)).ReadTree();
        var driver = windows.Files!.ReadFile($@"{Folder}\disk.sys");
        var services = hive.Child("ControlSet001")!.Child("Services")!;
        for (var number = 0; number < count; number++)
        {
            services.ChildOrNew($"quay{number:000}")
                .Set(HiveValue.OfNumber("Start", 0))
                    .Set(HiveValue.OfNumber("Type", 1))
                    .Set(HiveValue.OfNumber("ErrorControl", 1))
                    .Set(HiveValue.OfText("Group", "Extended Base"));
        }

        var bytes = HiveWriter.Write(hive, 5);
        windows.Edit(files =>
        {
            files.WriteFile(Hive, bytes);
            for (var number = 0; number < count; number++) files.WriteFile($@"{Folder}\quay{number:000}.sys", driver);
        });
    }
}
