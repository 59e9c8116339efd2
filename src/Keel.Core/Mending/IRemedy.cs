using Keel.Core.Chain;
using Keel.Core.Machines;

namespace Keel.Core.Mending;

/// <summary>Mends some kinds of finding, on a machine that always stands on overlays.</summary>
internal interface IRemedy
{
    IReadOnlyList<FindingKind> Mends { get; }

    /// <summary>
    /// Whether its steps may be taken without anybody reading them, as long as they lose nothing and guess nothing: it puts back
    /// what was there beyond doubt.
    /// </summary>
    bool MayBeUnread => false;

    Attempt Apply(Machine machine, Finding finding, RepairTerms terms);
}
