using System.CommandLine;
using System.Security.Cryptography;
using Keel.Cli.Terminal;
using Keel.Core.Errors;
using Keel.Core.Keys;
using Keel.Core.Volumes.BitLocker;

namespace Keel.Cli.Commands;

/// <summary>The keys of encrypted volumes: from files, or typed; never words of the command line, which others see.</summary>
internal sealed class UnlockOptions
{
    /// <summary>Names the list of keys for every command that is given none; the rescue medium sets it.</summary>
    public const string ListVariable = "KEEL_KEYS";

    private const string Terminal = "-";

    private readonly Option<string[]> files = new("--unlock")
    {
        Description = "a file with a recovery key, password or startup key; - asks (repeatable)",
        HelpName = "FILE",
        DefaultValueFactory = _ => []
    };

    private readonly Option<string?> list = List();

    public void AddTo(Command command)
    {
        command.Options.Add(files);
        command.Options.Add(list);
    }

    /// <summary>A file with the keys of many machines.</summary>
    public static Option<string?> List() => new("--keys")
    {
        Description = "a file of recovery keys: identifier and key in each line",
        HelpName = "FILE"
    };

    /// <summary>Puts what was given on the ring.</summary>
    /// <exception cref="WrongUsageException">A file holds no key, or isn't there.</exception>
    public void Fill(KeyRing ring, ParseResult parsed, Output output)
    {
        foreach (var word in parsed.GetValue(files)!)
        {
            if (word == Terminal) ring.Add(Asked(output));
            else FillFrom(ring, word);
        }

        Fill(ring, parsed.GetValue(list), output);
        output.Commands.Keys = string.Concat(parsed.GetValue(files)!.Select(word => $" --unlock {CommandWords.Quoted(word)}"))
            + (parsed.GetValue(list) is { } path ? $" --keys {CommandWords.Quoted(path)}" : "");
    }

    /// <summary>Puts what a file holds on the ring.</summary>
    public static void FillFrom(KeyRing ring, string path) =>
        Read(path, KeyFile.MostBytes, contents => KeyFile.Read(contents, path)).ForEach(ring.Add);

    /// <summary>Puts the keys of a list on the ring, or of the one that the environment names.</summary>
    public static void Fill(KeyRing ring, string? path, Output output)
    {
        if (path is not null) FillFromList(ring, path);
        else FillFromUsualList(ring, output);
    }

    /// <summary>
    /// Puts the keys of the environment's list on the ring. Nobody named it for this command, so a list that makes no sense is
    /// told, and the command goes on without it.
    /// </summary>
    public static void FillFromUsualList(KeyRing ring, Output output)
    {
        if (Environment.GetEnvironmentVariable(ListVariable) is not { Length: > 0 } path) return;
        try
        {
            FillFromList(ring, path);
        }
        catch (WrongUsageException wrong)
        {
            output.Message($"{wrong.Message} {ListVariable} names it; this goes on without it.");
            Environment.SetEnvironmentVariable(ListVariable, null);         // processes of this one need not say it again
        }
    }

    private static void FillFromList(KeyRing ring, string path) =>
        Read(path, KeyFile.MostListBytes, contents => KeyFile.ReadList(contents, path)).ForEach(ring.Add);

    private delegate IReadOnlyList<VolumeKey> Reader(Span<byte> contents);

    private static List<VolumeKey> Read(string path, int mostBytes, Reader reader)
    {
        if (RecoveryDigits.LooksLikeOne(path))
        {
            throw new WrongUsageException(
                "A key is not taken from the command line.",
                "Whoever is on this computer can read there, and the shell keeps what is typed.",
                "Put it in a file and name that, or let keel ask for it: --unlock -");
        }

        byte[] contents;
        try
        {
            using var file = File.OpenRead(path);
            if (file.Length > mostBytes) throw TooLong(path, mostBytes);
            contents = new byte[mostBytes];
            var count = file.ReadAtLeast(contents, contents.Length, throwOnEndOfStream: false);
            var rest = contents.AsSpan(count);
            contents = contents[..count];
            rest.Clear();
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or NotSupportedException or ArgumentException)
        {
            throw new WrongUsageException(
                $"There is no key in {path}.",
                e is FileNotFoundException or DirectoryNotFoundException
                    ? "There is no such file."
                    : Directory.Exists(path) ? "It is a folder."
                    : $"It can't be read: {e.Message.ReplaceLineEndings(" ")}",
                "Name a file with the recovery key (48 digits), the password, or a startup key (.BEK); or - to be asked.");
        }

        try
        {
            return [.. reader(contents)];
        }
        finally
        {
            CryptographicOperations.ZeroMemory(contents);
        }
    }

    private static WrongUsageException TooLong(string path, int mostBytes) => new(
        $"There is no key in {path}.",
        $"It has more than {mostBytes / 1024} KiB.",
        "Name a file with the recovery key (48 digits), the password, or a startup key (.BEK).");

    private static VolumeKey Asked(Output output)
    {
        if (!Output.CanAsk)
        {
            throw new WrongUsageException(
                "Nobody is there to be asked for a key.",
                "Standard input is no terminal.",
                "Name a file with the key instead: --unlock FILE");
        }

        return KeyQuestion.Ask(output) ?? throw new WrongUsageException(
            "No key was given.",
            "The answer was empty.",
            "Without one the rest of the machine can still be diagnosed: leave out --unlock.");
    }
}
