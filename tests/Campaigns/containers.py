"""Hostile files around the built program: containers, logbooks, variables, media, special files. tests/campaign containers calls it.

Every run is one seed: a room with a target, files beside it, and a folder outside that nobody may touch. A defect is an exit code
that keel has not, an error that it was not made for, more than 10 seconds, more than 300 MiB, a file changed that is not of the
target, or a helper or a folder that is left behind.
"""
import hashlib, os, pathlib, random, resource, shutil, signal, socket, subprocess, sys, tempfile, time

MIB = 1 << 20
SECONDS, MOST_MIB = 10, 300
NUMBERS = [0, 1, 0x7F, 0x80, 0xFF, 0x7FFF, 0xFFFF, 0x7FFFFFFF, 0xFFFFFFFF, 0x7FFFFFFFFFFFFFFF, 0xFFFFFFFFFFFFFFFF]
keel, work = os.path.abspath(sys.argv[1]), pathlib.Path(sys.argv[2])
first, last, step = int(sys.argv[3]), int(sys.argv[4]), int(sys.argv[5])


def run(*words, **more):
    subprocess.run([str(word) for word in words], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, **more)


def prepare(base):
    """Small disks in every form, a logbook with a repair, variables, a medium."""
    base.mkdir()
    raw = base / "raw"
    raw.write_bytes(bytes(5 * MIB))
    run("sfdisk", raw, input=b"label: dos\n2048,4096,6,*\n6144,4096,6\n")
    for number, start in ((1, 2048), (2, 6144)):
        run("mkfs.fat", "--offset", start, "-F", 12, raw, 2048)
    for name, form in (("qcow2", []), ("vmdk", []), ("vdi", []), ("vpc", []), ("vhdx", [])):
        run("qemu-img", "convert", "-O", name, *form, raw, base / name)
    for form in ("monolithicFlat", "twoGbMaxExtentSparse", "twoGbMaxExtentFlat", "streamOptimized"):
        run("qemu-img", "convert", "-O", "vmdk", "-o", f"subformat={form}", raw, base / f"{form}.vmdk")
    run("qemu-img", "create", "-f", "qcow2", "-b", "raw", "-F", "raw", base / "over.qcow2", cwd=base)
    run("qemu-img", "create", "-f", "vmdk", "-b", "vmdk", "-F", "vmdk", base / "over.vmdk", cwd=base)
    run("qemu-img", "create", "-f", "qcow2", "-o", "data_file=data.raw,data_file_raw=on", base / "apart.qcow2", "5M", cwd=base)
    disk = base / "mended"
    shutil.copy(raw, disk)
    environment = dict(os.environ, XDG_STATE_HOME=str(base / "state"))
    subprocess.run([keel, "mbr", "activate", disk, "--volume", "2", "--yes", "--logbook", base / "log"], env=environment,
                   stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    medium = base / "medium" / "boot"
    medium.mkdir(parents=True)
    (medium.parent / "bootmgr").write_bytes(os.urandom(5000))
    run("xorriso", "-as", "mkisofs", "-r", "-J", "-o", base / "iso", base / "medium")
    variables = base / "variables"
    variables.mkdir()
    for name in ("Boot0000", "Boot0001", "BootOrder"):
        (variables / f"{name}-8be4df61-93ca-11d2-aa0d-00e098032b8c").write_bytes(bytes([7, 0, 0, 0, 0, 0, 1, 0]) * 20)


def change(chance, path):
    """Changes bytes of a file: at its beginning and its end more than elsewhere; or cuts it."""
    data = bytearray(path.read_bytes())
    if not data or chance.random() < 0.05:
        path.write_bytes(data[:chance.randrange(len(data) + 1)])
        return
    for _ in range(chance.choice((1, 1, 2, 5, 20))):
        place = chance.choice((512, 4096, 65536, 3 * MIB, len(data)))
        at = chance.randrange(min(place, len(data)))
        if chance.random() < 0.2:
            at = max(0, len(data) - 1 - chance.randrange(1024))
        size = chance.choice((1, 2, 4, 8))
        value = chance.choice(NUMBERS + [chance.getrandbits(64)]) & ((1 << 8 * size) - 1)
        data[at:at + size] = value.to_bytes(size, chance.choice(("little", "big")))
    path.write_bytes(data)


def rename(chance, path, outside):
    """Puts another name where an image names a file; texts may grow, other fields keep their length."""
    names = [str(outside / "secret"), "../outside/secret", "link", "folder/secret", "json:{}", "nbd:unix:/run/x", "fat:.", "/dev/zero",
             "pipe", ".", "..", "", "file:link", "beside"]
    data = path.read_bytes()
    known = [b"raw", b"data.raw", b"vmdk", b"over.vmdk", b"-flat.vmdk", b"-s001.vmdk", b"-f001.vmdk"]
    found = [name for name in known if name in data]
    if not found:
        return change(chance, path)
    old, new = chance.choice(found), chance.choice(names).encode()
    if data.startswith(b"# Disk"):
        lines = data.split(b"\n")
        extents = [i for i, line in enumerate(lines) if line.startswith(b"RW")]
        if extents:
            at = chance.choice(extents)
            words = lines[at].split(b'"')
            words[1] = new
            lines[at] = chance.choice((b" ", b"\t", b"")).join([b"", b'"'.join(words)])
        if chance.random() < 0.3:
            lines += [b"parentCID=12345678", b'parentFileNameHint="' + new + b'"']
        data = b"\n".join(lines)
    else:
        data = data.replace(old, new[:len(old)].ljust(len(old), b"\0"), 1)
    path.write_bytes(data)


def special(chance, path, outside):
    """Something at a path that is no file, or one that is reached through a link."""
    if path.exists() or path.is_symlink():
        shutil.rmtree(path) if path.is_dir() and not path.is_symlink() else path.unlink()
    kind = chance.choice(("pipe", "zero", "link", "loop", "folder", "empty", "socket", "null"))
    if kind == "pipe":
        os.mkfifo(path)
    elif kind == "zero":
        path.symlink_to("/dev/zero")
    elif kind == "null":
        path.symlink_to("/dev/null")
    elif kind == "link":
        path.symlink_to(outside / "secret")
    elif kind == "loop":
        path.symlink_to(path)
    elif kind == "folder":
        path.mkdir()
    elif kind == "socket":
        with socket.socket(socket.AF_UNIX) as one:
            one.bind(str(path))
    else:
        path.write_bytes(b"")


def room_for(chance, base, room):
    """Lays a room out; gives the command, and the files that it may change."""
    images, outside = room / "images", room / "outside"
    images.mkdir(parents=True)
    outside.mkdir()
    (outside / "secret").write_bytes(b"the ledger of the night ferry" * 40000)
    (images / "link").symlink_to("../outside/secret")
    (images / "folder").symlink_to("../outside")
    (images / "beside").write_bytes(b"\7" * 4096)
    os.mkfifo(images / "pipe")
    kind = chance.choice(("image",) * 6 + ("logbook",) * 3 + ("variables", "medium", "special", "special"))
    target = images / "target"
    if kind == "image":
        name = chance.choice([path.name for path in base.iterdir() if path.is_file() and path.name not in ("mended", "iso")])
        stem = name.split(".")[0]
        needed = {"over": ("raw", "vmdk"), "apart": ("data.raw",)}.get(stem, ())
        for path in base.iterdir():
            if path.is_file() and (path.name == name or path.name.startswith(stem + "-") or path.name in needed):
                shutil.copy(path, images / path.name)
        target = images / name
        chance.choice((change, lambda c, p: rename(c, p, outside)))(chance, target)
        if chance.random() < 0.1:
            special(chance, images / chance.choice(("raw", "data.raw", "vmdk", "monolithicFlat-flat.vmdk")), outside)
        command = chance.choice((["survey", target], ["diagnose", target], ["mend", target, "--yes"],
                                 ["mbr", "activate", target, "--volume", "2", "--yes"], ["files", "look", target]))
        parts = [images / path.name for path in base.iterdir() if path.name.startswith(stem + "-")]
        return command, [target, *parts, images / "data.raw"], None
    shutil.copy(base / "mended", target)
    if kind == "logbook":
        log = room / "log"
        shutil.copytree(base / "log", log)
        files = [path for path in log.rglob("*") if path.is_file()]
        victim = chance.choice(files)
        if chance.random() < 0.3:
            special(chance, victim, outside)
        elif victim.name == "record.json" and chance.random() < 0.7:
            text = victim.read_text()
            victim.write_text(text.replace(str(base / "mended"), str(chance.choice((outside / "secret", target, images / "link")))))
        else:
            change(chance, victim)
        if chance.random() < 0.5:
            state = next(iter(log.rglob("state")), None)
            if state is not None and state.is_file():
                state.write_bytes(state.read_bytes().replace(b"done", b"writing"))
        command = chance.choice((["undo", target, "--yes"], ["undo", target, "--yes", "--even-from-elsewhere"], ["logbook", target],
                                 ["logbook"], ["logbook", "finish", target, "--yes"], ["diagnose", target],
                                 ["mbr", "activate", target, "--volume", "1", "--yes"]))
        return command, [target], log
    if kind == "variables":
        folder = room / "variables"
        shutil.copytree(base / "variables", folder)
        victim = chance.choice(sorted(folder.iterdir()))
        special(chance, victim, outside) if chance.random() < 0.5 else change(chance, victim)
        command = chance.choice((["firmware", "list", target], ["diagnose", target], ["mend", target, "--yes"],
                                 ["firmware", "order", target, "0001", "--yes"]))
        return [*command, "--variables", folder], [target, *folder.iterdir()], None
    if kind == "medium":
        source = room / "source"
        if chance.random() < 0.5:
            shutil.copy(base / "iso", source)
            change(chance, source)
        else:
            shutil.copytree(base / "medium", source)
            special(chance, source / "bootmgr", outside)
        return ["files", "renew", target, "--from", source, "--yes"], [target], None
    special(chance, room / "special", outside)
    odd = room / "special"
    command = chance.choice((["survey", odd], ["mend", target, "--with", odd, "--yes"], ["round", "--list", odd, "--out", room / "round"],
                             ["store", "list", "--file", odd], ["files", "put", target, odd, "1:\\x", "--yes"], ["stick", "check", odd],
                             ["store", "save", target, odd], ["report", target, "--out", odd], ["round", odd, "--out", room / "round"],
                             ["round", "tally", odd], ["logbook", "--logbook", odd], ["files", "take", target, "1:\\", odd]))
    return command, [target], None


def print_of(room, but):
    """What stands in a room, apart from what may change."""
    but = {os.path.realpath(path) for path in but}
    found = {}
    for folder, _, names in os.walk(room):
        for name in names:
            path = os.path.join(folder, name)
            if os.path.islink(path):
                found[path] = os.readlink(path)
            elif os.path.isfile(path) and os.path.realpath(path) not in but:
                with open(path, "rb") as file:
                    found[path] = hashlib.md5(file.read()).hexdigest()
    return found


def start(words, room, log):
    environment = dict(os.environ, HOME=str(room), XDG_STATE_HOME=str(room / "state"), TMPDIR=str(room / "tmp"))
    (room / "tmp").mkdir()
    words = [keel, *map(str, words), *([] if "--logbook" in words else ["--logbook", str(log or room / "new-log")])]
    with open(room / "said", "wb") as said:
        child = subprocess.Popen(words, cwd=room, env=environment, stdin=subprocess.DEVNULL, stdout=said, stderr=said)
    begun, code = time.time(), None
    while code is None and time.time() - begun < SECONDS:
        done, status, usage = os.wait4(child.pid, os.WNOHANG)
        if done:
            code = os.waitstatus_to_exitcode(status)
            return code, usage.ru_maxrss / 1024, (room / "said").read_bytes()
        time.sleep(0.002)
    os.kill(child.pid, signal.SIGKILL)
    os.wait4(child.pid, 0)
    return None, 0, (room / "said").read_bytes()


def judge(seed, base, room):
    chance = random.Random(seed)
    words, may, log = room_for(chance, base, room)
    before = print_of(room, may)
    code, mebibytes, said = start(words, room, log)
    problems = []
    if code is None:
        problems.append(f"more than {SECONDS} s")
    elif not 0 <= code <= 5:
        problems.append(f"ended with {code}")
    if mebibytes > MOST_MIB:
        problems.append(f"{mebibytes:.0f} MiB")
    if b"not made for" in said:
        problems.append("not made for it")
    after = print_of(room, may)
    problems += [f"changed {path}" for path in before if after.get(path) != before[path] and "/log/" not in path]
    if b"ledger of the night" in said:
        problems.append("told what stands outside")
    for tries in range(100):
        if not any((room / "tmp").iterdir()):
            break
        time.sleep(0.1)
    else:
        problems.append("left a folder behind")
    for problem in problems:
        print(f"seed {seed}: {problem}: keel {' '.join(map(str, words))}", flush=True)
    return len(problems)


def main():
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    base = work / f"base{first}"
    prepare(base)
    defects = runs = 0
    is_ended = []
    signal.signal(signal.SIGTERM, lambda *_: is_ended.append(True))
    for seed in range(first, last, step):
        room = work / f"room{first}"
        defects += judge(seed, base, room)
        shutil.rmtree(room)
        runs += 1
        if is_ended:
            print(f"ended from outside after seed {seed}", flush=True)
            break
    print(f"{runs} runs, {defects} defects", flush=True)
    return 1 if defects else 0


sys.exit(main())
