namespace Keel.Core.Hives;

/// <summary>The security descriptor given to keys that have none: administrators and the system may do everything.</summary>
internal static class UsualSecurity
{
    /// <summary>
    /// Self-relative: owner and group Administrators (S-1-5-32-544), a list with Administrators and SYSTEM (S-1-5-18), full
    /// control, inherited.
    /// </summary>
    public static readonly byte[] Descriptor = Convert.FromHexString(
        // revision, self-relative, owner, group, no SACL, DACL
        "01000480" + "48000000" + "58000000" + "00000000" + "14000000"
        // list: revision 2, 52 bytes, 2 entries
        + "0200" + "3400" + "02000000"
        + "00021800" + "3F000F00" + "01020000000000052000000020020000"                             // Administrators
        + "00021400" + "3F000F00" + "010100000000000512000000"                                     // SYSTEM
        + "01020000000000052000000020020000"                                                       // owner
        + "01020000000000052000000020020000");                                                     // group
}
