using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>A finding says in words, and in facts, all that is needed to understand it.</summary>
public sealed class EvidenceTests
{
    public static TheoryData<string, string, string, string> Findings => new()
    {
        // the fault, a part of its sentence, a fact, and its value
        { "driver-missing", "(driver disk)", "driver", "disk" },
        { "driver-altered", "(driver storahci)", "driver", "storahci" },
        { "loader-missing", "winload", "path", @"\Windows\System32\winload.exe" },
        { "kernel-missing", "ntoskrnl.exe", "path", @"\Windows\System32\ntoskrnl.exe" },
        { "control-set-missing", "ControlSet002", "controlSet", "ControlSet002" },
        { "preferred-dangling", "5ea57a1e", "entry", "{5ea57a1e-0000-4000-8000-00000000be11}" },
        { "store-missing", @"\Boot\BCD", "path", @"\Boot\BCD" }
    };

    [Theory]
    [MemberData(nameof(Findings))]
    public async Task A_finding_names_what_it_is_about(string fault, string words, string fact, string value)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, fault);
        var found = (await KeelProgram.Json(1, "diagnose", disk))
            .GetProperty("findings")
            .EnumerateArray()
            .Single(one => one.GetProperty("id").GetString() == fault);
        found.GetProperty("evidence").GetString().ShouldNotBeNull().ShouldContain(words);
        found.GetProperty("facts").GetProperty(fact).GetString().ShouldBe(value);
        (await KeelProgram.Must(1, "diagnose", disk)).Replace("\n", " ", StringComparison.Ordinal).ShouldContain(words);
    }
}
