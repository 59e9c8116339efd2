namespace Keel.Core.Chain.Checks;

/// <summary>A list of class filters that names drivers that can't be started.</summary>
/// <param name="Kind">The finding that it leads to.</param>
/// <param name="Key">Its key in the SYSTEM hive.</param>
/// <param name="Value">Its value there.</param>
/// <param name="Names">All that it names.</param>
/// <param name="Gone">Those that can't be started.</param>
internal sealed record FilterList(
    FindingKind Kind,
    string Key,
    string Value,
    IReadOnlyList<string> Names,
    IReadOnlyList<string> Gone);
