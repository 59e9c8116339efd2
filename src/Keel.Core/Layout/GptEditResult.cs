namespace Keel.Core.Layout;

/// <summary>What an edit of a GUID partition table came to.</summary>
public enum GptEditResult
{
    /// <summary>Both copies are written.</summary>
    Done,

    /// <summary>Neither copy is sound, or there is no such partition; nothing is written.</summary>
    NoSoundCopy,

    /// <summary>
    /// Two sound copies name different partitions, and neither can be told to be the right one; nothing is written.
    /// </summary>
    CopiesDiffer,

    /// <summary>A copy would have to stand where a partition is; nothing is written.</summary>
    NoRoom
}
