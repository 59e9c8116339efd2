using Keel.Core.Keys;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>A startup key, as Windows writes it to a stick: entries behind a head like that of the metadata.</summary>
internal static class StartupKey
{
    private const int HeadBytes = 48, IdBytes = 16, NestedAt = 24, KeyAt = 4, KeyBytes = 32;

    /// <summary>The key of a file; null where it is none.</summary>
    /// <param name="file">Its contents.</param>
    /// <param name="from">Where it came from.</param>
    public static VolumeKey? Read(ReadOnlyMemory<byte> file, string from)
    {
        if (file.Length < HeadBytes || BitConverter.ToInt32(file.Span[8..]) != HeadBytes) return null;
        foreach (var entry in KeyEntry.In(file[HeadBytes..]))
        {
            if (entry.Form != KeyEntry.External || entry.Data.Length < NestedAt) continue;
            foreach (var nested in KeyEntry.In(entry.Data[NestedAt..]))
            {
                if (nested.Form != KeyEntry.PlainKey || nested.Data.Length < KeyAt + KeyBytes) continue;
                var key = new Secret(KeyBytes);
                nested.Data.Span.Slice(KeyAt, KeyBytes).CopyTo(key.Bytes);
                return new VolumeKey(VolumeKeyKind.Startup, key, from)
                {
                    Protector = new Guid(entry.Data.Span[..IdBytes]).ToString("D")
                };
            }
        }

        return null;
    }
}
