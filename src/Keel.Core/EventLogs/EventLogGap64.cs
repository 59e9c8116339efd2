using System.Runtime.CompilerServices;

namespace Keel.Core.EventLogs;

/// <summary>64 bytes that a header does not use.</summary>
[InlineArray(64)]
internal struct EventLogGap64
{
    private byte first;
}
