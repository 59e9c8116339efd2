using System.Buffers.Binary;
using Keel.Core.Hives;

namespace Keel.Core.History;

/// <summary>The time zone that a machine keeps, by its SYSTEM hive.</summary>
/// <param name="Name">Such as "W. Europe Standard Time"; "UTC" where it is not known. Text from the disk.</param>
/// <param name="Zone">Its rules.</param>
public sealed record MachineTimeZone(string Name, TimeZoneInfo Zone)
{
    private const int BiasLimitMinutes = 14 * 60;

    /// <summary>Coordinated universal time, where no zone is known.</summary>
    public static MachineTimeZone Unknown { get; } = new("UTC", TimeZoneInfo.Utc);

    /// <summary>A time as the machine's clock showed it.</summary>
    public DateTimeOffset Local(DateTimeOffset time) => TimeZoneInfo.ConvertTime(time, Zone);

    /// <summary>The moment at which the machine's clock showed a time; null where there is none near.</summary>
    public DateTimeOffset? FromLocal(DateTime local)
    {
        const int firstYear = 1980, lastYear = 9000;
        return local.Year is < firstYear or > lastYear
            ? null
            : new DateTimeOffset(local, Zone.GetUtcOffset(local)).ToUniversalTime();
    }

    /// <summary>Reads it; nonsense counts as no zone.</summary>
    /// <param name="controlSet">The key of the control set in use; null where there is none.</param>
    public static MachineTimeZone Of(HiveKey? controlSet)
    {
        if (controlSet?.Find(@"Control\TimeZoneInformation") is not { } key) return Unknown;
        if (Minutes(key, "Bias") is not { } bias) return Unknown;
        var name = key.Value("TimeZoneKeyName")?.AsText() is { Length: > 0 } known
            ? known
            : key.Value("StandardName")?.AsText() ?? "";
        name = name.Split('\0')[0];
        if (name.Length == 0 || name.StartsWith('@')) name = "the machine's own";
        var standard = Minutes(key, "StandardBias") ?? 0;
        var summer = Minutes(key, "DaylightBias") ?? 0;
        var offset = -(bias + standard);
        if (Math.Abs(offset) > BiasLimitMinutes) return Unknown;
        var rule = RuleOf(key, summer - standard);
        return new MachineTimeZone(
            name,
            TimeZoneInfo.CreateCustomTimeZone(
                "machine",
                TimeSpan.FromMinutes(offset),
                name,
                name,
                name,
                rule is null ? null : [rule]));
    }

    private static int? Minutes(HiveKey key, string name) =>
        key.Value(name)?.AsNumber() is { } number && Math.Abs((long)unchecked((int)number)) <= BiasLimitMinutes
            ? unchecked((int)number)
            : null;

    /// <summary>When summer time begins and ends; null where there is none, or the rule is nonsense.</summary>
    private static TimeZoneInfo.AdjustmentRule? RuleOf(HiveKey key, int summerMinutes)
    {
        if (summerMinutes == 0
            || key.Value("DynamicDaylightTimeDisabled")?.AsNumber() is > 0
            || TransitionOf(key, "DaylightStart") is not { } start
            || TransitionOf(key, "StandardStart") is not { } end
            || start.Equals(end))
        {
            return null;
        }

        return TimeZoneInfo.AdjustmentRule.CreateAdjustmentRule(
            DateTime.MinValue.Date,
            DateTime.MaxValue.Date,
            TimeSpan.FromMinutes(-summerMinutes),
            start,
            end);
    }

    /// <summary>Numbers of 16 bits: year (0: each), month, week of it, hour, minute, second, millisecond, weekday.</summary>
    private static TimeZoneInfo.TransitionTime? TransitionOf(HiveKey key, string name)
    {
        const int needed = 16, parts = 8, lastWeek = 5, months = 12, weekdays = 7;
        if (key.Value(name)?.Data is not { Length: >= needed } data) return null;
        var numbers = Enumerable
            .Range(0, parts)
            .Select(part => (int)BinaryPrimitives.ReadUInt16LittleEndian(data.AsSpan(part * sizeof(ushort))))
            .ToArray();
        var (year, month, week, hour, minute, weekday) =
            (numbers[0], numbers[1], numbers[2], numbers[3], numbers[4], numbers[7]);
        if (year != 0
            || month is < 1 or > months
            || week is < 1 or > lastWeek
            || weekday >= weekdays
            || hour >= 24
            || minute >= 60)
        {
            return null;
        }

        var at = new DateTime(1, 1, 1, hour, minute, 0, DateTimeKind.Unspecified);
        return TimeZoneInfo.TransitionTime.CreateFloatingDateRule(at, month, week, (DayOfWeek)weekday);
    }
}
