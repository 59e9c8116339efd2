using Processor = System.Reflection.PortableExecutable.Machine;

namespace Keel.Core.Windows.Media;

/// <summary>A Windows in an image of files (WIM, ESD), as the file's own list describes it.</summary>
/// <param name="Number">Its number in the file, from 1.</param>
/// <param name="Name">What it is called, such as "Windows 10 Pro"; empty where it has no name.</param>
public sealed record WimImage(int Number, string Name)
{
    /// <summary>What it runs on; null where that is not said.</summary>
    public Processor? Processor { get; init; }

    /// <summary>Such as "Professional"; null where it is not said, as of a recovery environment.</summary>
    public string? Edition { get; init; }

    /// <summary>The build; null where that is not said.</summary>
    public int? Build { get; init; }

    /// <summary>The build's revision; null where that is not said.</summary>
    public int? Revision { get; init; }

    /// <summary>Such as "en-US"; null where that is not said.</summary>
    public string? Language { get; init; }

    /// <inheritdoc/>
    public override string ToString() => $"image {Number}{(Name.Length > 0 ? $" ({Name})" : "")}";
}
