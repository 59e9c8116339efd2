namespace Keel.Core.BootCode;

/// <summary>What was recognised in boot code.</summary>
/// <param name="Owner">Whose code it is.</param>
/// <param name="Name">Whose it is, in words.</param>
/// <param name="Loader">What it looks for, where that can be told.</param>
public sealed record CodeReading(CodeOwner Owner, string Name, LoaderKind? Loader = null);
