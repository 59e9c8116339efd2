using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Mending;

/// <summary>The start type of a driver or service, in the SYSTEM hive as it stands.</summary>
internal static class ServiceSettings
{
    /// <summary>Writes the start type in place, and where another one overrides it, that too. Gives a line for each.</summary>
    public static List<Remark> Set(StartedWindows windows, SystemHive hive, string name, ServiceStart start)
    {
        var key = hive.Root!.Find($@"{hive.ControlSet}\Services\{name}")!;
        var lines = new List<Remark>();
        windows.Volume.Edit(files =>
        {
            foreach (var (owner, value, label) in (ReadOnlySpan<(Hives.HiveKey?, string, string)>)[
                (key, "Start", "Start"),
                (key.Find("StartOverride"), "0", "StartOverride, 0")
            ])
            {
                if (owner?.Value(value)?.AsNumber() is not { } before
                    || before == (uint)start
                    || owner.PlaceOfNumber(value) is not { } place)
                {
                    continue;
                }

                files.Patch(windows.SystemHivePath, place, BitConverter.GetBytes((uint)start));
                lines.Add(Remark.Of(
                    "line.start-becomes",
                    Fact.ControlSet.Is(hive.ControlSet!),
                    Fact.Driver.Is(name),
                    Fact.Setting.Is(label),
                    Fact.NumberBefore.Is(before),
                    Fact.NumberAfter.Is((uint)start)));
            }
        });
        if (lines.Count == 0)
        {
            lines.Add(
                Remark.Of(
                    "line.start-is",
                    Fact.ControlSet.Is(hive.ControlSet!),
                    Fact.Driver.Is(name),
                    Fact.NumberAfter.Is((uint)start)));
        }

        return lines;
    }
}
