using System.Buffers.Binary;
using System.Security.Cryptography;
using System.Text;

namespace Keel.Core.Drills;

/// <summary>The keys of an encrypted practice disk: made from the machine's name, so each disk can be made again.</summary>
/// <param name="machineName">The machine's name.</param>
internal sealed class PracticeKeys(string machineName)
{
    /// <summary>The recovery key's 16 bytes.</summary>
    public byte[] Recovery => Of("recovery")[..16];

    /// <summary>The recovery key as a helpdesk has it: eight groups of six digits.</summary>
    public string RecoveryDigits => string.Join('-', Enumerable.Range(0, 8)
        .Select(group => $"{BinaryPrimitives.ReadUInt16LittleEndian(Recovery.AsSpan(group * sizeof(ushort))) * 11:D6}"));

    /// <summary>The master key, of 32 bytes, and the salt of what seals it.</summary>
    public byte[] Master => Of("master");

    /// <inheritdoc cref="Master"/>
    public byte[] Salt => Of("salt")[..16];

    /// <summary>The key that lies in the clear while protection is suspended.</summary>
    public byte[] Clear => Of("clear");

    /// <summary>The key of the sectors.</summary>
    /// <param name="length">Its length in bytes, 64 at most.</param>
    public byte[] Volume(int length) => [.. ((byte[])[.. Of("volume 1"), .. Of("volume 2")]).Take(length)];

    /// <summary>An identifier of this machine's own.</summary>
    public Guid Id(string what) => new(Of(what).AsSpan(0, 16));

    private byte[] Of(string what) => SHA256.HashData(Encoding.UTF8.GetBytes($"{machineName} {what}"));
}
