namespace Keel.Cli.Terminal;

/// <summary>What the command line's parser says, as one line without the names of types.</summary>
internal static class ParseMessage
{
    private const string TypeRemark = " as expected type", Twice = "expects a single argument but";

    public static string OneLine(string message)
    {
        const string isRequired = " is required.", noValue = "Required argument missing for option: '";
        if (message.EndsWith(isRequired, StringComparison.Ordinal))
            return $"{message[..^isRequired.Length].Replace("Option ", "", StringComparison.Ordinal).Trim('\'')} is needed.";
        if (message.StartsWith(noValue, StringComparison.Ordinal))
            return $"{message[noValue.Length..].TrimEnd('.', '\'')} needs a value.";
        if (message.Contains(Twice, StringComparison.Ordinal) && message.Split('\'') is [_, var option, ..])
            return $"{option} was given more than once.";
        var at = message.IndexOf(TypeRemark, StringComparison.Ordinal);
        if (at >= 0 && message.Split('\'') is [_, var value, _, var name, ..])
            return name.StartsWith('-') ? $"{name} takes a whole number, not \"{value}\"." : $"\"{value}\" is no whole number.";
        return string.Join(' ', message.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
    }
}
