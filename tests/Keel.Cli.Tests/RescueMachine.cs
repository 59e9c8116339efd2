using System.Diagnostics;
using System.Net.Sockets;
using System.Text;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// A machine in QEMU that starts from the rescue medium: keys are typed, its screen and its serial line are read.
/// </summary>
internal sealed class RescueMachine : IAsyncDisposable
{
    private const uint TextMemory = 0xB8000, TextMemoryBytes = 0x8000;
    private static readonly SemaphoreSlim Turn = new(1);

    private readonly Process process;
    private readonly Socket monitor = new(AddressFamily.Unix, SocketType.Stream, ProtocolType.Unspecified);
    private readonly StringBuilder serial = new();
    private readonly string memoryFile;

    private RescueMachine(Process process, string memoryFile)
    {
        this.process = process;
        this.memoryFile = memoryFile;
        _ = Task.Run(Listen);
    }

    /// <summary>The medium, as ./rescue makes it.</summary>
    public static string Image => Path.Combine(KeelProgram.Root(), "dist", "keel-rescue.iso");

    /// <summary>Starts a machine; one at a time, since each of them takes a processor and more.</summary>
    /// <param name="firmware">What QEMU needs for the firmware.</param>
    /// <param name="more">Its disks, and where it starts from.</param>
    public static async Task<RescueMachine> Start(Scratch scratch, string[] firmware, params string[] more)
    {
        await Turn.WaitAsync(TestContext.Current.CancellationToken);
        try
        {
            var socket = scratch["monitor"];
            File.Delete(socket);
            string[] arguments =
            [
                "-accel", "tcg", "-display", "none", "-no-reboot", "-serial", "stdio", "-net", "none",
                "-monitor", $"unix:{socket},server,nowait", .. firmware, .. more
            ];
            var process = Process.Start(new ProcessStartInfo("qemu-system-x86_64", arguments)
            {
                UseShellExecute = false,
                RedirectStandardInput = true,
                RedirectStandardOutput = true,
                RedirectStandardError = true
            })!;
            var machine = new RescueMachine(process, scratch["screen.bin"]);
            await machine.Connect(socket);
            return machine;
        }
        catch
        {
            Turn.Release();
            throw;
        }
    }

    /// <summary>The medium as a USB stick that is started from.</summary>
    public static string[] Stick(string image, bool isReadOnly = true) =>
    [
        "-drive", $"format=raw,file={image},if=none,id=stick,readonly={(isReadOnly ? "on" : "off")}",
        "-device", "qemu-xhci", "-device", "usb-storage,drive=stick,bootindex=0,removable=on"
    ];

    /// <summary>A start over the network: the kernel and the system of the medium, and what the kernel is told.</summary>
    public static string[] Network(string words)
    {
        var parts = Path.Combine(KeelProgram.Root(), "dist", "medium", "iso", "keel");
        return ["-kernel", Path.Combine(parts, "linux"), "-initrd", Path.Combine(parts, "initrd"), "-append", words];
    }

    /// <summary>Waits for words on the screen of 80 columns and 25 lines; firmware other than BIOS has none to read.</summary>
    public Task<string> UntilScreen(string words, double seconds = 120) => Until(Screen, words, seconds);

    /// <summary>Waits for words on the serial line.</summary>
    public Task<string> UntilSerial(string words, double seconds = 120) =>
        Until(() => Task.FromResult(SerialText()), words, seconds);

    /// <summary>Waits until the machine has switched itself off.</summary>
    public async Task UntilOff(double seconds = 60) =>
        await process.WaitForExitAsync(TestContext.Current.CancellationToken).WaitAsync(TimeSpan.FromSeconds(seconds));

    /// <summary>Types on the machine's own keyboard; \n is Enter.</summary>
    public async Task Type(string text)
    {
        foreach (var letter in text)
        {
            await Command($"sendkey {KeyOf(letter)}");
            await Task.Delay(60);
        }
    }

    /// <summary>Types on the serial line.</summary>
    public async Task Send(string text)
    {
        foreach (var letter in text)
        {
            await process.StandardInput.WriteAsync(letter == '\n' ? '\r' : letter);
            await process.StandardInput.FlushAsync();
            await Task.Delay(30);
        }
    }

    /// <summary>Takes a picture of the screen, as PNG.</summary>
    public async Task Picture(string path)
    {
        await Command($"screendump {path} -f png");
        await Task.Delay(500);
    }

    public async ValueTask DisposeAsync()
    {
        if (!process.HasExited) process.Kill();
        await process.WaitForExitAsync();
        process.Dispose();
        monitor.Dispose();
        Turn.Release();
    }

    private async Task Connect(string socket)
    {
        for (var tries = 0; tries < 100 && !File.Exists(socket); tries++) await Task.Delay(50);
        await monitor.ConnectAsync(new UnixDomainSocketEndPoint(socket));
        await Task.Delay(200);
    }

    private async Task Command(string command)
    {
        await monitor.SendAsync(Encoding.ASCII.GetBytes(command + "\n"));
        await Task.Delay(60);
        var answer = new byte[65536];
        while (monitor.Available > 0) await monitor.ReceiveAsync(answer);
    }

    /// <summary>The letters in the memory of the text screen: what is seen, and what was before.</summary>
    private async Task<string> Screen()
    {
        await Command($"pmemsave {TextMemory} {TextMemoryBytes} \"{memoryFile}\"");
        await Task.Delay(100);
        var cells = File.Exists(memoryFile) ? await File.ReadAllBytesAsync(memoryFile) : [];
        var text = new StringBuilder();
        for (var at = 0; at + 1 < cells.Length; at += 2)
        {
            text.Append(cells[at] is >= 32 and < 127 ? (char)cells[at] : ' ');
            if (at / 2 % 80 == 79) text.Append('\n');
        }

        return text.ToString();
    }

    private async Task Listen()
    {
        var buffer = new char[1024];
        while (await process.StandardOutput.ReadAsync(buffer) is > 0 and var count)
        {
            lock (serial) serial.Append(buffer, 0, count);
        }
    }

    private string SerialText()
    {
        lock (serial) return serial.ToString();
    }

    private async Task<string> Until(Func<Task<string>> read, string words, double seconds)
    {
        var clock = Stopwatch.StartNew();
        while (true)
        {
            var text = await read();
            if (text.Contains(words, StringComparison.Ordinal)) return text;
            if (clock.Elapsed.TotalSeconds > seconds || process.HasExited)
            {
                var last = string.Join('\n', text.Split('\n').Where(line => line.Trim().Length > 0).TakeLast(40));
                throw new TimeoutException($"\"{words}\" never came; there is:\n{last}\nand on the serial line:\n{SerialText()}");
            }

            await Task.Delay(300, TestContext.Current.CancellationToken);
        }
    }

    private static string KeyOf(char letter) => letter switch
    {
        '\n' => "ret",
        ' ' => "spc",
        '.' => "dot",
        ',' => "comma",
        '-' => "minus",
        '/' => "slash",
        '=' => "equal",
        '>' => "shift-dot",
        '|' => "shift-backslash",
        >= 'A' and <= 'Z' => $"shift-{char.ToLowerInvariant(letter)}",
        _ => letter.ToString()
    };
}
