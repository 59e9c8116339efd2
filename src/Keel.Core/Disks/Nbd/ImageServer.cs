using System.Diagnostics;
using Keel.Core.Errors;

namespace Keel.Core.Disks.Nbd;

/// <summary>
/// A helper that serves an image in a format that keel does not read itself, on a socket that only this user reaches, as long as
/// the disk is open.
/// </summary>
internal sealed class ImageServer : IDisposable
{
    private const string Program = "qemu-nbd";

    /// <summary>
    /// Watches over the helper: its standard input ends when keel does, however that ends; then the helper does too, and what was
    /// made for it goes. In a session of its own it is not ended by the Ctrl-C that keel itself waits with until a repair is
    /// written.
    /// </summary>
    private const string Watch = """
        folder=$1; shift
        exec 3<&0 </dev/null
        "$@" 3<&- &
        helper=$!
        { cat <&3 >/dev/null; kill "$helper"; sleep 5; kill -9 "$helper"; } >/dev/null 2>&1 &
        watch=$!
        exec 3<&-
        wait "$helper"
        code=$?
        kill "$watch" 2>/dev/null
        rm -rf "$folder"
        exit "$code"
        """;

    private const string NewSession = "setsid";
    private readonly Process process;
    private readonly Task<string> words;
    private readonly string folder;

    private ImageServer(string image, Process process, string folder, string socket)
    {
        Image = image;
        this.process = process;
        this.folder = folder;
        words = process.StandardError.ReadToEndAsync();
        Address = new NbdAddress(Host: null, Port: 0, socket, Export: "");
    }

    public string Image { get; }

    /// <summary>Where it is served.</summary>
    public NbdAddress Address { get; }

    /// <summary>Begins to serve an image.</summary>
    /// <param name="node">The image, all its files resolved.</param>
    /// <param name="forWriting">Whether it is to be written; it is then held alone.</param>
    /// <exception cref="UnreadableException">The helper is not there, or can't open the image; says why.</exception>
    public static ImageServer Start(ServedNode node, bool forWriting)
    {
        var program = HostPrograms.Find(Program) ?? throw new UnreadableException(
            $"{node.Path} is a disk in {node.Driver} form, which needs a helper that is not here.",
            $"keel opens it through {Program}, and finds none.",
            "Install it (Debian: qemu-utils), or make a plain image of the disk elsewhere and name that.");
        var folder = Directory.CreateTempSubdirectory("keel-").FullName;
        try
        {
            var socket = Path.Combine(folder, "disk");
            string[] served = [program, $"--socket={socket}", .. forWriting ? (string[])[] : ["--read-only"]];
            string[] watched = ["-c", Watch, "keel-watch", folder, .. served, node.Describe(folder, forWriting)];
            var session = HostPrograms.Find(NewSession);
            var start = new ProcessStartInfo(session ?? "/bin/sh", session is null ? watched : ["/bin/sh", .. watched])
            {
                UseShellExecute = false,
                RedirectStandardError = true,
                RedirectStandardOutput = true,
                RedirectStandardInput = true
            };
            var server = new ImageServer(node.Path, Process.Start(start)!, folder, socket);
            try
            {
                server.WaitForSocket(socket);
                return server;
            }
            catch
            {
                server.Dispose();
                throw;
            }
        }
        catch
        {
            Forget(folder);
            throw;
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        const int secondsToEnd = 10;
        try
        {
            // It ends by itself once nobody is connected, and has then written everything; what watches it ends it where it
            // does not.
            if (!process.WaitForExit(TimeSpan.FromSeconds(File.Exists(Address.Socket) ? secondsToEnd : 0)))
                process.StandardInput.Close();
            if (!process.WaitForExit(TimeSpan.FromSeconds(secondsToEnd))) process.Kill(entireProcessTree: true);
            process.WaitForExit();
        }
        catch (Exception e) when (e is InvalidOperationException or IOException)
        {
            // It never began, or is gone.
        }

        process.Dispose();
        Forget(folder);
    }

    private static void Forget(string folder)
    {
        try
        {
            if (Directory.Exists(folder)) Directory.Delete(folder, recursive: true);
        }
        catch (IOException)
        {
            // Who watched the helper takes it away too.
        }
    }

    /// <summary>Why it ended by itself; null where it still runs a moment later.</summary>
    public KeelException? WhyEnded()
    {
        const int secondsToEnd = 2;
        return process.WaitForExit(TimeSpan.FromSeconds(secondsToEnd)) ? CantServe(Said()) : null;
    }

    /// <summary>What it said; a process that it left behind may hold its end open, and is not waited for.</summary>
    private string Said()
    {
        const int secondsToSay = 2, longest = 1000;
        if (!words.Wait(TimeSpan.FromSeconds(secondsToSay))) return "nothing";
        var said = words.Result.Trim();
        return said.Length <= longest ? said : said[..longest];
    }

    private void WaitForSocket(string socket)
    {
        const int tries = 1000, pauseMilliseconds = 10;
        for (var number = 0; number < tries && !process.HasExited; number++)
        {
            if (File.Exists(socket)) return;
            Thread.Sleep(pauseMilliseconds);
        }

        throw CantServe(process.HasExited ? Said() : "nothing, and does not begin");
    }

    private KeelException CantServe(string words)
    {
        if (!words.Contains("lock", StringComparison.OrdinalIgnoreCase))
        {
            return new UnreadableException(
                $"{Image} can't be opened.",
                $"The helper says: {words}",
                "If it is damaged, repair it with the program that made it, or take an older copy.");
        }

        return new RefusedException(
            $"{Image} is in use, and nothing was written.",
            $"The helper says: {words}",
            "Shut down the machine that runs from it, and run the same command again.");
    }
}
