using Keel.Core.Chain;
using Keel.Core.Mending;
using Keel.Core.Programs;
using Keel.Core.Volumes;

namespace Keel.Core.Tests;

/// <summary>
/// A file of another Windows of the same build serves where the own one keeps no copy; what is left of a deleted Windows is not
/// filled up so.
/// </summary>
public sealed class SiblingCopyTests
{
    private const string System32 = @"\Windows\System32", Name = "hal.dll";

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void It_serves_where_the_rest_of_the_Windows_is_there(bool hasDrivers)
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            foreach (var folder in (string[])["", @"\drivers", @"\config"]) CopyFolder(files, folder);
            files.Delete($@"{System32}\{Name}");
            foreach (var place in SpareCopies.InComponents(files, @"\Windows", Name).ToList()) files.Delete(place);
            if (hasDrivers) return;
            foreach (var file in files.List($@"{System32}\drivers"))
            {
                files.Delete($@"{System32}\drivers\{file.Name}");
                foreach (var place in PlacesOf(files, file.Name)) files.Delete(place);
            }
        });
        practice.Machine.Installations.Count.ShouldBe(2);
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        var steps = plan.Steps.Where(step => step.Summary.Id == "step.program-from-outside").ToList();
        if (!hasDrivers)
        {
            steps.ShouldBeEmpty();
            return;
        }

        steps.ShouldHaveSingleItem().Details.ShouldContain(detail => $"{detail.Says}".Contains(@"in \Second on"));
        plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    private static List<string> PlacesOf(IVolume files, string name)
    {
        const string store = $@"{System32}\DriverStore\FileRepository";
        return
        [
            .. SpareCopies.InComponents(files, @"\Windows", name),
            .. files.List(store).Select(package => $@"{store}\{package.Name}\{name}").Where(files.FileExists)
        ];
    }

    private static void CopyFolder(IVolume files, string folder)
    {
        files.CreateFolder($@"\Second\System32{folder}");
        foreach (var file in files.List(System32 + folder).Where(file => !file.IsFolder))
            files.WriteFile($@"\Second\System32{folder}\{file.Name}", files.ReadFile($@"{System32}{folder}\{file.Name}"));
    }
}
