using System.Net.Sockets;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Disks.Nbd;

/// <summary>A disk that another computer, or another program of this one, serves over NBD.</summary>
internal sealed class NbdDisk : IDisk
{
    private const int LargestRequestBytes = 1024 * 1024;
    private readonly NbdConnection connection;
    private readonly IDisposable? server, held;

    private NbdDisk(
        string path,
        NbdConnection connection,
        IDisposable? server,
        IDisposable? held,
        DiskTraits traits,
        int sectorBytes)
    {
        Path = path;
        this.connection = connection;
        this.server = server;
        this.held = held;
        Traits = traits;
        SectorBytes = sectorBytes;
        Form = server is null ? DiskForm.Remote : DiskForm.Served;
    }

    /// <inheritdoc/>
    public string Path { get; }

    /// <inheritdoc/>
    public DiskForm Form { get; }

    /// <inheritdoc/>
    public BlockCounters Counters { get; } = new();

    /// <inheritdoc/>
    public DiskTraits Traits { get; }

    /// <inheritdoc/>
    public long LengthBytes => connection.LengthBytes;

    /// <inheritdoc/>
    public int SectorBytes { get; }

    /// <summary>Opens a disk by its address.</summary>
    /// <exception cref="UnreadableException">It can't be reached.</exception>
    public static NbdDisk Open(string path, int sectorBytes) =>
        new(path, NbdConnection.Open(NbdAddress.Parse(path)), server: null, held: null, DiskTraits.None, sectorBytes);

    /// <summary>Opens what a helper serves, which ends with it.</summary>
    /// <param name="server">The helper.</param>
    /// <param name="held">What is held while it is open; null for nothing.</param>
    /// <param name="traits">What tells its file from others.</param>
    /// <param name="sectorBytes">The size of its sectors.</param>
    public static NbdDisk Over(ImageServer server, IDisposable? held, DiskTraits traits, int sectorBytes)
    {
        try
        {
            return new NbdDisk(server.Image, Connected(server), server, held, traits, sectorBytes);
        }
        catch (UnreadableException e)
        {
            var why = server.WhyEnded();
            server.Dispose();
            throw why ?? e;
        }
    }

    /// <summary>The socket of a helper that has just been started is there a moment before it listens.</summary>
    private static NbdConnection Connected(ImageServer server)
    {
        const int tries = 200, pauseMilliseconds = 10;
        for (var number = 1; ; number++)
        {
            try
            {
                return NbdConnection.Open(server.Address);
            }
            catch (UnreadableException e) when (number < tries
                && e.InnerException is SocketException { SocketErrorCode: SocketError.ConnectionRefused })
            {
                Thread.Sleep(pauseMilliseconds);
            }
        }
    }

    /// <summary>Refuses what can't be written safely.</summary>
    /// <exception cref="RefusedException">It is served for looking only, or can't be flushed.</exception>
    public NbdDisk ForWriting()
    {
        if (!connection.Abilities.HasFlag(NbdAbility.ReadOnly) && connection.Abilities.HasFlag(NbdAbility.CanFlush)) return this;
        var isReadOnly = connection.Abilities.HasFlag(NbdAbility.ReadOnly);
        Dispose();
        throw new RefusedException(
            $"{Path} can't be written, and nothing was.",
            isReadOnly
                ? "It is served for looking only."
                : "Who serves it can't be told to put what is written on stable storage.",
            isReadOnly ? "Serve it for writing too, and run the same command again." : "Serve it by a program that can flush.");
    }

    /// <inheritdoc/>
    public long NextData(long offsetBytes) => offsetBytes;

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        Counters.CountRead(buffer.Length);
        while (buffer.Length > 0)
        {
            var (start, length) = Around(offsetBytes, Math.Min(buffer.Length, LargestRequestBytes));
            var within = (int)(offsetBytes - start);
            var count = Math.Min(buffer.Length, length - within);
            if (within == 0 && count == length)
            {
                Request(NbdCommand.Read, start, length, default, buffer[..count]);
            }
            else
            {
                var whole = new byte[length];
                Request(NbdCommand.Read, start, length, default, whole);
                whole.AsSpan(within, count).CopyTo(buffer);
            }

            buffer = buffer[count..];
            offsetBytes += count;
        }
    }

    /// <inheritdoc/>
    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        this.CheckRange(offsetBytes, data.Length);
        Counters.CountWrite(data.Length);
        while (data.Length > 0)
        {
            var (start, length) = Around(offsetBytes, Math.Min(data.Length, LargestRequestBytes));
            var within = (int)(offsetBytes - start);
            var count = Math.Min(data.Length, length - within);
            if (within == 0 && count == length)
            {
                Request(NbdCommand.Write, start, length, data[..count], default);
            }
            else
            {
                var whole = new byte[length];
                Request(NbdCommand.Read, start, length, default, whole);
                data[..count].CopyTo(whole.AsSpan(within));
                Request(NbdCommand.Write, start, length, whole, default);
            }

            data = data[count..];
            offsetBytes += count;
        }
    }

    /// <inheritdoc/>
    public void Flush()
    {
        Counters.CountFlush();
        Request(NbdCommand.Flush, 0, 0, default, default);
    }

    /// <inheritdoc/>
    public void ForgetCached()
    {
        // What stands between here and there keeps nothing of its own.
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        connection.Dispose();
        server?.Dispose();
        held?.Dispose();
    }

    /// <summary>A range made so large that it begins and ends where the server wants it.</summary>
    private (long Start, int Length) Around(long offsetBytes, int count)
    {
        var block = connection.BlockBytes;
        var start = offsetBytes / block * block;
        var end = Math.Min((offsetBytes + count + block - 1) / block * block, LengthBytes);
        return (start, (int)(end - start));
    }

    private void Request(NbdCommand command, long at, int length, ReadOnlySpan<byte> data, Span<byte> answer)
    {
        const uint inputOutput = 5;
        var error = connection.Ask(command, at, length, data, answer);
        if (error == 0) return;
        var what = command switch { NbdCommand.Read => "read", NbdCommand.Write => "written", _ => "flushed" };
        var why = $"Who serves the disk says: {LinuxNative.Words((int)error)}.";
        const string todo = "The disk may be failing: make an image of it first, and work on the image.";
        if (command == NbdCommand.Read && error == inputOutput)
        {
            throw new ReadFailedException(
                $"{Path} can't be read at byte {at}.",
                why,
                todo,
                [.. Enumerable.Range(0, Math.Max(1, length / SectorBytes)).Select(number => (at / SectorBytes) + number)]);
        }

        throw new UnreadableException($"{Path} can't be {what} at byte {at}.", why, todo);
    }
}
