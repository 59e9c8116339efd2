using System.Text.RegularExpressions;
using Keel.Cli.Wording;
using Keel.Core.Errors;
using Keel.Core.Facts;

namespace Keel.Cli.Tests;

/// <summary>Every remark has its sentence, every sentence its remark, and the gaps are filled as their signs say.</summary>
public sealed partial class WordingTests
{
    /// <summary>Made by pasting parts together, so that no search finds them whole.</summary>
    private static readonly string[] MadeFromParts = ["table.", "system-volume.", "left."];

    private static readonly string Sources = string.Join('\n', Directory
        .EnumerateFiles(Path.Combine(KeelProgram.Root(), "src"), "*.cs", SearchOption.AllDirectories)
        .Where(path => !path.Contains("/obj/", StringComparison.Ordinal) && !path.Contains("/Wording/", StringComparison.Ordinal))
        .Select(File.ReadAllText));

    [Fact]
    public void Every_remark_of_the_core_has_a_sentence()
    {
        var known = Words.All.Select(one => one.Id).ToHashSet();
        var told = Told().Matches(Sources).Select(match => match.Groups["id"].Value).ToList();
        told.Count.ShouldBeGreaterThan(150);
        told.Where(id => !known.Contains(id)).ShouldBeEmpty();

        var refused = Refused().Matches(Sources).Select(match => match.Groups["id"].Value).ToList();
        refused.Count.ShouldBeGreaterThan(30);
        refused.Where(id => !known.Contains($"left.{id}") || !known.Contains($"left.{id}.todo")).ShouldBeEmpty();

        var layout = LayoutProblems().Matches(Sources).Select(match => match.Groups["id"].Value).ToList();
        layout.Count.ShouldBeGreaterThan(10);
        layout.Where(id => !known.Contains($"table.{id}")).ShouldBeEmpty();
    }

    [Fact]
    public void Every_sentence_is_used_by_the_core()
    {
        var kinds = FindingKinds.All.Select(kind => kind.Id).ToHashSet();
        var unused = Words.All.Select(one => one.Id)
            .Where(id => !kinds.Contains(id) && !IsNamed(id) && !IsNamed(WithoutTodo(id)))
            .Where(id => !IsUsedInParts(id));
        unused.ShouldBeEmpty();
    }

    [Fact]
    public void No_sentence_stands_twice_and_every_gap_is_a_fact()
    {
        Words.All.GroupBy(one => one.Id).Where(group => group.Count() > 1).Select(group => group.Key).ShouldBeEmpty();
        var facts =
            typeof(Fact)
                .GetFields()
                .Select(field => (string)field.FieldType.GetProperty("Name")!.GetValue(field.GetValue(null))!)
                .ToHashSet();
        var strange =
            Words.All.SelectMany(one =>
                new Template(one.Text).Gaps.Where(gap => !facts.Contains(gap)).Select(gap => $"{one.Id}: {gap}"));
        strange.ShouldBeEmpty();
    }

    [Fact]
    public void A_whole_sentence_ends_with_a_stop_and_half_a_sentence_does_not()
    {
        var steps = Words.All.Where(one => one.Id.StartsWith("step.", StringComparison.Ordinal));
        steps.Where(one => !one.Text.EndsWith('.') || !char.IsUpper(one.Text[0]) && one.Text[0] != '{').ShouldBeEmpty();
        var halves = Words.All.Where(one =>
            one.Id.StartsWith("table.", StringComparison.Ordinal) || one.Id.EndsWith(".sound", StringComparison.Ordinal));
        halves.Where(one => one.Text.EndsWith('.')).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("{path} on {volume}", @"\bootmgr on volume 2")]
    [InlineData("{sizeBytes:byte|bytes}", "1 byte")]
    [InlineData("{entryCount:entry|entries}", "0 entries")]
    [InlineData("{neededBytes:byte|bytes}", "70000 bytes")]
    [InlineData("it {isActive?becomes active|stays}", "it becomes active")]
    [InlineData("it {isLast?is last|is first}", "it is first")]
    [InlineData("{names}", "pci, acpi, disk")]
    [InlineData("{names&}", "pci and acpi and disk")]
    [InlineData("{names;}", "pci; acpi; disk")]
    [InlineData("{names#2}", "pci, acpi and 1 more")]
    [InlineData("{names#3}", "pci, acpi, disk")]
    [InlineData("{names?is|are} gone", "are gone")]
    [InlineData("{said^}.", "It is here.")]
    [InlineData("{path}[ of {title}]", @"\bootmgr")]
    [InlineData("{path}[ on {volume}][, last{isLast?|}]", @"\bootmgr on volume 2")]
    [InlineData("{path}[, active{isActive?|}]", @"\bootmgr, active")]
    [InlineData("written {written}", "written 2026-11-02 06:40")]
    [InlineData("until {expires}", "until 2031-01-01")]
    [InlineData("{reason}!", "it is active!")]
    public void Gaps_are_filled_as_their_signs_say(string text, string expected) =>
        new Template(text).Fill(Facts).ShouldBe(expected);

    [Theory]
    [InlineData("file.missing")]
    [InlineData("file.folder")]
    [InlineData("file.empty")]
    [InlineData("program.too-large")]
    [InlineData("program.zeros")]
    [InlineData("program.no-header")]
    [InlineData("program.cut-short")]
    [InlineData("program.other-processor")]
    [InlineData("program.altered")]
    [InlineData("program.unreadable")]
    public void What_is_wrong_with_a_file_says_who_needs_it(string id)
    {
        var file = new Remark(id, Facts);
        Words.Of(file).ShouldNotContain("driver");
        Words.Of(file.With(Fact.NeededBy.Is("ntoskrnl.exe"))).ShouldEndWith(", and ntoskrnl.exe needs it");
        Words.Of(file.With(Fact.Driver.Is("storahci"))).ShouldEndWith(" (driver storahci)");
        Words.Of(file.With(Fact.Driver.Is("beep"), Fact.MayFail.Is(true))).ShouldEndWith(" (driver beep), which may fail");
    }

    [Fact]
    public void Errors_tell_their_reason_once_and_in_whole_sentences()
    {
        var error = new RefusedException("Nothing was written.", "", "Name another.")
        {
            Reason = Remark.Of("system-volume.active")
        };
        Words.Why(error).ShouldBe("It is active.");
        Words.Of(error.AsRemark()).ShouldBe("Nothing was written. It is active.");
        Words.Why(new RefusedException("Nothing was written.", "The disk is full.", "Make room.")).ShouldBe("The disk is full.");
        Words
            .Todo(new RefusedException("It was not restored.", "", "") { Reason = Remark.Of("left.hive-first") })
            .ShouldBe("Mend what comes before it.");
    }

    [Fact]
    public void A_remark_without_a_sentence_still_says_what_it_knows() =>
        Words.Of(Remark.Of("new.thing", Fact.Path.Is(@"\x"), Fact.Sector.Is(7))).ShouldBe(@"new.thing: path \x, sector 7");

    private static FactSet Facts { get; } = new(
    [
        Fact.Path.Is(@"\bootmgr"),
        Fact.Volume.Is(new VolumeRef("/dev/sda", 2)),
        Fact.SizeBytes.Is(1),
        Fact.NeededBytes.Is(70_000),
        Fact.EntryCount.Is(0),
        Fact.IsActive.Is(true),
        Fact.IsLast.Is(false),
        Fact.Names.Is(["pci", "acpi", "disk"]),
        Fact.Said.Is("it is here"),
        Fact.Written.Is(new DateTimeOffset(2026, 11, 2, 6, 40, 0, TimeSpan.Zero)),
        Fact.Expires.Is(new DateTimeOffset(2031, 1, 1, 0, 0, 0, TimeSpan.Zero)),
        Fact.Reason.Is(Remark.Of("system-volume.active"))
    ]);

    private static bool IsUsedInParts(string id)
    {
        var part = Array.Find(MadeFromParts, prefix => id.StartsWith(prefix, StringComparison.Ordinal));
        return part is not null && IsNamed(WithoutTodo(id[part.Length..]));
    }

    private static bool IsNamed(string id) => Sources.Contains($"\"{id}\"", StringComparison.Ordinal);

    private static string WithoutTodo(string id) => id.Replace(".todo", "", StringComparison.Ordinal);

    [GeneratedRegex("""(Remark\.Of|LinkReport\.Sound|LinkReport\.Unreached)\(\s*"(?<id>[^"]+)"[,)\s]""")]
    private static partial Regex Told();

    [GeneratedRegex("""Attempt\.Refused\(\s*"(?<id>[^"]+)"[,)\s]""")]
    private static partial Regex Refused();

    [GeneratedRegex("""LayoutProblem\.Of\(\s*[^"]+?,\s*"(?<id>[^"]+)"[,)\s]""")]
    private static partial Regex LayoutProblems();
}
