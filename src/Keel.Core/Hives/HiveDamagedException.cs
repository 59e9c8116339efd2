using Keel.Core.Errors;

namespace Keel.Core.Hives;

/// <summary>A hive, or the part of it that was asked for, can't be read.</summary>
public sealed class HiveDamagedException(string why)
    : KeelException("The registry hive is damaged.", why, "Let keel mend it, or bring a saved copy.")
{
    /// <inheritdoc/>
    public override int ExitCode => 3;
}
