using System.Diagnostics;
using Keel.Core.Errors;

namespace Keel.Core.Blocks.Nbd;

/// <summary>
/// A helper that serves an image in a format that keel does not read itself, on a socket that only this user reaches, as long as
/// the disk is open.
/// </summary>
internal sealed class ImageServer : IDisposable
{
    private const string Program = "qemu-nbd";

    /// <summary>
    /// In a session of its own it is not ended by the Ctrl-C that keel itself waits with until a repair is written.
    /// </summary>
    private const string NewSession = "/usr/bin/setsid";
    private readonly Process process;
    private readonly string folder;

    private ImageServer(string image, Process process, string folder, string socket)
    {
        Image = image;
        this.process = process;
        this.folder = folder;
        Address = new NbdAddress(Host: null, Port: 0, socket, Export: "");
    }

    /// <summary>The image.</summary>
    public string Image { get; }

    /// <summary>Where it is served.</summary>
    public NbdAddress Address { get; }

    /// <summary>Begins to serve an image.</summary>
    /// <param name="image">Its full path.</param>
    /// <param name="format">Its format.</param>
    /// <param name="forWriting">Whether it is to be written; it is then held alone.</param>
    /// <exception cref="UnreadableException">The helper is not there, or can't open the image; says why.</exception>
    public static ImageServer Start(string image, FileFormat format, bool forWriting)
    {
        var program = Find() ?? throw new UnreadableException(
            $"{image} is a disk in {FileFormats.Name(format)} form, which needs a helper that is not here.",
            $"keel opens it through {Program}, and finds none.",
            "Install it (Debian: qemu-utils), or make a plain image of the disk elsewhere and name that.");
        var folder = Directory.CreateTempSubdirectory("keel-").FullName;
        var socket = Path.Combine(folder, "disk");
        var hasSession = File.Exists(NewSession);
        var start = new ProcessStartInfo(hasSession ? NewSession : program)
        {
            UseShellExecute = false,
            RedirectStandardError = true,
            RedirectStandardOutput = true,
            RedirectStandardInput = true
        };
        if (hasSession) start.ArgumentList.Add(program);
        start.ArgumentList.Add($"--socket={socket}");
        if (!forWriting) start.ArgumentList.Add("--read-only");
        start.ArgumentList.Add("--image-opts");
        start.ArgumentList.Add(Options(image, format, forWriting));
        var server = new ImageServer(image, Process.Start(start)!, folder, socket);
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

    /// <inheritdoc/>
    public void Dispose()
    {
        const int secondsToEnd = 10;
        try
        {
            // It ends by itself once nobody is connected, and has then written everything.
            if (!process.WaitForExit(TimeSpan.FromSeconds(File.Exists(Address.Socket) ? secondsToEnd : 0))) process.Kill();
            process.WaitForExit();
        }
        catch (InvalidOperationException)
        {
            // It never began.
        }

        process.Dispose();
        try
        {
            Directory.Delete(folder, recursive: true);
        }
        catch (IOException)
        {
            // An empty folder for temporary files is left.
        }
    }

    /// <summary>
    /// The image and its format in the words of the helper. Who only looks takes no locks, so that the same image can be opened
    /// for writing beside it.
    /// </summary>
    private static string Options(string image, FileFormat format, bool forWriting)
    {
        var name = image.Replace(",", ",,", StringComparison.Ordinal);
        var more = forWriting ? "" : ",read-only=on,force-share=on";
        return $"driver={FileFormats.Name(format).ToLowerInvariant()},file.driver=file,file.filename={name}{more}";
    }

    private static string? Find() =>
        (Environment.GetEnvironmentVariable("PATH") ?? "").Split(':')
            .Concat(["/usr/bin", "/usr/local/bin", "/usr/sbin"])
            .Where(folder => folder.Length > 0)
            .Select(folder => Path.Combine(folder, Program))
            .FirstOrDefault(File.Exists);

    /// <summary>Why it ended by itself; null where it still runs a moment later.</summary>
    public KeelException? WhyEnded()
    {
        const int secondsToEnd = 2;
        if (!process.WaitForExit(TimeSpan.FromSeconds(secondsToEnd))) return null;
        return CantServe(process.StandardError.ReadToEnd().Trim());
    }

    private void WaitForSocket(string socket)
    {
        const int tries = 1000, pauseMilliseconds = 10;
        for (var number = 0; number < tries && !process.HasExited; number++)
        {
            if (File.Exists(socket)) return;
            Thread.Sleep(pauseMilliseconds);
        }

        throw CantServe(process.HasExited ? process.StandardError.ReadToEnd().Trim() : "nothing, and does not begin");
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
