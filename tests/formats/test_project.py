"""The project file: bytes in, bytes out; saving that loses nothing; damaged files told in one line."""

import json
import os

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.document import Set, changed
from anakinema.errors import DocumentError
from anakinema.formats import project


def test_an_unchanged_document_is_written_byte_for_byte(tmp_path):
    data = b'{ "anakinema":1,"title" : "caf\xc3\xa9",\n\t"parts":{"b":{},"a":{"fixed":true}}  }'
    path = tmp_path / "odd.json"
    path.write_bytes(data)
    document, source = project.load(path)
    project.save(path, document, source)
    assert path.read_bytes() == data
    project.save(path, changed(document, Set(["title"], "new")), source)
    again, _ = project.load(path)
    assert again.title == "new" and list(again.parts) == ["b", "a"]
    project.save(path, changed(again, Set(["title"], "café")), source)
    assert path.read_bytes() == data  # undone to what the file held: its own bytes again


def test_the_demo_written_anew_reads_the_same():
    document, _ = project.demo()
    again, _ = project.loads(project.dumps(document))
    assert project.same(again.tree, document.tree)


def test_a_failed_save_leaves_the_old_file(tmp_path, monkeypatch):
    path = tmp_path / "kept.anakinema"
    document, source = project.demo()
    project.save(path, document, source)
    before = path.read_bytes()

    def broken(*_):
        raise OSError("disk full")

    monkeypatch.setattr(os, "replace", broken)
    with pytest.raises(OSError, match="disk full"):
        project.save(path, changed(document, Set(["title"], "x")), source)
    assert path.read_bytes() == before
    assert list(tmp_path.iterdir()) == [path]


@pytest.mark.parametrize(
    ("data", "message"),
    [
        (b"", "is empty"),
        (b"\xff\xfe\x00", "is not UTF-8 text"),
        (b'{"anakinema": 1,', "is not valid JSON"),
        (b'{"anakinema": 1, "parts": {"a": {}, "a": {}}}', "the key 'a' stands twice"),
        (b'{"anakinema": NaN}', "holds NaN, which is not a number"),
        (b"[" * 100_000, "nested too deeply"),
        (b'{"anakinema": 1, "x": ' + b"[" * 60 + b"]" * 60 + b"}", "nested too deeply"),
        (b'{"anakinema": 1, "parts": {"a": {"pose": [1' + b"0" * 5000 + b", 0, 0]}}}", "number"),
        (b"[]", "an object is wanted"),
        (b'{"title": "x"}', "not an Anakinema document"),
    ],
)
def test_damaged_files_are_told(data, message):
    with pytest.raises(DocumentError) as caught:
        project.loads(data)
    assert message in str(caught.value)


def test_an_enormous_file_is_refused_unread(tmp_path):
    path = tmp_path / "huge.json"
    with path.open("wb") as stream:
        stream.truncate(project.MAX_BYTES + 1)
    with pytest.raises(DocumentError, match="is larger than"):
        project.load(path)


DEMO = project.dumps(*project.demo())


@settings(max_examples=80, deadline=None)
@given(st.integers(0, len(DEMO) - 1), st.integers(0, 40), st.binary(max_size=8))
def test_a_file_damaged_anywhere_is_read_or_refused(at, cut, put):
    try:
        document, _ = project.loads(DEMO[:at] + put + DEMO[at + cut :])
    except DocumentError:
        return
    json.dumps(document.tree)
