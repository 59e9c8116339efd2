using Keel.Core.Machines;
using Keel.Core.Programs;

namespace Keel.Core.Chain;

/// <summary>Which finding of a link each state of a program leads to.</summary>
internal sealed record ProgramKinds(
    FindingKind Missing,
    FindingKind NotProgram,
    FindingKind CutShort,
    FindingKind Altered,
    FindingKind OtherProcessor,
    FindingKind ZeroFilled)
{
    /// <summary>The finding for a program; null where it is sound.</summary>
    public Finding? FindingOf(ProgramState state, FilePlace place) => KindOf(state.Condition)?.At(state.Seen, place);

    private FindingKind? KindOf(ProgramCondition condition) => condition switch
    {
        ProgramCondition.Sound or ProgramCondition.NotCheckable => null,
        ProgramCondition.Missing => Missing,
        ProgramCondition.CutShort => CutShort,
        ProgramCondition.Altered => Altered,
        ProgramCondition.OtherProcessor => OtherProcessor,
        ProgramCondition.ZeroFilled => ZeroFilled,
        _ => NotProgram
    };
}
