using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Codes;
using Keel.Core.History;
using Keel.Core.Machines;

namespace Keel.Cli.Views.Json;

/// <summary>Turns a history into its JSON document.</summary>
internal static class HistoryToDocument
{
    public static HistoryDocument Of(Machine machine, WindowsMemory memory) => new(
        machine.StartDisk.Path,
        memory.Volume.Number,
        memory.Folder,
        memory.History.Zone.Name,
        Judgement(memory.History),
        [.. memory.History.Items.Select(item => Item(item, memory.History.Zone))],
        memory.History.EventLog.Path,
        memory.History.EventLog.IsUnreadable,
        memory.History.EventLog.DamagedPlaces,
        memory.History.IsCutOff);

    public static JudgementDocument Judgement(MachineHistory history)
    {
        var judgement = history.Judgement;
        return new JudgementDocument(
            judgement.HasTrouble,
            judgement.LastGoodStart,
            judgement.TroubleSince,
            [.. judgement.Stops.Select(stop => new NotedStopDocument(
                StopCode.Text(stop.Code),
                new CodeNames().OfStop(stop.Code),
                stop.Times,
                stop.First,
                stop.Last))],
            [.. judgement.Changes.Select(change => Item(change, history.Zone))],
            judgement.DiskErrors.Count,
            judgement.LastStartFailed,
            judgement.UpdateHalfDone is not null);
    }

    private static HistoryItemDocument Item(HistoryItem item, MachineTimeZone zone) => new(
        item.Time,
        item.Time is { } time ? zone.Local(time) : null,
        ToDocument.Word(item.Kind),
        Words.Of(item.Says),
        item.Says.Id,
        item.Source,
        item.Provider,
        item.EventId,
        item.Times,
        FactsJson.Of(item.Says.Facts));
}
