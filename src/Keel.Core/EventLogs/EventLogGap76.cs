using System.Runtime.CompilerServices;

namespace Keel.Core.EventLogs;

/// <summary>76 bytes that a header does not use.</summary>
[InlineArray(76)]
internal struct EventLogGap76
{
    private byte first;
}
