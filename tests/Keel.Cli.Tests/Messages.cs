using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;
using Microsoft.CodeAnalysis.CSharp.Syntax;

namespace Keel.Cli.Tests;

/// <summary>What the program can say: every piece of text in its sources that has words in it.</summary>
internal static class Messages
{
    /// <summary>The pieces of one file, with the gaps that are filled at run time in braces.</summary>
    public static IEnumerable<string> In(string source)
    {
        var root = CSharpSyntaxTree.ParseText(source).GetRoot();
        return root.DescendantNodes(node => node is not (AttributeSyntax or InterpolatedStringExpressionSyntax)).Select(TextOf)
            .Concat(InsideGaps(root))
            .Where(text => text is not null && HasWords(text))
            .Select(text => text!.ReplaceLineEndings(" / "));
    }

    /// <summary>Texts that stand inside the gaps of others: "{(count == 1 ? "one disk" : "two disks")}".</summary>
    private static IEnumerable<string?> InsideGaps(SyntaxNode root) =>
        root.DescendantNodes().OfType<InterpolationSyntax>().SelectMany(gap => gap.DescendantNodes()).Select(TextOf);

    private static string? TextOf(SyntaxNode node) => node switch
    {
        LiteralExpressionSyntax literal when literal.IsKind(SyntaxKind.StringLiteralExpression) => literal.Token.ValueText,
        InterpolatedStringExpressionSyntax text => string.Concat(text.Contents.Select(PartOf)),
        _ => null
    };

    private static string PartOf(InterpolatedStringContentSyntax part) => part is InterpolationSyntax gap
        ? $"{{{ShortOf(gap.Expression)}}}"
        : ((InterpolatedStringTextSyntax)part).TextToken.ValueText;

    /// <summary>The names in a gap, without the calls that fetch them.</summary>
    private static string ShortOf(ExpressionSyntax expression) =>
        expression is IdentifierNameSyntax or MemberAccessExpressionSyntax
        ? expression.ToString()
        : string.Join(' ', expression.DescendantTokens()
            .Where(token => token.IsKind(SyntaxKind.IdentifierToken))
            .Select(token => token.ValueText)
            .Take(3));

    private static bool HasWords(string text) =>
        text.Contains(' ', StringComparison.Ordinal)
        && text.Split(' ').Any(word => word.Length > 1 && word.All(char.IsAsciiLetterLower));
}
