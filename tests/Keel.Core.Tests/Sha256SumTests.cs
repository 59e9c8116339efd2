using System.Security.Cryptography;
using Keel.Core.Blocks;

namespace Keel.Core.Tests;

/// <summary>The sum that seals records is the one that others make.</summary>
public sealed class Sha256SumTests
{
    [Fact]
    public void It_is_what_openssl_makes_of_any_length_in_any_pieces()
    {
        var chance = new Random(17);
        for (var length = 0; length < 300; length++)
        {
            var bytes = new byte[length * (length % 7 == 0 ? 41 : 1)];
            chance.NextBytes(bytes);
            Sha256Sum.Of(bytes).ShouldBe(SHA256.HashData(bytes));
            var sum = new Sha256Sum();
            for (var at = 0; at < bytes.Length;)
            {
                var count = Math.Min(chance.Next(1, 150), bytes.Length - at);
                sum.Add(bytes.AsSpan(at, count));
                at += count;
            }

            sum.Finish().ShouldBe(SHA256.HashData(bytes));
            var key = new byte[32];
            chance.NextBytes(key);
            Sha256Sum.WithKey(key, bytes).ShouldBe(HMACSHA256.HashData(key, bytes));
        }
    }
}
