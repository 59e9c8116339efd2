using Keel.Core.Machines;

namespace Keel.Core.Chain;

/// <summary>Looks at one link of a machine's chain; changes nothing.</summary>
internal interface ILinkCheck
{
    Link Link { get; }

    LinkReport Check(Machine machine);
}
