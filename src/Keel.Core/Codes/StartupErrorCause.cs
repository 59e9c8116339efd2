namespace Keel.Core.Codes;

/// <summary>A usual cause of a startup error.</summary>
/// <param name="Cause">What may be wrong.</param>
/// <param name="Proof">What on the disk proves it.</param>
/// <param name="Remedy">What keel does about it, or what to do instead.</param>
public sealed record StartupErrorCause(string Cause, string Proof, string Remedy);
