namespace Keel.Core.Logbook;

/// <summary>A file of the logbook while it is written.</summary>
public interface IStableFile : IDisposable
{
    /// <summary>Adds to its end.</summary>
    void Append(ReadOnlySpan<byte> bytes);

    /// <summary>Returns when everything written so far has reached stable storage.</summary>
    /// <exception cref="IOException">It has not.</exception>
    void Flush();
}
