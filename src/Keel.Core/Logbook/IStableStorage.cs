namespace Keel.Core.Logbook;

/// <summary>
/// The calls by which the logbook reaches stable storage: one seam, so that a power cut can be tried at each of them.
/// </summary>
/// <remarks>Strictly read, a name is only there once its folder was flushed, and contents once their file was.</remarks>
public interface IStableStorage
{
    /// <summary>Creates a folder that only its owner may look into. False where it is there already.</summary>
    bool CreateFolder(string path);

    /// <summary>Creates a file that only its owner may read and write; nothing of its name may be there.</summary>
    IStableFile CreateFile(string path);

    /// <summary>Returns when the names in a folder have reached stable storage.</summary>
    void FlushFolder(string path);

    /// <summary>Gives a file another name in one step; what had that name is gone.</summary>
    void Rename(string from, string to);

    /// <summary>Deletes a file. False where there is none, or it stays.</summary>
    bool GiveUp(string path);

    /// <summary>Deletes a folder with what is in it.</summary>
    void DeleteFolder(string path);
}
