namespace Keel.Tests;

/// <summary>Every call that reached storage, in order; made to fail at one of them where that is asked for.</summary>
internal sealed class StorageTrace
{
    private readonly List<StorageCall> calls = [];
    private int begun;

    public IReadOnlyList<StorageCall> Calls => calls;

    /// <summary>The call, from 1, that fails; 0 for none.</summary>
    public int FailAt { get; init; }

    public void Next()
    {
        if (++begun == FailAt) throw new IOException($"storage failed at call {begun}, as it was told to");
    }

    public void Add(StorageCall call) => calls.Add(call);
}
