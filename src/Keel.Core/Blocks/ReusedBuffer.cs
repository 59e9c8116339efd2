namespace Keel.Core.Blocks;

/// <summary>
/// Memory for one piece of a disk at a time, used again for the next: long copies would otherwise mostly wait for fresh memory.
/// </summary>
internal sealed class ReusedBuffer
{
    private byte[] bytes = [];

    /// <summary>
    /// Memory of a length, in bytes; whatever was in it before is still there, and is overwritten by its next user.
    /// </summary>
    public Memory<byte> Take(int length)
    {
        if (bytes.Length < length) bytes = GC.AllocateUninitializedArray<byte>(length);
        return bytes.AsMemory(0, length);
    }
}
