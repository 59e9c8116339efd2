using System.Runtime.InteropServices;

namespace Keel.Cli.Terminal;

/// <summary>
/// Ctrl-C while something is asked or shown: it ends at once and says that nothing was written. While a repair is being
/// written it waits: a few moments later the disk is whole, the new one or the old one.
/// </summary>
internal sealed class Interrupts : IDisposable
{
    private const int ExitCode = 130;
    private readonly Output output;
    private readonly PosixSignalRegistration registration;

    public Interrupts(Output output)
    {
        this.output = output;
        registration = PosixSignalRegistration.Create(PosixSignal.SIGINT, End);
    }

    public void Dispose() => registration.Dispose();

    private void End(PosixSignalContext context)
    {
        context.Cancel = true;
        if (output.IsWriting) return;
        output.Message("");
        output.Message(output.Written ?? "Nothing was written.");
        Environment.Exit(ExitCode);
    }
}
