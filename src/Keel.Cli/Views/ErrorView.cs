using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Errors;

namespace Keel.Cli.Views;

/// <summary>Shows a failure: on standard error for people, and on standard output for programs that asked for JSON.</summary>
/// <param name="hasPrinted">Whether something was printed already: a second document would make no sense.</param>
internal sealed class ErrorView(Output output, bool hasPrinted)
{
    public void Show(KeelException error)
    {
        output.Error(error);
        if (!output.IsJson || hasPrinted) return;
        try
        {
            var details = new ErrorDetails(error.What, Words.Why(error), Words.Todo(error), error.Commands, error.ExitCode);
            KeelJson.Print(new ErrorDocument(details), KeelJson.Default.ErrorDocument);
        }
        catch (Exception e) when (e is OutputFailedException or IOException)
        {
            // Nobody takes the output; standard error and the exit code have said it.
        }
    }
}
