using System.Globalization;
using Keel.Campaigns;

// tests/campaign calls this; the numbers that it prints are those of docs/reliability.md.
long Number(int index, long usual) => args.Length > index ? long.Parse(args[index], CultureInfo.InvariantCulture) : usual;
var work = Directory.CreateTempSubdirectory("keel-campaign-").FullName;
try
{
    switch (args is [var first, ..] ? first : "")
    {
        case "changes":
            var changes = new ChangedDisks(work);
            changes.Prepare();
            return changes.Run(
                Number(1, 0),
                Number(2, 10_000),
                Number(3, 1),
                args.Length > 4 ? args[4] : Path.Combine(work, "seed")) == 0
                ? 0
                : 1;
        case "cuts":
            return new PowerCuts(work).Run(args[1..]) == 0 ? 0 : 1;
        case "drills":
        case "pairs":
            return new RandomDrills(work, args[0] == "pairs").Run(Number(1, 0), Number(2, 1000), Number(3, 1)) == 0 ? 0 : 1;
        case "shapes":
            return new SoundShapes(work).Run(Number(1, 1000)) == 0 ? 0 : 1;
        default:
            Console.WriteLine("campaigns: changes FROM TO STEP PROGRESS-FILE | cuts [FAULT...] | shapes COUNT "
                + "| drills FROM TO STEP | pairs FROM TO STEP");
            return 2;
    }
}
finally
{
    Directory.Delete(work, recursive: true);
}
