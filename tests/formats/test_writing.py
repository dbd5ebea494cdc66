"""Saving: whole or not at all, no litter, and the file stays what it was to everybody else."""

import errno
import json
import os
import signal
import stat
import subprocess
import sys
import time

import pytest

from anakinema.document import Set, changed
from anakinema.errors import DocumentError
from anakinema.formats import project, writing
from anakinema.formats.writing import PREFIX, write_whole


def test_mode_links_and_owner_stay(tmp_path):
    path, other, pointer = tmp_path / "a.anakinema", tmp_path / "same", tmp_path / "pointer"
    path.write_bytes(b"old, and longer than the new")
    path.chmod(0o640)
    pointer.symlink_to(path)
    write_whole(pointer, b"new")
    assert pointer.is_symlink() and path.read_bytes() == b"new" and stat.S_IMODE(path.stat().st_mode) == 0o640
    os.link(path, other)
    inode = path.stat().st_ino
    write_whole(path, b"newer")
    assert other.read_bytes() == b"newer" and path.stat().st_ino == inode == other.stat().st_ino
    if os.geteuid() == 0:
        other.unlink()
        os.chown(path, 1234, 2345)
        write_whole(path, b"newest")
        assert (path.stat().st_uid, path.stat().st_gid) == (1234, 2345)
    assert sorted(entry.name for entry in tmp_path.iterdir() if entry != other) == ["a.anakinema", "pointer"]


def test_a_file_marked_read_only_is_not_replaced(tmp_path):
    path = tmp_path / "kept"
    path.write_bytes(b"kept")
    path.chmod(0o444)
    with pytest.raises(OSError, match="read-only; save under another name"):
        write_whole(path, b"lost")
    assert path.read_bytes() == b"kept" and list(tmp_path.iterdir()) == [path]


@pytest.mark.parametrize("name", ["n" * 250, "é" * 120, "with spaces and ' quotes", "-dash"])
def test_names_of_any_length_and_kind(tmp_path, name):
    write_whole(tmp_path / name, b"1")
    write_whole(tmp_path / name, b"2")
    assert [entry.read_bytes() for entry in tmp_path.iterdir()] == [b"2"]


def test_a_folder_a_pipe_and_an_impossible_name_are_told(tmp_path):
    os.mkfifo(tmp_path / "pipe")
    for path in (tmp_path / "pipe", tmp_path, tmp_path / ("n" * 300), tmp_path / "no" / "where"):
        with pytest.raises(OSError, match=r".+"):
            write_whole(path, b"x")
    assert [entry.name for entry in tmp_path.iterdir()] == ["pipe"]


def test_killed_saves_leave_the_old_file_or_the_new_one_and_no_litter(tmp_path, monkeypatch):
    path = tmp_path / "killed"
    path.write_bytes(b"0" * 3_000_000)
    code = (
        "import sys; from pathlib import Path; from anakinema.formats.writing import write_whole\n"
        "print('go', flush=True)\n"
        "for k in range(10**6): write_whole(Path(sys.argv[1]), bytes([48 + k % 10]) * 3_000_000)"
    )
    for k in range(4):
        child = subprocess.Popen([sys.executable, "-c", code, str(path)], stdout=subprocess.PIPE)
        child.stdout.readline()
        time.sleep(0.05 + 0.03 * k)
        child.send_signal(signal.SIGKILL)
        child.wait()
        data = path.read_bytes()
        assert len(data) == 3_000_000 and len(set(data)) == 1
    monkeypatch.setattr(writing, "OLD", 0.0)
    write_whole(path, b"done")  # and sweeps what file systems without nameless files may have kept
    assert not list(tmp_path.glob(f"{PREFIX}*"))


def test_another_running_program_keeps_its_own(tmp_path):
    mine = tmp_path / f"{PREFIX}{os.getpid()}-abc.part"
    mine.write_bytes(b"half")
    write_whole(tmp_path / "x", b"1")
    assert mine.exists()


def test_what_utf_8_can_not_hold_is_saved_all_the_same(tmp_path):
    data = b'{"anakinema": 1, "title": "half \\ud800 of a pair", "parts": {}}'
    document, source = project.loads(data)
    path = tmp_path / "half.anakinema"
    project.save(path, changed(document, Set(["note"], "x\udfff")), source)
    again, _ = project.load(path)
    assert again.tree["title"] == "half \ud800 of a pair" and again.tree["note"] == "x\udfff"


def test_numbers_beyond_all_bounds_are_refused_where_they_are_read():
    for word in (b"1e400", b"-1e999"):
        with pytest.raises(DocumentError, match="which is too large"):
            project.loads(b'{"anakinema": 1, "unknown": ' + word + b"}")
    document, _ = project.loads(b'{"anakinema": 1, "unknown": 1e300}')
    assert json.loads(project.dumps(document))["unknown"] == 1e300


def test_a_change_by_another_program_is_seen(tmp_path):
    path = tmp_path / "shared.anakinema"
    source = project.save(path, *project.demo())
    assert not project.changed_outside(path, source)
    path.write_bytes(path.read_bytes() + b"\n")
    assert project.changed_outside(path, source)
    assert not project.gone(path, source)
    path.unlink()
    assert not project.changed_outside(path, source)
    assert project.gone(path, source) and not project.gone(path, None)


def test_what_lies_half_written_is_swept_when_it_is_old_and_nobody_s(tmp_path):
    """A process number says nothing of another machine or container: what is new there is left alone."""
    new, old = (tmp_path / f"{PREFIX}{2**30 + k}-abc.part" for k in range(2))
    for path in (new, old):
        path.write_bytes(b"half")
    os.utime(old, (1e9, 1e9))
    write_whole(tmp_path / "x", b"1")
    assert new.exists() and not old.exists()


def test_a_save_killed_while_it_writes_over_a_file_leaves_all_of_it_beside_and_says_so(tmp_path, monkeypatch):
    path, taken = tmp_path / "one.anakinema", tmp_path / "one-whole.anakinema"
    path.write_bytes(b"{}")
    (tmp_path / "two").hardlink_to(path)
    taken.write_bytes(b"somebody's own")
    code = (
        "import os, signal, sys; from pathlib import Path; from anakinema.formats.writing import write_whole\n"
        "real = os.fsync\n"
        "killing = lambda handle: os.kill(os.getpid(), 9) if os.fstat(handle).st_nlink > 1 else real(handle)\n"
        "os.fsync = killing\n"
        "write_whole(Path(sys.argv[1]), b'{' + b' ' * 5000)"
    )
    assert subprocess.run([sys.executable, "-c", code, str(path)], check=False).returncode == -signal.SIGKILL
    monkeypatch.setattr(writing, "OLD", 0.0)
    write_whole(tmp_path / "another", b"1")  # sweeps
    assert (tmp_path / "one-whole2.anakinema").read_bytes() == b"{" + b" " * 5000
    assert taken.read_bytes() == b"somebody's own"
    with pytest.raises(DocumentError, match=r"'one-whole2\.anakinema' beside it was kept whole"):
        project.load(path)


@pytest.mark.parametrize("full", ["before", "meanwhile"])
def test_a_disk_that_is_full_takes_nothing_of_a_file_with_other_names(tmp_path, monkeypatch, full):
    """Room is reserved before the old content goes; if writing fails all the same, all of it is kept and named."""
    path, other = tmp_path / "one.anakinema", tmp_path / "two.anakinema"
    path.write_bytes(b"old")
    other.hardlink_to(path)

    def no_room(*_):
        raise OSError(errno.ENOSPC, "No space left on device")

    if full == "before":
        monkeypatch.setattr(os, "posix_fallocate", no_room)
    else:
        synced = os.fsync
        monkeypatch.setattr(os, "fsync", lambda handle: synced(handle) if os.fstat(handle).st_nlink < 2 else no_room())
    with pytest.raises(OSError, match="No space left") as told:
        write_whole(path, b"new" * 1000)
    if full == "before":
        assert path.read_bytes() == other.read_bytes() == b"old" and len(list(tmp_path.iterdir())) == 2
    else:
        assert "all of it stands in 'one-whole.anakinema'" in str(told.value)
        assert (tmp_path / "one-whole.anakinema").read_bytes() == b"new" * 1000
    monkeypatch.undo()
    write_whole(path, b"newer")
    assert other.read_bytes() == b"newer"
