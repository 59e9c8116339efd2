using Keel.Core.Logbook;

namespace Keel.Tests;

/// <summary>Storage of a logbook that writes down every call, and passes it on.</summary>
internal sealed class RecordingStorage(StorageTrace trace) : IStableStorage
{
    private readonly LinuxStorage real = new();

    public bool CreateFolder(string path)
    {
        trace.Next();
        if (!real.CreateFolder(path)) return false;
        trace.Add(new StorageCall(StorageCallKind.CreateFolder, path));
        return true;
    }

    public IStableFile CreateFile(string path)
    {
        trace.Next();
        trace.Add(new StorageCall(StorageCallKind.CreateFile, path));
        return new RecordingFile(real.CreateFile(path), path, trace);
    }

    public void FlushFolder(string path)
    {
        trace.Next();
        real.FlushFolder(path);
        trace.Add(new StorageCall(StorageCallKind.FlushFolder, path));
    }

    public void Rename(string from, string to)
    {
        trace.Next();
        real.Rename(from, to);
        trace.Add(new StorageCall(StorageCallKind.Rename, from) { Target = to });
    }

    public bool GiveUp(string path) => real.GiveUp(path);

    public void DeleteFolder(string path)
    {
        real.DeleteFolder(path);
        trace.Add(new StorageCall(StorageCallKind.DeleteFolder, path));
    }

    private sealed class RecordingFile(IStableFile file, string path, StorageTrace trace) : IStableFile
    {
        public void Append(ReadOnlySpan<byte> bytes)
        {
            trace.Next();
            file.Append(bytes);
            trace.Add(new StorageCall(StorageCallKind.Append, path) { Bytes = bytes.ToArray() });
        }

        public void Flush()
        {
            trace.Next();
            file.Flush();
            trace.Add(new StorageCall(StorageCallKind.FlushFile, path));
        }

        public void Dispose() => file.Dispose();
    }
}
