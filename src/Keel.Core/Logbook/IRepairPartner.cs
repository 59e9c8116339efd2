using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Core.Logbook;

/// <summary>Who a repair is agreed with: the technician at a terminal, or a rule that was given beforehand.</summary>
public interface IRepairPartner
{
    /// <summary>Agrees to write to a disk that fails, or of which its machine noted that it does.</summary>
    /// <exception cref="Errors.RefusedException">Nobody does.</exception>
    void AgreeToDisk(Machine machine);

    /// <summary>Gives the plan that was agreed to: the same, or one made anew without what was declined.</summary>
    /// <exception cref="Errors.RefusedException">Nobody agreed, or nothing is left of it.</exception>
    Plan Agree(Plan plan);

    /// <summary>Agrees to one step on the firmware's variables.</summary>
    /// <exception cref="Errors.RefusedException">Nobody does.</exception>
    void Agree(Step step);

    /// <summary>What a step does, as the record will say it for ever.</summary>
    string Words(Step step);

    /// <summary>Stands around the writing itself, which nothing interrupts.</summary>
    RepairRecord? While(Func<RepairRecord?> writing);
}
