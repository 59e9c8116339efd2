namespace Keel.Core.Search;

/// <summary>How far a search is.</summary>
/// <param name="DoneBytes">What lies behind it.</param>
/// <param name="TotalBytes">What there is.</param>
/// <param name="Found">How many volumes were found so far.</param>
public readonly record struct SearchProgress(long DoneBytes, long TotalBytes, int Found);
