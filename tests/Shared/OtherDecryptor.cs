namespace Keel.Tests;

/// <summary>
/// Decrypts an encrypted volume by others' programs: cryptsetup opens its key, Python's library of ciphers does the rest.
/// </summary>
internal static class OtherDecryptor
{
    /// <summary>Places as published; the moved beginning comes back, and what hides the metadata reads as zeros.</summary>
    private const string Script = """
        import re, struct, sys
        from cryptography.hazmat.primitives.ciphers import Cipher, algorithms, modes
        volume, dump, out = sys.argv[1:4]
        text = open(dump).read()
        key = bytes.fromhex(''.join(re.search(r'MK dump:\s*((?:[0-9a-f]{2}\s+)+)', text).group(1).split()))
        data = open(volume, 'rb').read()
        sector = struct.unpack_from('<H', data, 11)[0]
        at = [struct.unpack_from('<Q', data, 0xB0 + 8 * n)[0] for n in range(3)]
        head = data[at[0]:at[0] + 4096]
        moved, = struct.unpack_from('<Q', head, 0x38)
        moved_bytes = struct.unpack_from('<I', head, 0x1C)[0] * sector
        method = struct.unpack_from('<H', head, 64 + 36)[0]
        def ecb(k, b): e = Cipher(algorithms.AES(k), modes.ECB()).encryptor(); return e.update(b) + e.finalize()
        half = len(key) // 2
        zeros = [(a, a + 65536) for a in at] + [(moved, moved + moved_bytes)]
        with open(out, 'wb') as target:
            for place in range(0, len(data), sector):
                if any(a <= place < b for a, b in zeros):
                    target.write(bytes(sector))
                    continue
                where = place + moved if place < moved_bytes else place
                cipher = data[where:where + sector]
                if method in (0x8004, 0x8005):
                    mode = modes.XTS(struct.pack('<QQ', where // sector, 0))
                    turned = Cipher(algorithms.AES(key), mode).decryptor()
                else:
                    mode = modes.CBC(ecb(key, struct.pack('<QQ', where, 0)))
                    turned = Cipher(algorithms.AES(key), mode).decryptor()
                target.write(turned.update(cipher) + turned.finalize())
        """;

    /// <summary>The plain volume in the file "plain"; diffused ones are not turned by it.</summary>
    /// <param name="scratch">Where it works.</param>
    /// <param name="volume">The volume, in a file of its own.</param>
    /// <param name="key">A password, or a recovery key with dashes.</param>
    public static async Task<string> Decrypt(Scratch scratch, string volume, string key)
    {
        await File.WriteAllTextAsync(scratch["other.key"], key);
        await File.WriteAllTextAsync(scratch["other.py"], Script);
        var dump = await Tool.MustAgree(
            "cryptsetup",
            "bitlkDump",
            "--batch-mode",
            "--dump-volume-key",
            "--key-file",
            scratch["other.key"],
            volume);
        await File.WriteAllTextAsync(scratch["other.dump"], dump);
        await Tool.MustAgree("python3", scratch["other.py"], volume, scratch["other.dump"], scratch["plain"]);
        return scratch["plain"];
    }

    /// <summary>The plain volume in the file "plain", as libbde shows it.</summary>
    /// <param name="scratch">Where it works.</param>
    /// <param name="volume">The volume, in a file of its own.</param>
    /// <param name="kind">-p for a password, -r for a recovery key.</param>
    /// <param name="key">The key.</param>
    public static async Task<string> Mounted(Scratch scratch, string volume, string kind, string key)
    {
        var folder = Directory.CreateDirectory(scratch["mounted"]).FullName;
        await Tool.MustAgree("bdemount", kind, key, volume, folder);
        try
        {
            File.Copy(Path.Combine(folder, "bde1"), scratch["plain"], overwrite: true);
        }
        finally
        {
            await Tool.MustAgree("fusermount3", "-u", folder);
        }

        return scratch["plain"];
    }
}
