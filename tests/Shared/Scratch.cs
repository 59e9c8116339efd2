namespace Keel.Tests;

/// <summary>A folder of a test's own, gone with it.</summary>
internal sealed class Scratch : IDisposable
{
    public string Folder { get; } = Directory.CreateTempSubdirectory("keel-test-").FullName;

    public string this[string name] => Path.Combine(Folder, name);

    public void Dispose() => Directory.Delete(Folder, recursive: true);
}
