using Keel.Core.BootCode;
using Keel.Core.BootCode.Loading;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// Active volumes of random shape, started by SeaBIOS and some by Bochs' own BIOS: 'tests/boot-shapes' runs them, by seed.
/// </summary>
public sealed class BootShapeTests
{
    private const int MiB = 1024 * 1024;

    [Theory(Explicit = true)]
    [MemberData(nameof(Seeds))]
    public async Task A_disk_of_random_shape_starts(int seed)
    {
        using var scratch = new Scratch();
        var random = new Random(seed);
        var disk = await Any(scratch, random);
        using (var machine = Machine.Open(disk))
        {
            var volume = machine.Volumes.Single();
            BootCodeLoading.Try(volume.Blocks, volume.Kind, LoaderKind.BootManager)!.Outcome.ShouldBe(LoadOutcome.Loaded);
        }

        const string right = "STAND-IN REACHED drive 80 serial ";
        (await Emulator.Start(disk, seconds: 20)).ShouldContain(right, customMessage: $"seed {seed}, SeaBIOS");
        if (seed % 4 == 0) (await Bochs.Start(disk, scratch.Folder)).ShouldContain(right, customMessage: $"seed {seed}, Bochs");
    }

    /// <summary>From the variables KEEL_SHAPES_FROM and KEEL_SHAPES_TO; else a few.</summary>
    public static IEnumerable<TheoryDataRow<int>> Seeds()
    {
        var from = int.Parse(Environment.GetEnvironmentVariable("KEEL_SHAPES_FROM") ?? "1", null);
        var to = int.Parse(Environment.GetEnvironmentVariable("KEEL_SHAPES_TO") ?? "4", null);
        return Enumerable.Range(from, to - from + 1).Select(seed => new TheoryDataRow<int>(seed));
    }

    /// <summary>A shape for which the volume has room.</summary>
    private static async Task<string> Any(Scratch scratch, Random random)
    {
        const int draws = 10;
        for (var draw = 1; ; draw++)
        {
            try
            {
                return random.Next(3) == 0 ? await Fat(scratch, random) : Ntfs(scratch, random);
            }
            catch (UnreadableException) when (draw < draws)
            {
                // The files of this one don't fit on it.
            }
        }
    }

    private static string Ntfs(Scratch scratch, Random random)
    {
        int[] clusters = [512, 1024, 2048, 4096, 8192, 16384, 32768, 65536];
        long[] starts = [63, 128, 2048, 4096 + 1, 206_848];
        var clusterBytes = clusters[random.Next(clusters.Length)];
        var volumeMiB = 16 + (random.Next(20) * Math.Max(1, clusterBytes / 8192));
        var managerBytes = random.Next(2_000, 400_000);
        var names = random.Next(3) == 0 ? random.Next(1500) : random.Next(20);
        var gaps = random.Next(2) == 0 ? random.Next(100, 700) : 0;
        return StartableDisk.Ntfs(
            scratch,
            "disk",
            clusterBytes,
            volumeMiB,
            starts[random.Next(starts.Length)],
            largeRecords: clusterBytes >= 4096 && random.Next(4) == 0,
            prepare: gaps > 0 && clusterBytes <= 4096 ? files => StartableDisk.LeaveGaps(files, clusterBytes, gaps) : null,
            fill: files =>
            {
                for (var number = 0; number < names && gaps == 0; number++)
                    files.WriteFile($@"\{(char)('a' + random.Next(26))} sailing list {number}.txt", "x"u8);
                var name = new[] { "bootmgr", "BOOTMGR", "BootMgr" }[random.Next(3)];
                files.WriteFile($@"\{name}", StandInManager.MakeBios("10.0.1.1", managerBytes));
            });
    }

    private static async Task<string> Fat(Scratch scratch, Random random)
    {
        var fragmented = random.Next(2) == 0;
        if (random.Next(2) == 0)
        {
            var bits = random.Next(2) == 0 ? 12 : 16;
            var oldClusters = bits == 12 ? new[] { 1024, 2048, 4096, 8192 } : [1024, 2048, 4096, 8192, 16384];
            return await StartableDisk.OldFat(
                scratch,
                bits,
                oldClusters[random.Next(oldClusters.Length)],
                fragmented,
                LoaderKind.BootManager);
        }

        int[] clusters = [512, 1024, 2048, 4096, 8192, 16384];
        return await StartableDisk.Fat32(
            scratch,
            "disk",
            clusters[random.Next(clusters.Length)],
            fragmented: fragmented,
            manager: StandInManager.MakeBios("10.0.1.1", random.Next(2_000, 400_000)));
    }
}
