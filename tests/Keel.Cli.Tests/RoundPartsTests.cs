using System.Text;
using System.Xml.Linq;
using CsCheck;
using Keel.Cli.Rounds;
using Keel.Cli.Views.Json;
using Keel.Cli.Views.Reports;
using Keel.Core.Errors;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>The parts of rounds and pages by themselves, over anything that may come in.</summary>
public sealed class RoundPartsTests
{
    private static readonly string[] Verdicts = ["sound", "broken", "doubtful", "unreadable"];
    private static readonly Gen<string> Names = Gen.String[Gen.Char, 1, 12].Where(text => !text.Contains('\ud800'));
    private static readonly Gen<RoundLineDocument> Entries =
        from target in Gen.String[Gen.Char['a', 'f'], 1, 2]
        from verdict in Gen.Int[0, 3].Select(which => Verdicts[which])
        from findings in Gen.String[Gen.Char[' ', '~'], 0, 8].Array[0, 3]
        from at in Gen.Int[0, 5]
        select new RoundLineDocument(target, verdict, Findings: findings, At: DateTimeOffset.UnixEpoch.AddDays(at));

    [Fact]
    public void Every_target_belongs_to_one_part() => Gen.Select(Gen.Int[1, 40], Gen.Int[0, 5000]).Sample((count, place) =>
        Enumerable.Range(1, count).Count(number => new RoundShard(number, count).Has(place)) == 1);

    [Theory]
    [InlineData("1/1", 1, 1)]
    [InlineData("7/8", 7, 8)]
    public void A_part_is_read(string text, int number, int count) =>
        RoundShard.Parse(text).ShouldBe(new RoundShard(number, count));

    [Theory]
    [InlineData("")]
    [InlineData("/")]
    [InlineData("0/3")]
    [InlineData("4/3")]
    [InlineData("-1/3")]
    [InlineData("1/3/5")]
    [InlineData("1 / 3")]
    [InlineData("99999999999/3")]
    public void What_is_no_part_is_told(string text) => Should.Throw<WrongUsageException>(() => RoundShard.Parse(text));

    [Fact]
    public void A_file_that_is_cut_anywhere_keeps_its_whole_lines() => Gen.Select(Entries.Array[1, 8], Gen.Double[0, 1]).Sample(
        (entries, part) =>
        {
            using var scratch = new Scratch();
            var path = scratch["round.jsonl"];
            using (var ledger = new RoundLedger(path))
            {
                foreach (var entry in entries) ledger.Add(entry);
            }

            var bytes = File.ReadAllBytes(path);
            var cut = (int)(bytes.Length * part);
            var whole = bytes.AsSpan(0, cut).Count((byte)'\n');
            File.WriteAllBytes(path, bytes[..cut]);
            using (var again = new RoundLedger(path))
            {
                again.Verdicts.Values.Sum().ShouldBe(whole);
                again.Add(new RoundLineDocument("last", "sound"));
            }

            var read = RoundLedger.Read(path).ToList();
            read.Count.ShouldBe(whole + 1);
            read.Take(whole).Select(entry => entry.Target).ShouldBe(entries.Take(whole).Select(entry => entry.Target));
        },
        iter: 200,
        threads: 1);

    [Fact]
    public void A_file_of_something_else_is_left_as_it_is() => Gen.Byte.Array[1, 400].Sample(
        noise =>
        {
            using var scratch = new Scratch();
            byte[] contents = [.. """{"target":"a","verdict":"sound"}"""u8, (byte)'\n', .. noise];
            if (noise[0] == (byte)'{') return;
            File.WriteAllBytes(scratch["round.jsonl"], contents);
            Should.Throw<RefusedException>(() => new RoundLedger(scratch["round.jsonl"]));
            File.ReadAllBytes(scratch["round.jsonl"]).ShouldBe(contents);
            RoundLedger.Read(scratch["round.jsonl"]).First().Target.ShouldBe("a");
        },
        iter: 200,
        threads: 1);

    [Fact]
    public void The_same_lines_in_any_parts_make_the_same_table() =>
        Gen.Select(Entries.Array[1, 30], Gen.Int[1, 4], Gen.Int).Sample(
        (entries, parts, seed) =>
        {
            using var scratch = new Scratch();
            var last = entries.GroupBy(entry => entry.Target).Select(group => group.MaxBy(entry => entry.At)!).ToArray();
            var chance = new Random(seed);
            Write(scratch["one"], [last]);
            Write(scratch["many"], [.. last.GroupBy(_ => chance.Next(parts)).Select(group => group.ToArray())]);
            TallyTable.Text(RoundTally.Of([scratch["many"]])).ShouldBe(TallyTable.Text(RoundTally.Of([scratch["one"]])));
            var tally = RoundTally.Of([scratch["one"]]);
            tally.Verdicts.Sum(pair => pair.Count).ShouldBe(last.Length);
            tally.Findings.Sum(pair => pair.Count).ShouldBe(last.Sum(entry => entry.Findings!.Count));
        },
        iter: 100,
        threads: 1);

    [Fact]
    public void A_table_reads_back_as_what_was_put_in() => Names.Array[1, 5].Sample(
        targets =>
        {
            using var scratch = new Scratch();
            Write(scratch["round"], [[.. targets.Select(target => new RoundLineDocument(target, "sound"))]]);
            var rows = ReadTable(TallyTable.Text(RoundTally.Of([scratch["round"]])));
            rows.ShouldAllBe(row => row.Count == 11);
            rows.Skip(1).Select(row => row[0].TrimStart('\'')).ShouldBe(
                targets.Distinct().Order(StringComparer.Ordinal).Select(target => HtmlText.Visible(target.TrimStart('\''))));
        },
        iter: 300,
        threads: 1);

    [Fact]
    public void Text_on_a_page_is_text_whatever_it_says() => Gen.String.Sample(text =>
    {
        var safe = HtmlText.Of(text);
        safe.IndexOfAny(['<', '>', '"']).ShouldBe(-1);
        safe.ShouldAllBe(letter => !char.IsControl(letter));
        XElement.Parse($"<p title=\"{safe}\">{safe}</p>").Value.ShouldBe(HtmlText.Visible(text));
    });

    [Theory]
    [InlineData("a\u202Eb", @"a\u{202e}b")]                     // turns what follows around
    [InlineData("a\u200Bb", @"a\u{200b}b")]                     // can't be seen
    [InlineData("a\u0007b", @"a\u{7}b")]
    [InlineData("Fähre α", "Fähre α")]
    public void Letters_that_deceive_are_shown_as_numbers(string text, string shown) => HtmlText.Visible(text).ShouldBe(shown);

    [Theory]
    [InlineData("sound", null, false, false, "sound", "✓")]
    [InlineData("broken", null, true, false, "broken", "✕")]
    [InlineData("broken", "sound", true, true, "mended", "✓")]
    [InlineData("doubtful", null, false, false, "doubtful", "!")]
    [InlineData("doubtful", "sound", false, true, "mended", "✓")]
    [InlineData("unreached", null, false, false, "unreached", "–")]
    [InlineData("unreached", "sound", false, true, "sound", "✓")]
    public void A_link_is_told_by_its_sign_too(string before, string? after, bool stopped, bool mended, string look, string sign)
    {
        var link = new ReportLinkDocument("store", "the list <of> what can be started", before, "", after, null, stopped, mended);
        ChainPicture.Look(link).Class.ShouldBe(look);
        ChainPicture.Look(link).Sign.ShouldBe(sign);
        var svg = XElement.Parse(new ChainPicture([link, link]).Svg());
        svg.Elements("circle").Count().ShouldBe(2);
        svg.Elements("line").Single().Attribute("class")!.Value.ShouldBe(stopped && !mended ? "cut" : "joint");
        svg.Attribute("aria-label")!.Value.ShouldContain("the list <of> what");
    }

    private static void Write(string folder, IReadOnlyList<RoundLineDocument[]> files)
    {
        Directory.CreateDirectory(folder);
        for (var number = 0; number < files.Count; number++)
        {
            using var ledger = new RoundLedger(Path.Combine(folder, $"round-{number}.jsonl"));
            foreach (var entry in files[number]) ledger.Add(entry);
        }
    }

    /// <summary>A reader of RFC 4180 of the test's own.</summary>
    private static List<List<string>> ReadTable(string text)
    {
        var (rows, row, cell, quoted) = (new List<List<string>>(), new List<string>(), new StringBuilder(), false);
        for (var at = 0; at < text.Length; at++)
        {
            var letter = text[at];
            if (quoted && letter == '"' && at + 1 < text.Length && text[at + 1] == '"') cell.Append(text[at++]);
            else if (letter == '"') quoted = !quoted;
            else if (quoted || (letter is not ',' and not '\r')) cell.Append(letter);
            else
            {
                row.Add(cell.ToString());
                cell.Clear();
                if (letter == ',') continue;
                rows.Add(row);
                row = [];
                at++;
            }
        }

        return rows;
    }
}
