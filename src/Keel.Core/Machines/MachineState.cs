using Keel.Core.Blocks;

namespace Keel.Core.Machines;

/// <summary>What had changed in a machine's overlays at one moment.</summary>
internal sealed record MachineState(IReadOnlyList<OverlayState> Disks, IReadOnlyDictionary<string, byte[]?>? Variables);
