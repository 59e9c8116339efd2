using System.Globalization;
using System.Text.Json;

namespace Keel.Core.Disks;

/// <summary>
/// What a disk says of its own health (SMART of ATA disks, the health log of NVMe ones), as smartctl tells it in JSON.
/// </summary>
/// <param name="Condition">What that comes to.</param>
/// <param name="Signs">What speaks against it, in words; none where nothing does.</param>
/// <param name="PowerOnHours">How long it has run; null where it does not say.</param>
/// <param name="Celsius">How warm it is; null where it does not say.</param>
/// <param name="Traits">Its model and serial number, as it tells them itself.</param>
public sealed record DiskHealth(
    HealthCondition Condition,
    IReadOnlyList<string> Signs,
    long? PowerOnHours,
    long? Celsius,
    DiskTraits Traits)
{
    // ATA attributes that count sectors (ACS, and what makers agree on).
    private const int Replaced = 5, ReportedLost = 187, Waiting = 197, Lost = 198, Transfer = 199;
    private const int WarmCelsius = 65;

    /// <summary>Reads what smartctl printed; null where that is no such document.</summary>
    public static DiskHealth? TryRead(string json)
    {
        try
        {
            using var document = JsonDocument.Parse(json);
            var root = document.RootElement;
            return root.ValueKind == JsonValueKind.Object && root.TryGetProperty("smartctl", out _) ? Read(root) : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    private static DiskHealth Read(JsonElement root)
    {
        var passed = At(root, "smart_status", "passed") is { ValueKind: JsonValueKind.True or JsonValueKind.False } said
            ? said.GetBoolean()
            : (bool?)null;
        var traits = new DiskTraits(TextAt(root, "model_name"), TextAt(root, "serial_number"), null);
        var hours = NumberAt(root, "power_on_time", "hours");
        var celsius = NumberAt(root, "temperature", "current");
        var (failing, signs) = OfAta(root);
        var (failingNvme, ofNvme) = OfNvme(root);
        signs.AddRange(ofNvme);
        if (celsius >= WarmCelsius) signs.Add($"it is {celsius} degrees Celsius warm");
        if (passed == false) signs.Insert(0, "it says itself that it is failing");
        var isAsked = passed is not null || hours is not null || signs.Count > 0;
        var condition = !isAsked ? HealthCondition.Unknown
            : passed == false || failing || failingNvme ? HealthCondition.Failing
            : signs.Count > 0 ? HealthCondition.Doubtful
            : HealthCondition.Healthy;
        return new DiskHealth(condition, signs, hours, celsius, traits);
    }

    private static (bool IsFailing, List<string> Signs) OfAta(JsonElement root)
    {
        var signs = new List<string>();
        var isFailing = false;
        if (At(root, "ata_smart_attributes", "table") is not { ValueKind: JsonValueKind.Array } table) return (false, signs);
        foreach (var attribute in table.EnumerateArray())
        {
            if (NumberAt(attribute, "id") is not { } id || NumberAt(attribute, "raw", "value") is not { } raw) continue;
            if (TextAt(attribute, "when_failed") == "now")
            {
                isFailing = true;
                signs.Add($"the value \"{TextAt(attribute, "name")}\" is past its limit");
            }

            if (raw <= 0) continue;
            if (id == Waiting) signs.Add($"{Count(raw, "sector")} could not be read");
            else if (id == Lost) signs.Add($"{Count(raw, "sector")} could not be read nor replaced");
            else if (id == Replaced) signs.Add($"{Count(raw, "sector")} had to be replaced");
            else if (id == ReportedLost) signs.Add($"{Count(raw, "reading")} failed");
            else if (id == Transfer) signs.Add($"{Count(raw, "transfer")} arrived damaged: see the cable first");
        }

        return (isFailing, signs);
    }

    private static (bool IsFailing, List<string> Signs) OfNvme(JsonElement root)
    {
        var signs = new List<string>();
        if (At(root, "nvme_smart_health_information_log") is not { ValueKind: JsonValueKind.Object } log) return (false, signs);
        var warning = NumberAt(log, "critical_warning") ?? 0;
        if (warning != 0) signs.Add($"it gives a critical warning ({warning:x2})");
        if (NumberAt(log, "media_errors") is > 0 and var errors) signs.Add($"{Count(errors, "reading")} failed");
        if (NumberAt(log, "available_spare") is { } spare
            && NumberAt(log, "available_spare_threshold") is { } least
            && spare < least)
        {
            signs.Add($"{spare} % of its spare is left, less than the {least} % that it should have");
        }

        if (NumberAt(log, "percentage_used") is >= 100 and var used) signs.Add($"{used} % of its life is used up");
        return (warning != 0, signs);
    }

    private static string Count(long number, string what) =>
        $"{number.ToString(CultureInfo.InvariantCulture)} {what}{(number == 1 ? "" : "s")}";

    private static JsonElement? At(JsonElement element, params ReadOnlySpan<string> names)
    {
        foreach (var name in names)
        {
            if (element.ValueKind != JsonValueKind.Object || !element.TryGetProperty(name, out element)) return null;
        }

        return element;
    }

    private static long? NumberAt(JsonElement element, params ReadOnlySpan<string> names) =>
        At(element, names) is { ValueKind: JsonValueKind.Number } found && found.TryGetInt64(out var number) ? number : null;

    private static string? TextAt(JsonElement element, params ReadOnlySpan<string> names) =>
        At(element, names) is { ValueKind: JsonValueKind.String } found ? found.GetString() : null;
}
