using System.Reflection;
using Keel.Core.Chain;

namespace Keel.Cli.Tests;

/// <summary>
/// The kinds of finding as they are declared beside their checks: what the tests expect of a fault is read from there.
/// </summary>
internal static class FindingKinds
{
    public static IReadOnlyList<FindingKind> All { get; } =
    [
        .. typeof(FindingKind).Assembly.GetTypes()
            .SelectMany(type => type.GetFields(BindingFlags.Static | BindingFlags.Public | BindingFlags.NonPublic))
            .Where(field => field.FieldType == typeof(FindingKind))
            .Select(field => (FindingKind)field.GetValue(null)!)
    ];

    public static FindingKind Of(string id) => All.First(kind => kind.Id == id);
}
