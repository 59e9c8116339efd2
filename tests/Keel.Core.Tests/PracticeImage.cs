using Keel.Core.Drills;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Practice disks for tests: the same as <see cref="PracticeDisk.Make"/> makes, each made once.</summary>
internal static class PracticeImage
{
    public static void Make(string path, PracticeSpec spec, Fault fault) =>
        Task.Run(() => MadeOnce.Copy($"{spec} {fault.Id}", path, made =>
        {
            PracticeDisk.Make(made, spec, fault);
            return Task.CompletedTask;
        })).GetAwaiter().GetResult();
}
