namespace Keel.Core.EventLogs;

/// <summary>One value of an event.</summary>
/// <param name="Name">Its name; empty for values that are known by their place.</param>
/// <param name="Text">What it says. Text from the disk.</param>
public sealed record EventValue(string Name, string Text);
