"""Writing a file whole: after a crash there is the old one or the new one, never half of one, and no litter."""

import errno
import glob
import os
import shutil
import stat
import time
from contextlib import suppress
from pathlib import Path

PREFIX = ".anakinema-"
SUFFIX = ".part"
OLD = 3600.0
"""Seconds after which what lies half written belongs to nobody."""


def write_whole(path: Path, data: bytes) -> None:
    """Puts bytes in the place of a file. Owner, group, mode and links of the old file stay.

    Raises `OSError` when that can't be done, or the file is marked read-only; then nothing has changed.
    """
    target = Path(os.path.realpath(path))  # a link stays a link
    old = target.stat() if target.exists() else None
    if old is not None:
        if not stat.S_ISREG(old.st_mode):
            raise OSError(errno.EINVAL, "is no ordinary file", str(path))
        if not old.st_mode & (stat.S_IWUSR | stat.S_IWGRP | stat.S_IWOTH) or not os.access(target, os.W_OK):
            raise OSError(errno.EACCES, "is read-only; save under another name", str(path))
    _sweep(target.parent)
    new = _beside(target.parent, data)
    try:
        if old is not None and (old.st_nlink > 1 or not _handed_over(target, new, old)):
            _over(target, data, new)  # the file has other names, or another owner: it must stay the same file
        else:
            os.replace(new, target)
            _settled(target.parent)
            return
    except HalfWritten:
        raise
    except BaseException:
        new.unlink(missing_ok=True)
        raise
    new.unlink(missing_ok=True)


class HalfWritten(OSError):
    """A file that could be written over only in part; what was to be written stands whole in another, which is named
    in the text."""


def _beside(folder: Path, data: bytes) -> Path:
    """A new file with the bytes, under a short name of its own. It gets its name only when it is whole, where the file
    system can do that, so that a killed process leaves nothing."""
    name = folder / f"{PREFIX}{os.getpid()}-{os.urandom(4).hex()}{SUFFIX}"
    try:
        handle = os.open(folder, os.O_WRONLY | os.O_TMPFILE | os.O_CLOEXEC, 0o666)
        nameless = True
    except OSError:
        handle = os.open(name, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666)
        nameless = False
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
            if nameless:
                _named(stream.fileno(), name)
    except BaseException:
        name.unlink(missing_ok=True)
        raise
    return name


def _named(handle: int, name: Path) -> None:
    """Gives an open file without a name one."""
    folder = os.open(name.parent, os.O_RDONLY | os.O_DIRECTORY)
    try:  # only with a folder's handle does Python ask for the link to be followed
        os.link(f"/proc/self/fd/{handle}", name.name, dst_dir_fd=folder, follow_symlinks=True)
    finally:
        os.close(folder)


def _handed_over(target: Path, new: Path, old: os.stat_result) -> bool:
    """Gives the new file owner, group and mode of the old one; False where that is not allowed."""
    try:
        if (old.st_uid, old.st_gid) != (os.geteuid(), os.getegid()):
            os.chown(new, old.st_uid, old.st_gid)
        os.chmod(new, stat.S_IMODE(old.st_mode))
        with suppress(OSError):  # a file system without extended attributes
            shutil._copyxattr(str(target), str(new))  # type: ignore[attr-defined]
    except PermissionError:
        return False
    return True


def _over(target: Path, data: bytes, whole: Path) -> None:
    """Writes over the file itself. Room is there before anything of the old one is lost, and until it is done the whole
    new file lies beside it under a name that tells what it is: if writing fails, or is killed, it stays there."""
    with open(target, "r+b") as stream:
        size = os.fstat(stream.fileno()).st_size
        if len(data) > size:
            try:
                os.posix_fallocate(stream.fileno(), 0, len(data))
            except OSError as error:
                os.ftruncate(stream.fileno(), size)
                if error.errno not in (errno.EOPNOTSUPP, errno.EINVAL, errno.ENOSYS):
                    raise
        kept = _free(target)
        os.replace(whole, kept)
        _settled(target.parent)
        try:
            stream.write(data)
            stream.truncate()
            stream.flush()
            os.fsync(stream.fileno())
        except OSError as error:
            text = f"{error.strerror or error}; it is half written now, and all of it stands in '{kept.name}' beside it"
            raise HalfWritten(error.errno, text, str(target)) from error
        kept.unlink(missing_ok=True)


def kept_whole(path: Path) -> Path | None:
    """What a save that was broken off has left whole beside a file; the newest, where there are several."""
    found = list(path.parent.glob(f"{glob.escape(path.stem)}-whole*{glob.escape(path.suffix)}"))
    return max(found, key=lambda one: one.lstat().st_mtime, default=None)


def _free(target: Path) -> Path:
    """A name that tells that a file stands there whole."""
    name = target.with_name(f"{target.stem}-whole{target.suffix}")
    number = 2
    while os.path.lexists(name):
        name = target.with_name(f"{target.stem}-whole{number}{target.suffix}")
        number += 1
    return name


def _settled(folder: Path) -> None:
    """Makes the renaming last."""
    with suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _sweep(folder: Path) -> None:
    """Removes what killed processes of this program have left; what is new may be of one on another machine, or in
    another container, that shares the folder."""
    for path in folder.glob(f"{PREFIX}*{SUFFIX}"):
        owner = path.name.removeprefix(PREFIX).split("-")[0]
        if owner.isdecimal() and not Path(f"/proc/{owner}").exists():
            with suppress(OSError):
                if time.time() - path.lstat().st_mtime > OLD:
                    path.unlink()
