namespace Keel.Core.Drills;

/// <summary>A driver of a practice Windows, as its own setup would list it.</summary>
/// <param name="Name">Its name; its file is named so too.</param>
/// <param name="Start">0 with the loader, 1 with the kernel, 3 when it is asked for.</param>
/// <param name="Group">The group that it starts with.</param>
/// <param name="ErrorControl">How bad its absence is, as it says itself: disks' own say 1, which says nothing.</param>
/// <param name="Imports">The libraries that it names, beside the kernel.</param>
internal sealed record PracticeDriver(string Name, uint Start, string Group, uint ErrorControl, params string[] Imports);
