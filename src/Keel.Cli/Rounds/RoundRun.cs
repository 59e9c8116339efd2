using System.Collections.Concurrent;
using System.Diagnostics;
using System.Runtime.InteropServices;
using Keel.Cli.Views.Json;

namespace Keel.Cli.Rounds;

/// <summary>Goes through the targets of a round, several at a time, and writes each down as it ends.</summary>
/// <param name="ledger">Where the lines go.</param>
/// <param name="terms">How it is done.</param>
/// <param name="told">Told of each that ended: the target, how many are done, and of how many.</param>
internal sealed class RoundRun(RoundLedger ledger, RoundTerms terms, Action<string, int, int> told)
{
    private readonly Lock writing = new();
    private volatile bool isStopped;

    /// <summary>Whether it was stopped before its end.</summary>
    public bool IsStopped => isStopped;

    /// <summary>How many were done already when it began.</summary>
    public int DoneBefore { get; private set; }

    /// <summary>How many were done now.</summary>
    public int DoneNow { get; private set; }

    /// <summary>How long it took.</summary>
    public TimeSpan Took { get; private set; }

    /// <summary>Does what is not done yet. Ctrl-C lets those that are being looked at end, and begins no other.</summary>
    public void Run(IReadOnlyList<string> targets)
    {
        var time = Stopwatch.GetTimestamp();
        var left = new ConcurrentQueue<string>(targets.Where(target => !ledger.Has(target)));
        DoneBefore = targets.Count - left.Count;
        using var interrupts = PosixSignalRegistration.Create(PosixSignal.SIGINT, context =>
        {
            context.Cancel = true;
            isStopped = true;
        });
        var workers = Enumerable.Range(0, Math.Min(terms.Jobs, left.Count))
            .Select(_ => Task.Run(() => Work(left, targets.Count)))
            .ToArray();
        Task.WhenAll(workers).GetAwaiter().GetResult();      // so that an error comes out as it is
        isStopped &= !left.IsEmpty;
        Took = Stopwatch.GetElapsedTime(time);
    }

    private async Task Work(ConcurrentQueue<string> left, int count)
    {
        using var process = new RoundProcess(terms);
        while (!isStopped && left.TryDequeue(out var target)) Note(await process.Look(target), count);
    }

    private void Note(RoundLineDocument entry, int count)
    {
        lock (writing)
        {
            ledger.Add(entry);
            DoneNow++;
            told(entry.Target, DoneBefore + DoneNow, count);
        }
    }
}
