namespace Keel.Core.Firmware;

/// <summary>A variable's file before and after; null where there is none.</summary>
public sealed record VariableChange(string Name, byte[]? Before, byte[]? After);
