using System.Buffers.Binary;
using System.Diagnostics;
using System.Net.Sockets;
using System.Runtime.CompilerServices;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Disks.Nbd;

/// <summary>Speaks to a server of disks: the newstyle handshake, then one request after the other (the NBD protocol).</summary>
internal sealed class NbdConnection : IDisposable
{
    private const int SecondsToWait = 30, MostOptionBytes = 64 * 1024;

    /// <summary>
    /// All waiting together: so many seconds, one more for each whole answer, and one for so many bytes either way. Who sends a
    /// byte now and then does not hold a command up for ever, and a slow line has its time.
    /// </summary>
    private const int SecondsInAll = 90, SecondsAnAnswer = 1, BytesASecond = 32 * 1024;

    private const uint OptionGo = 7, ReplyAck = 1, ReplyInfo = 3, FirstError = 0x80000000;
    private const uint FixedNewstyle = 1, NoZeros = 2;
    private const ushort InfoExport = 0, InfoBlockSize = 3;
    private readonly NbdAddress address;
    private readonly Socket socket;
    private readonly Stopwatch waiting = new();
    private long moved, answers;
    private TimeSpan answerBy;
    private ulong cookie;
    private string? broken;

    private NbdConnection(NbdAddress address, Socket socket)
    {
        this.address = address;
        this.socket = socket;
    }

    /// <summary>The length of the disk in bytes.</summary>
    public long LengthBytes { get; private set; }

    /// <summary>What the server can do: bits of the protocol's transmission flags.</summary>
    public NbdAbility Abilities { get; private set; }

    /// <summary>Requests begin and end at multiples of this, in bytes.</summary>
    public int BlockBytes { get; private set; } = 1;

    /// <exception cref="UnreadableException">Nobody answers there, or not so.</exception>
    public static NbdConnection Open(NbdAddress address)
    {
        var connection = new NbdConnection(address, Connected(address));
        try
        {
            connection.Greet();
            return connection;
        }
        catch (Exception e)
        {
            connection.Dispose();
            throw e is SocketException ? connection.Failed(e.Message, e) : e;
        }
    }

    /// <summary>Sends one request and waits for its answer.</summary>
    /// <param name="command">What is asked for.</param>
    /// <param name="at">Where it begins, in bytes of the disk.</param>
    /// <param name="length">Its length in bytes.</param>
    /// <param name="data">What is written; empty for other requests.</param>
    /// <param name="answer">Where what is read goes; empty for other requests.</param>
    /// <exception cref="UnreadableException">The connection failed.</exception>
    /// <returns>The error number that the server gives; 0 for none.</returns>
    public uint Ask(NbdCommand command, long at, int length, ReadOnlySpan<byte> data, Span<byte> answer)
    {
        if (broken is not null) throw Failed(broken, null);
        try
        {
            var request = new NbdRequestRecord
            {
                Mark = BigUInt32.Of(NbdRequestRecord.MarkValue),
                FlagsAndCommand = BigUInt32.Of((uint)command),
                Cookie = BigUInt64.Of(++cookie),
                At = BigUInt64.Of((ulong)at),
                Length = BigUInt32.Of((uint)length)
            };
            BeginAnswer();
            Send(request);
            if (data.Length > 0) Send(data);
            var reply = Receive<NbdReplyRecord>();
            if (reply.Mark.Value != NbdReplyRecord.MarkValue || reply.Cookie.Value != cookie)
                throw Failed("its answer is none", null);
            if (reply.Error.Value == 0) Receive(answer);
            answers++;
            return reply.Error.Value;
        }
        catch (SocketException e)
        {
            throw Failed(e.Message, e);
        }
    }

    /// <summary>Says that it was all.</summary>
    public void Dispose()
    {
        try
        {
            if (Abilities != NbdAbility.None)
            {
                Send(new NbdRequestRecord
                {
                    Mark = BigUInt32.Of(NbdRequestRecord.MarkValue),
                    FlagsAndCommand = BigUInt32.Of((uint)NbdCommand.Disconnect)
                });
            }
        }
        catch (Exception e) when (e is SocketException or ObjectDisposedException or UnreadableException)
        {
            // It is gone already.
        }

        socket.Dispose();
    }

    private static Socket Connected(NbdAddress address)
    {
        var socket = address.Socket is null
            ? new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true }
            : new Socket(AddressFamily.Unix, SocketType.Stream, ProtocolType.Unspecified);
        socket.SendTimeout = socket.ReceiveTimeout = SecondsToWait * 1000;
        try
        {
            if (address.Socket is { } path) socket.Connect(new UnixDomainSocketEndPoint(path));
            else ConnectSoon(socket, address);
            return socket;
        }
        catch (Exception e) when (e is SocketException or ArgumentException or OperationCanceledException)
        {
            socket.Dispose();
            throw new UnreadableException(
                $"The disk at {Name(address)} can't be reached.",
                e is OperationCanceledException
                    ? $"Nobody answered in {SecondsToWait} seconds."
                    : $"The system says: {e.Message}",
                "See that the other computer serves it, and that nothing between keeps the two apart.",
                e);
        }
    }

    private static void ConnectSoon(Socket socket, NbdAddress address)
    {
        using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(SecondsToWait));
        socket.ConnectAsync(address.Host!, address.Port, patience.Token).AsTask().GetAwaiter().GetResult();
    }

    private void Greet()
    {
        BeginAnswer();
        const ulong hello = 0x4E42444D41474943;                 // "NBDMAGIC"
        if (Receive<BigUInt64>().Value != hello || Receive<BigUInt64>().Value != NbdOptionRecord.MarkValue)
            throw Failed("it speaks another protocol, or an old form of this one", null);
        Span<byte> flags = stackalloc byte[sizeof(ushort)];
        Receive(flags);
        var offered = BinaryPrimitives.ReadUInt16BigEndian(flags);
        if ((offered & FixedNewstyle) == 0) throw Failed("it speaks an old form of the protocol", null);
        Send(BigUInt32.Of(offered & (FixedNewstyle | NoZeros)));
        Go();
    }

    private void Go()
    {
        var export = Encoding.UTF8.GetBytes(address.Export);
        var wish = new byte[sizeof(uint) + export.Length + (2 * sizeof(ushort))];
        BinaryPrimitives.WriteUInt32BigEndian(wish, (uint)export.Length);
        export.CopyTo(wish, sizeof(uint));
        BinaryPrimitives.WriteUInt16BigEndian(wish.AsSpan(sizeof(uint) + export.Length), 1);
        BinaryPrimitives.WriteUInt16BigEndian(wish.AsSpan(sizeof(uint) + export.Length + sizeof(ushort)), InfoBlockSize);
        Send(new NbdOptionRecord
        {
            Mark = BigUInt64.Of(NbdOptionRecord.MarkValue),
            Option = BigUInt32.Of(OptionGo),
            Length = BigUInt32.Of((uint)wish.Length)
        });
        Send(wish);
        const int mostReplies = 64;
        for (var number = 0; number < mostReplies; number++)
        {
            var reply = Receive<NbdOptionReplyRecord>();
            if (reply.Mark.Value != NbdOptionReplyRecord.MarkValue || reply.Length.Value > MostOptionBytes)
                throw Failed("its answer is none", null);
            var bytes = new byte[reply.Length.Value];
            Receive(bytes);
            if (reply.Kind.Value == ReplyAck) break;
            if (reply.Kind.Value >= FirstError) throw NotServed(bytes);
            if (reply.Kind.Value == ReplyInfo) TakeInfo(bytes);
        }

        if (LengthBytes <= 0) throw Failed("it does not say how long the disk is", null);
    }

    private void TakeInfo(ReadOnlySpan<byte> info)
    {
        const int exportBytes = 12, blockBytes = 14, largestBlock = 64 * 1024;
        if (info.Length < sizeof(ushort)) return;
        var kind = BinaryPrimitives.ReadUInt16BigEndian(info);
        if (kind == InfoExport && info.Length >= exportBytes)
        {
            LengthBytes = (long)Math.Min(BinaryPrimitives.ReadUInt64BigEndian(info[sizeof(ushort)..]), long.MaxValue / 2);
            var flags = BinaryPrimitives.ReadUInt16BigEndian(info[(exportBytes - sizeof(ushort))..]);
            Abilities = (NbdAbility)flags | NbdAbility.Known;
        }

        if (kind != InfoBlockSize || info.Length < blockBytes) return;
        var smallest = BinaryPrimitives.ReadUInt32BigEndian(info[sizeof(ushort)..]);
        if (smallest is 0 or > largestBlock || !uint.IsPow2(smallest)) throw Failed("it wants impossible blocks", null);
        BlockBytes = (int)smallest;
    }

    private void Send<T>(T record)
        where T : unmanaged
    {
        Span<byte> bytes = stackalloc byte[Unsafe.SizeOf<T>()];
        bytes.Put(0, record);
        Send((ReadOnlySpan<byte>)bytes);
    }

    private void Send(ReadOnlySpan<byte> bytes)
    {
        moved += bytes.Length;
        while (bytes.Length > 0) bytes = bytes[socket.Send(bytes)..];
    }

    private T Receive<T>()
        where T : unmanaged
    {
        Span<byte> bytes = stackalloc byte[Unsafe.SizeOf<T>()];
        Receive(bytes);
        return ((ReadOnlySpan<byte>)bytes).At<T>(0);
    }

    private void Receive(Span<byte> bytes)
    {
        while (bytes.Length > 0)
        {
            waiting.Start();
            var got = socket.Receive(bytes);
            waiting.Stop();
            if (got == 0) throw Failed("it closed the connection", null);
            bytes = bytes[got..];
            moved += got;
            if (bytes.Length > 0 && waiting.Elapsed > answerBy)
                throw Failed($"an answer took longer than {SecondsToWait} seconds", null);
            if (waiting.Elapsed.TotalSeconds > SecondsInAll + (answers * SecondsAnAnswer) + (moved / BytesASecond))
                throw Failed("it answers too slowly to be worked with", null);
        }
    }

    /// <summary>An answer must be whole in its time, however small the pieces that it comes in.</summary>
    private void BeginAnswer() => answerBy = waiting.Elapsed + TimeSpan.FromSeconds(SecondsToWait);

    private static string Name(NbdAddress address) =>
        address.Socket ?? (address.Port == 0 ? address.Host! : $"{address.Host}:{address.Port}");

    private UnreadableException NotServed(byte[] words) => new(
        $"{Name(address)} serves no disk \"{address.Export}\".",
        words.Length > 0 ? $"It says: {Encoding.UTF8.GetString(words)}" : "It gives no reason.",
        "See under what name it serves the disk.");

    /// <summary>
    /// The error of a connection that is of no more use: what comes next would not be the answer to what is asked.
    /// </summary>
    private UnreadableException Failed(string why, Exception? inner)
    {
        broken ??= why;
        return new UnreadableException(
            $"The disk at {Name(address)} can't be used.",
            $"As far as keel can tell, {why}.",
            "See that the other side serves it over NBD and still runs, and run the same command again.",
            inner);
    }
}
