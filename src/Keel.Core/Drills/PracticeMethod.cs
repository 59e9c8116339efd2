namespace Keel.Core.Drills;

/// <summary>How the Windows volume of a practice disk is encrypted.</summary>
public enum PracticeMethod
{
    /// <summary>AES-XTS with a key of 128 bits: what Windows takes by itself.</summary>
    Xts128,

    /// <summary>AES-XTS with a key of 256 bits.</summary>
    Xts256,

    /// <summary>AES-CBC with a key of 128 bits.</summary>
    Cbc128,

    /// <summary>AES-CBC with a key of 256 bits.</summary>
    Cbc256,

    /// <summary>AES-CBC with a key of 128 bits, under diffusers, as Windows 7 took it.</summary>
    Diffused128,

    /// <summary>AES-CBC with a key of 256 bits, under diffusers.</summary>
    Diffused256
}
