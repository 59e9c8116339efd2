namespace Keel.Tests;

/// <summary>
/// Answers a program's questions at a terminal of its own, each when it is asked: what is typed before a question does not count.
/// </summary>
internal static class Answers
{
    private const string Script = """
        import os, pty, re, select, sys, time
        answers, command = sys.argv[1].encode().decode("unicode_escape").splitlines(True), sys.argv[2]
        child, terminal = pty.fork()
        if child == 0:
            os.execvp("sh", ["sh", "-c", command])
        seen, answered, end = b"", 0, time.time() + 60
        while time.time() < end:
            ready, _, _ = select.select([terminal], [], [], 0.2)
            if ready:
                try:
                    piece = os.read(terminal, 65536)
                except OSError:
                    break
                if not piece:
                    break
                seen += piece
                sys.stdout.buffer.write(piece)
                continue
            asked = re.sub(rb"\x1b\[[0-9;?]*[a-zA-Z]", b"", seen[answered:]).rstrip(b" ")
            if asked.endswith((b"?", b":")):
                answered = len(seen)
                os.write(terminal, answers.pop(0).encode() if answers else b"\x04")
        sys.stdout.flush()
        sys.exit(os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]))
        """;

    /// <summary>The exit code, and what stood on the terminal.</summary>
    /// <param name="command">What the shell runs.</param>
    /// <param name="answers">Lines, each ended by \n and given at a question; behind the last one the input ends.</param>
    public static async Task<(int Code, string Output)> Give(string command, params string[] answers)
    {
        var (code, output, error) = await Tool.Run("python3", "-c", Script, string.Concat(answers), command);
        return (code, output + error);
    }
}
