using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Mending.Remedies;
using Keel.Core.Rescue;

namespace Keel.Core.Requests;

/// <summary>What a technician asks of a partition table. Done in the overlay, like every repair.</summary>
public static class TableRequests
{
    /// <summary>Writes a table as it was read from what stands on the disk.</summary>
    public static Plan Rescue(Machine machine, TableReading reading) => Plan.ForRequest(machine, id =>
        RescueTable.Write(machine.StartDisk, reading, id)
            ?? throw new RefusedException("Nothing was written.", "", "")
            {
                Reason = Remark.Of("left.table-no-room")
            });

    /// <summary>Gives a partition another type.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="number">The number of the volume.</param>
    /// <param name="mbrType">The type in an old table.</param>
    /// <param name="gptType">The type in a GPT.</param>
    public static Plan SetType(Machine machine, int number, byte? mbrType, Guid? gptType)
    {
        var volume = BootCodeRequests.VolumeOrSystem(machine, number);
        var isGpt = machine.StartDisk.Layout.Scheme == PartitionScheme.Gpt;
        if (isGpt ? gptType is null : mbrType is null)
        {
            throw new WrongUsageException(
                $"{machine.StartDisk.Path} has {(isGpt ? "a GPT" : "a table of the old kind")}, which has no such type.",
                isGpt ? "Its types are GUIDs." : "Its types are bytes of two hexadecimal digits.",
                "Name the type by a word: windows, efi, recovery or linux.");
        }

        return Plan.ForRequest(machine, id =>
        {
            var attempt = CorrectPartitionType.Set(machine.StartDisk, volume, mbrType ?? 0, gptType ?? default, id);
            return attempt.Step
                ?? throw new RefusedException($"The type of {volume} was not changed.", "", "") { Reason = attempt.Why };
        });
    }
}
