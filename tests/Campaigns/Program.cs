using System.Globalization;
using Keel.Campaigns;

// tests/campaign calls this; the numbers that it prints are those of docs/reliability.md.
long Number(int index, long usual) => args.Length > index ? long.Parse(args[index], CultureInfo.InvariantCulture) : usual;
switch (args is [var first, ..] ? first : "")
{
    case "changes":
        var work = Path.Combine(Path.GetTempPath(), $"keel-campaign-{Environment.ProcessId}");
        var changes = new ChangedDisks(work);
        try
        {
            changes.Prepare();
            return changes.Run(Number(1, 0), Number(2, 10_000), Number(3, 1), args.Length > 4 ? args[4] : Path.Combine(work, "seed")) == 0 ? 0 : 1;
        }
        finally
        {
            Directory.Delete(work, recursive: true);
        }

    default:
        Console.WriteLine("campaigns: changes FROM TO STEP PROGRESS-FILE");
        return 2;
}
