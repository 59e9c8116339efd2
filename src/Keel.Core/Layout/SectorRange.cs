namespace Keel.Core.Layout;

/// <summary>A run of sectors, both ends included, as a GPT entry says it.</summary>
internal readonly record struct SectorRange(long First, long Last)
{
    public bool Overlaps(SectorRange other) => First <= other.Last && other.First <= Last;
}
