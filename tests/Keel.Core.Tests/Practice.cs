using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>A practice disk in a folder of its own, opened; gone with the test.</summary>
internal sealed class Practice : IDisposable
{
    private readonly Scratch scratch = new();

    /// <param name="fault">The fault's id; "none" for a sound machine.</param>
    public Practice(string fault = "none", FirmwareKind firmware = FirmwareKind.Bios)
    {
        Spec = new PracticeSpec { Firmware = firmware };
        PracticeImage.Make(Path, Spec, Faults.Find(fault));
        Machine = Machine.Open(Path);
    }

    public PracticeSpec Spec { get; }

    public Machine Machine { get; private set; }

    public string Path => scratch["machine.img"];

    public string Folder => scratch.Folder;

    public DiskVolume System => Machine.SystemVolume!;

    public DiskVolume Windows => Machine.Installations[0].Volume;

    /// <summary>Changes the volume that Windows is on, in the overlay.</summary>
    public void Edit(Action<IVolume> change) => Windows.Edit(change);

    /// <summary>Changes the disk itself, which planning does not take back, and opens it anew.</summary>
    public void Change(Action<Machine> change)
    {
        Machine.Dispose();
        PracticeDisk.Change(Path, change);
        Machine = Machine.Open(Path);
    }

    /// <summary>Changes files of the volume that Windows is on, on the disk itself.</summary>
    public void ChangeWindows(Action<IVolume> change) => Change(machine => machine.Installations[0].Volume.Edit(change));

    /// <summary>Changes files of the system volume, on the disk itself.</summary>
    public void ChangeSystem(Action<IVolume> change) => Change(machine => machine.SystemVolume!.Edit(change));

    /// <summary>Opens the disk once more, as it is now.</summary>
    public void Reopen()
    {
        Machine.Dispose();
        Machine = Machine.Open(Path);
    }

    public void Dispose()
    {
        Machine.Dispose();
        scratch.Dispose();
    }
}
