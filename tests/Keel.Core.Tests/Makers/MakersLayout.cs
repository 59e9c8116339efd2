namespace Keel.Core.Tests.Makers;

/// <summary>A machine as a maker, a setup program or its owner laid it out.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Disks">Its disks: how the table is made (dos, gpt, sgdisk), then the partitions.</param>
internal sealed record MakersLayout(string Name, params string[] Disks)
{
    /// <summary>The build of its Windows.</summary>
    public int Build { get; init; } = 19045;

    /// <summary>Whether the firmware's variables are looked at too.</summary>
    public bool HasVariables { get; init; }

    /// <summary>Where the first partition starts, in sectors.</summary>
    public long FirstSector { get; init; } = MakersPart.SectorsInMiB;

    /// <summary>How the store says where Windows is: "partition", "search", or "start", where the start came from.</summary>
    public string Devices { get; init; } = "partition";

    /// <summary>The same disk twice, as after a clone to a larger one.</summary>
    public bool IsCloned { get; init; }

    /// <summary>What is found beside notes; nothing where it is a sound machine that can be looked into.</summary>
    public string[] Expected { get; init; } = [];

    public override string ToString() => Name;
}
