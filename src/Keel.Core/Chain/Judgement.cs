using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Chain;

/// <summary>Lets a check look at its link; whatever goes wrong there, the walk goes on.</summary>
internal static class Judgement
{
    private static readonly IReadOnlyDictionary<Link, FindingKind> Unreadable = Enum
        .GetValues<Link>()
        .ToDictionary(link => link, link =>
        new FindingKind(
            "link-unreadable",
            link,
            Severity.Error,
            "What this link needs can't be read from the disk.",
            StartupScreens.UnexpectedIo,
            StartupScreens.DiskRead)
        {
            IsOfAnyLink = true,
            Beyond = "Make an image of the disk before anything else, and work on the image."
        });

    private static readonly IReadOnlyDictionary<Link, FindingKind> NotJudged = Enum
        .GetValues<Link>()
        .ToDictionary(link => link, link =>
        new FindingKind("link-not-judged", link, Severity.Warning, "This link could not be judged.")
        {
            IsOfAnyLink = true,
            Beyond =
                "What it is about is damaged in a way that keel does not see through: look at it with other programs, on an "
                    + "image of the disk."
        });

    /// <summary>What any link can have, once each.</summary>
    public static IReadOnlyList<FindingKind> Kinds => [Unreadable.Values.First(), NotJudged.Values.First()];

    /// <summary>A link that the disk would not let be looked at.</summary>
    public static LinkReport NotRead(Link link, ReadFailedException error) =>
        LinkReport.Wrong(Unreadable[link], error.AsRemark());

    /// <summary>What the check says, or that the link could not be judged, with the reason.</summary>
    public static LinkReport Of(ILinkCheck check, Machine machine)
    {
        try
        {
            return check.Check(machine);
        }
        catch (ReadFailedException e)
        {
            return NotRead(check.Link, e);
        }
        catch (KeelException e)
        {
            return LinkReport.Wrong(NotJudged[check.Link], e.AsRemark());
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return LinkReport.Wrong(NotJudged[check.Link], Fact.What.Is(e.GetType().Name), Fact.Said.Is(e.Message));
        }
    }
}
