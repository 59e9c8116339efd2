using Keel.Core.Chain;
using Keel.Core.Machines;

namespace Keel.Core.Mending;

/// <summary>Mends some kinds of finding, on a machine that always stands on overlays.</summary>
internal interface IRemedy
{
    IReadOnlyList<FindingKind> Mends { get; }

    Attempt Apply(Machine machine, Finding finding, RepairTerms terms);
}
