using Keel.Core.Machines;

namespace Keel.Core.Chain;

/// <summary>Looks at one link of a machine's chain; changes nothing.</summary>
internal interface ILinkCheck
{
    Link Link { get; }

    /// <summary>All that it finds: by this list a kind is known to the whole program.</summary>
    IReadOnlyList<FindingKind> Kinds { get; }

    LinkReport Check(Machine machine);
}
