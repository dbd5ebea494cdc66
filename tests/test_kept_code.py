"""Machine code that is kept: taken only whole, and only from where nobody else can put it."""

import os
import random
from types import SimpleNamespace

import pytest

from anakinema.compiling import store

KERNEL: object = SimpleNamespace(__module__="rooms.kernels", __name__="gap")
KINDS, CODE = ("d", "d2C"), ("(dd)", bytes(range(256)) * 9)


@pytest.fixture
def homes(tmp_path, monkeypatch):
    """Two places where it may be kept, with nothing in them."""
    both = tmp_path / "beside", tmp_path / "own"
    monkeypatch.setattr(store, "homes", lambda: both)
    monkeypatch.setattr(store, "MADE", set())
    store.stores.cache_clear()
    yield both
    store.stores.cache_clear()


def test_what_is_kept_is_there_again_for_all_who_read_the_folder(homes):
    store.keep(KERNEL, KINDS, CODE)
    assert store.kept(KERNEL, KINDS) == CODE and store.kept(KERNEL, ("d",)) is None
    (file,) = homes[0].rglob("*.o")
    assert file.stat().st_mode & 0o777 == 0o644 and store.compiled_before()


@pytest.mark.parametrize("seed", range(12))
def test_code_that_is_cut_zeroed_or_changed_by_a_bit_is_as_if_it_were_not_there(homes, seed):
    store.keep(KERNEL, KINDS, CODE)
    (file,) = homes[0].rglob("*.o")
    whole, chance = file.read_bytes(), random.Random(seed)
    at = chance.randrange(len(whole))
    flipped = bytearray(whole)
    flipped[at] ^= 1 << chance.randrange(8)
    cut, zeroed = whole[:at], whole[:at] + bytes(len(whole) - at)
    for damaged in (cut, b"", bytes(len(whole)), bytes(flipped), whole + b"\0", *([zeroed] if zeroed != whole else [])):
        file.write_bytes(damaged)
        assert store.kept(KERNEL, KINDS) is None
    store.keep(KERNEL, KINDS, CODE)  # it is compiled anew, and replaced
    assert store.kept(KERNEL, KINDS) == CODE
    file.rename(file.with_name("rooms.kernels.other-0123456789ab.o"))
    assert store.kept(KERNEL, KINDS) is None


def test_a_folder_into_which_others_can_write_or_that_is_another_users_is_not_trusted(homes, monkeypatch):
    store.keep(KERNEL, KINDS, CODE)
    (file,) = homes[0].rglob("*.o")
    for mode in (0o775, 0o757, 0o777):
        file.parent.chmod(mode)
        store.stores.cache_clear()
        assert store.kept(KERNEL, KINDS) is None and homes[1] in store.where_to_keep().parents
    file.parent.chmod(0o755)
    if os.getuid():
        return  # only the system can give folders away
    os.chown(file.parent, 4711, -1)
    store.stores.cache_clear()
    assert store.kept(KERNEL, KINDS) is None
    elsewhere = homes[0] / "elsewhere"
    file.parent.rename(elsewhere)
    os.chown(elsewhere, os.getuid(), -1)
    file.parent.symlink_to(elsewhere)
    store.stores.cache_clear()
    assert store.kept(KERNEL, KINDS) is None


def test_code_of_a_folder_that_can_only_be_read_is_taken_and_new_code_goes_to_the_other(homes, monkeypatch):
    store.keep(KERNEL, KINDS, CODE)
    monkeypatch.setattr(os, "access", lambda path, mode: homes[0] not in path.parents)
    store.stores.cache_clear()
    assert store.kept(KERNEL, KINDS) == CODE
    store.keep(KERNEL, ("q",), CODE)
    assert len(list(homes[1].rglob("*.o"))) == 1 and store.kept(KERNEL, ("q",)) == CODE


def test_where_nothing_can_be_kept_it_is_told_where(homes, monkeypatch):
    for home in homes:
        home.write_text("a file in the way")
    store.stores.cache_clear()
    assert store.where_to_keep() is None and all(str(home) in store.unkept() for home in homes)
    store.keep(KERNEL, KINDS, CODE)
    assert store.kept(KERNEL, KINDS) is None and store.compiled_before()  # made, though not kept
