using System.Text;
using CsCheck;
using Keel.Core.BootLists;

namespace Keel.Core.Tests;

/// <summary>boot.ini and its paths: read, changed, and otherwise kept to the byte.</summary>
public sealed class BootListTests
{
    private const string First = @"multi(0)disk(0)rdisk(0)partition(1)\WINDOWS";
    private const string Second = @"multi(0)disk(0)rdisk(1)partition(3)\WINNT";
    private static readonly Encoding Page = BootListPages.Of(850);

    [Theory]
    [InlineData(@"multi(0)disk(0)rdisk(0)partition(2)\WINDOWS", ArcKind.Multi, 0u, 0, 0, 2, @"\WINDOWS")]
    [InlineData(@"MULTI(0)DISK(0)RDISK(1)PARTITION(1)\WINNT\", ArcKind.Multi, 0u, 0, 1, 1, @"\WINNT")]
    [InlineData(@"scsi(1)disk(3)rdisk(0)partition(4)\NT", ArcKind.Scsi, 1u, 3, 0, 4, @"\NT")]
    [InlineData(@"signature(b4ac0042)disk(0)rdisk(0)partition(1)\WINDOWS", ArcKind.Signature, 0xB4AC0042, 0, 0, 1, @"\WINDOWS")]
    [InlineData(@"multi(0)disk(0)rdisk(0)partition(1)", ArcKind.Multi, 0u, 0, 0, 1, "")]
    public void A_path_is_read_and_written(
        string text,
        ArcKind kind,
        uint adapter,
        int disk,
        int rdisk,
        int partition,
        string folder)
    {
        var path = ArcPath.TryParse(text).ShouldNotBeNull();
        path.ShouldBe(new ArcPath(kind, adapter, disk, rdisk, partition, folder));
        ArcPath.TryParse($"{path}").ShouldBe(path);
    }

    [Theory]
    [InlineData("")]
    [InlineData(@"C:\OLDBOOT.DOS")]
    [InlineData(@"multi(0)disk(0)rdisk(0)\WINDOWS")]
    [InlineData(@"multi(x)disk(0)rdisk(0)partition(1)\WINDOWS")]
    [InlineData(@"multi(0)disk(0)rdisk(9999999999)partition(1)\WINDOWS")]
    [InlineData(@"multi(b4ac0042)disk(0)rdisk(0)partition(1)\WINDOWS")]
    [InlineData(@"multi(0)disk(0)rdisk(0)partition(1)WINDOWS")]
    public void What_is_no_path_is_none(string text) => ArcPath.TryParse(text).ShouldBeNull();

    [Theory]
    [InlineData(First + "=\"Till\" /fastdetect /HAL=halacpi.dll", First, "Till", "/fastdetect /HAL=halacpi.dll")]
    [InlineData(First + " = Till 3 /sos", First, "Till 3", "/sos")]
    [InlineData(First + "=\"Till\"", First, "Till", "")]
    [InlineData(First + "=\"Till without an end", First, "Till without an end", "")]
    [InlineData(First, First, null, "")]
    [InlineData("C:\\=\"Earlier system\"", "C:\\", "Earlier system", "")]
    [InlineData(First + "=\"a=b\" /x=y", First, "a=b", "/x=y")]
    public void A_line_is_taken_apart(string row, string target, string? title, string switches)
    {
        var line = List(row).Lines.ShouldHaveSingleItem();
        (line.Target, line.Title, line.Switches).ShouldBe((target, title, switches));
    }

    [Fact]
    public void The_value_of_a_switch_is_found()
    {
        var line = List(First + "=\"Till\" /fastdetect /KERNEL=ntkrnlmp.exe /hal=halmps.dll").Lines[0];
        (line.ValueOf("HAL"), line.ValueOf("KERNEL"), line.ValueOf("fastdetect")).ShouldBe(("halmps.dll", "ntkrnlmp.exe", null));
    }

    /// <summary>Whatever stands in it: what is not changed keeps its bytes.</summary>
    [Fact]
    public void Rows_that_are_not_changed_keep_their_bytes() => Gen.Byte.Array[0, 300]
        .Select(bytes => bytes.Where(one => one is not ((byte)'\n' or (byte)'\r' or 0x1A)).ToArray())
        .List[0, 8]
        .Sample(rows =>
        {
            byte[] file = [.. rows.SelectMany(row => row.Concat("\r\n"u8.ToArray()))];
            BootList.Read(file, Page).ToBytes().ShouldHold(file);
            var list = BootList.Read(file, Page);
            list.Wait(9);
            list.WaitSeconds.ShouldBe(9);
            var after = list.ToBytes();
            var kept = rows.Where(row => row.Length > 0 && !Page.GetString(row).Contains('=', StringComparison.Ordinal)).ToList();
            foreach (var row in kept) after.AsSpan().IndexOf(row).ShouldBeGreaterThanOrEqualTo(0);
        });

    /// <summary>Random edits against a plain model of titles and targets.</summary>
    [Fact]
    public void Edits_do_what_they_say() => Gen.Select(
        Gen.Int[0, 4],
        Gen.Int[0, 7],
        Gen.String[Gen.Char['a', 'z'], 1, 8]).Array[0, 30]
        .Sample(edits =>
        {
            var list = BootList.Empty(Page, 30);
            var model = new List<(string Target, string Title)>();
            foreach (var (kind, at, word) in edits) Edit(list, model, kind, at, word);
            list.Lines.Select(line => (line.Target, line.Title!)).ShouldBe(model);
            var again = BootList.Read(list.ToBytes(), Page);
            again.Lines.ShouldBe(list.Lines);
            again.Default.ShouldBe(list.Default);
            if (model.Count > 0) list.Preferred.ShouldNotBeNull();
        });

    [Fact]
    public void A_preferred_line_goes_before_others_of_the_same_target()
    {
        var list = List($"{First}=\"plain\"", $"{Second}=\"other\"", $"{First}=\"with switches\" /safeboot:minimal");
        list.Prefer(list.Lines[2]);
        list.Lines.Select(line => line.Title).ShouldBe(["with switches", "plain", "other"]);
        list.Preferred!.Title.ShouldBe("with switches");
        list.Default.ShouldBe(First);
    }

    [Fact]
    public void Titles_are_in_the_code_page()
    {
        byte[] file = [.. Encoding.ASCII.GetBytes($"[operating systems]\r\n{First}=\""), 0x81, 0x94, .. "\"\r\n"u8];
        BootList.Read(file, Page).Lines[0].Title.ShouldBe("üö");
        BootListPages.Of(437).GetString([0x9B]).ShouldBe("¢");
        BootListPages.Of(-5).ShouldBe(Page);
    }

    [Fact]
    public void Comments_other_sections_and_what_is_behind_the_end_mark_are_no_lines()
    {
        var list = BootList.Read(
            Encoding.ASCII.GetBytes(
                $"; note\r\n[other]\r\nx=y\r\n[Operating Systems]\r\n;{Second}=\"off\"\r\n\r\n{First}=\"on\"\n\u001a[x"),
            Page);
        list.Lines.ShouldHaveSingleItem().Title.ShouldBe("on");
        (list.Default, list.WaitSeconds).ShouldBe((null, null));
        list.Preferred!.Title.ShouldBe("on");
    }

    /// <summary>Tens of thousands of lines: the first ones are looked at, all are kept, and it does not take long.</summary>
    [Fact]
    public void A_list_without_end_is_bounded_and_kept()
    {
        var rows = Enumerable.Repeat("a\r\n"u8.ToArray(), 20_000).SelectMany(row => row);
        byte[] file = [.. Encoding.ASCII.GetBytes("[operating systems]\r\n"), .. rows];
        var list = BootList.Read(file, Page);
        list.Lines.Count.ShouldBe(200);
        foreach (var line in list.Lines) (list.Preferred == line).ShouldBe(line.Number == 1);
        list.ToBytes().ShouldHold(file);
    }

    private static BootList List(params string[] rows) =>
        BootList.Read(
            Page.GetBytes($"[boot loader]\r\ntimeout=5\r\n[operating systems]\r\n{string.Join("\r\n", rows)}\r\n"),
            Page);

    private static void Edit(BootList list, List<(string Target, string Title)> model, int kind, int at, string word)
    {
        var target = $@"multi(0)disk(0)rdisk(0)partition({at + 1})\{word}";
        if (kind == 0 || model.Count == 0)
        {
            list.Add(target, word, "");
            model.Add((target, word));
            return;
        }

        var line = list.Lines[at % model.Count];
        switch (kind)
        {
            case 1:
                list.Drop(line);
                model.RemoveAt(at % model.Count);
                break;
            case 2:
                list.Change(line, line with { Target = target, Title = word });
                model[at % model.Count] = (target, word);
                break;
            case 3:
                var first = model.FindIndex(one => one.Target == line.Target);
                var moved = model[at % model.Count];
                model.RemoveAt(at % model.Count);
                model.Insert(first, moved);
                list.Prefer(line);
                list.Preferred!.Title.ShouldBe(moved.Title);
                break;
            default:
                list.Wait(at);
                list.WaitSeconds.ShouldBe(at);
                break;
        }
    }
}
