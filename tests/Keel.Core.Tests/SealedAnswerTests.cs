using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>A sealed answer is read back, is not read by accident, and is never guessed from damage.</summary>
public sealed class SealedAnswerTests
{
    [Theory]
    [InlineData("store-missing")]
    [InlineData("mbr-code-wiped", "store-missing")]
    [InlineData("a", "b", "c")]
    public void What_was_sealed_is_read_back_and_does_not_stand_in_the_file(params string[] faults)
    {
        using var scratch = new Scratch();
        SealedAnswer.Write(scratch["drill.img"], faults);
        SealedAnswer.Read(scratch["drill.img"]).ShouldBe(faults);
        var text = File.ReadAllText(SealedAnswer.FileFor(scratch["drill.img"]));
        text.ShouldContain("sealed");
        text.ShouldNotContain("missing");
        text.ShouldNotContain("wiped");
    }

    [Theory]
    [InlineData("")]
    [InlineData("\n")]
    [InlineData("one line that is no answer")]
    [InlineData("heading\n***\n")]
    public void A_damaged_answer_is_said_to_be_one(string contents)
    {
        using var scratch = new Scratch();
        File.WriteAllText(SealedAnswer.FileFor(scratch["drill.img"]), contents);
        Should.Throw<UnreadableException>(() => SealedAnswer.Read(scratch["drill.img"]))
            .What.ShouldBe("The answer can't be opened.");
    }

    [Fact]
    public void A_disk_without_an_answer_says_where_else_to_look()
    {
        using var scratch = new Scratch();
        Should.Throw<UnreadableException>(() => SealedAnswer.Read(scratch["other.img"])).Todo.ShouldContain("drill list");
    }

    [Fact]
    public void Every_fault_has_a_ticket_of_its_own_and_is_found_by_both()
    {
        Faults.All.Select(fault => fault.Ticket).ShouldBeUnique();
        Faults.All.Select(fault => fault.Id).ShouldBeUnique();
        foreach (var fault in Faults.All)
        {
            Faults.Find(fault.Id).ShouldBeSameAs(fault);
            Faults.Find(fault.Ticket).ShouldBeSameAs(fault);
            Faults.Find(fault.Ticket.ToLowerInvariant()).ShouldBeSameAs(fault);
        }

        Should.Throw<WrongUsageException>(() => Faults.Find("no-such-fault"));
    }
}
