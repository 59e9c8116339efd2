namespace Keel.Core.BootCode.Loading;

/// <summary>How boot code would end.</summary>
public enum LoadOutcome
{
    /// <summary>The loader is read whole, and entered.</summary>
    Loaded,

    /// <summary>There is no such file.</summary>
    NotFound,

    /// <summary>A structure on the way is not what it should be, or larger than boot code has room for.</summary>
    Damaged,

    /// <summary>Its file is compressed, encrypted or sparse.</summary>
    Packed,

    /// <summary>Empty, or larger than the memory below the firmware's data.</summary>
    WrongSize
}
