"""Computing in a process of its own: what comes back is what went, and no mistake there is one here."""

import contextlib
import os
import queue
import random
import signal
import socket
import threading
import time
from multiprocessing.connection import Connection
from pathlib import Path

import numpy as np
import pytest

from anakinema import compiling
from anakinema.cancellation import CancellationToken
from anakinema.compute_process import ComputeProcess, Died, Mistake, engaged, given_back, tasks
from anakinema.compute_process.inside import Post, serve
from anakinema.compute_process.parcels import Channel, Gone, packed
from anakinema.document import read_document
from anakinema.document.changes import Remove, Set, changed
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.formats import project
from mechanisms import four_bar, turn
from patience import patient

AXES = [("throw", 10.0, 20.0, 300), ("rod", 40.0, 60.0, 300)]
"""Of a sweep that takes longer than anybody waits."""


class Asked:
    """A reckoner, and what it has told."""

    def __init__(self):
        self.message: queue.Queue = queue.Queue()
        self.compute_process = engaged(lambda number, what, opened: self.message.put((number, what, opened())))

    def all_of(self, number: int, task: str, *arguments):
        """Asks, and gives what is told until the end, by what it is; the last of each."""
        self.compute_process.ask(number, task, arguments)
        found = {}
        while "ended" not in found and "failed" not in found:
            message, what, value = self.message.get(timeout=patient(60))
            if message == number:
                found[what] = value
        return found


@pytest.fixture
def asked():
    made = Asked()
    yield made
    given_back(made.compute_process)


@pytest.mark.parametrize("name", project.EXAMPLES)
def test_findings_from_the_other_process_are_those_of_this(asked, name):
    document, _ = project.example(name)
    found, here = asked.all_of(1, "analyse", document), analyse(document)
    judged = found["judged"]
    assert judged.document is document and judged.motion is found["moved"]  # the very objects that stand here
    assert judged.motion.cache.state is None  # large, and found again; the traced points are known at once
    for trace, path in (judged.motion.cache.traced or {}).items():
        np.testing.assert_array_equal(path, here.motion.traced[trace])
    np.testing.assert_array_equal(judged.motion.state.q, here.motion.state.q)
    assert [(v.check.id, v.outcome, v.margin) for v in judged.verdicts.values()] == [
        (v.check.id, v.outcome, v.margin) for v in here.verdicts.values()
    ]
    t = np.linspace(0.0, here.motion.path.t1, 7)
    np.testing.assert_array_equal(judged.motion.at(t).v, here.motion.at(t).v)
    again = asked.all_of(2, "ways", judged.motion)["ways_found"]  # a motion goes back as it came
    assert len(again.ways) >= 1


def test_what_is_edited_is_read_there_as_it_is_here(asked):
    """Only what differs is sent; a hundred edits, undone ones among them, come to the same mechanism."""
    chance, versions = random.Random(4), [read_document(four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36)))]
    for number in range(1, 101):
        now = chance.choice(versions[-3:])
        change = chance.choice((
            Set(["parts", "crank", "points", "A"], [40 + chance.random(), 0]),
            Set(["parts", f"p{chance.randint(0, 3)}"], {"fixed": True, "pose": [chance.randint(0, 9), 0, 0]}),
            Set(["title"], str(chance.random())),
            Remove(["parts", "p1"]),
        ))  # fmt: skip
        versions.append(changed(now, change))
        found = asked.all_of(number, "analyse", versions[-1])
        assert found["judged"].document is versions[-1]
        assert found["judged"].motion.system.body_ids == (*versions[-1].parts, "")
        crank = versions[-1].parts["crank"].place("A")[0]
        a = found["judged"].motion.system.constraints.table.numbers[:, :4] * found["judged"].motion.system.scale
        assert np.isclose(a, crank).any()


def test_mistakes_and_faults_are_told_and_the_next_is_done(asked):
    document = project.demo()[0]
    assert isinstance(asked.all_of(1, "analyse", "no document")["failed"], Mistake)
    alone = read_document({"anakinema": 1, "parts": {"a": {"fixed": True, "points": {"P": [0, 0]}}}, "joints": {}})
    nonsense = changed(document, Set(["joints", "ram", "limits"], {"min": 0, "max": 1}))
    assert asked.all_of(2, "analyse", nonsense)["judged"] is not None
    torn = read_document(four_bar(10, 20, 15, 500))
    failed = asked.all_of(3, "analyse", torn)["failed"]
    with pytest.raises(DocumentError) as here:
        analyse(torn)
    assert failed.faults == here.value.faults
    assert asked.all_of(4, "analyse", alone)["judged"].document is alone


def test_what_is_called_off_before_it_begins_is_ended_too(asked):
    document, _ = project.demo()
    for number in range(1, 40, 2):
        asked.compute_process.ask(number, "analyse", (document,))
        asked.compute_process.drop(number + 1)
    deadline = time.monotonic() + patient(20)
    while not asked.compute_process.idle:
        assert time.monotonic() < deadline
        time.sleep(0.001)
    assert asked.all_of(100, "analyse", document)["judged"].document is document


def test_an_error_of_the_system_within_a_task_ends_the_task_only():
    """A task that can't start a process, or read a file, is told; the way between the processes is not meant."""
    ours, theirs = socket.socketpair()
    mine, post = Channel(Connection(ours.detach())), Post(Channel(Connection(theirs.detach())))
    message = []

    def failing(*_):
        raise BlockingIOError(11, "no more processes")

    mine.send(packed(("ask", 5, "analyse"), (), lambda _: None))
    with pytest.MonkeyPatch.context() as patch:
        patch.setitem(tasks.TASKS, "analyse", failing)
        server = threading.Thread(target=serving, args=(post,), daemon=True)
        server.start()
        while (heard := mine.receive())[0][1] != "ended":
            message.append((heard[0], heard[1].opened(lambda name: name)))
        mine.connection.close()
        server.join(10)
    (head, error), = message
    assert head == (5, "failed") and "no more processes" in str(error) and not server.is_alive()


def serving(post):
    with pytest.raises(Gone):
        serve(post)


def test_it_dies_alone_and_is_called_off_at_once(asked):
    document, _ = project.demo()
    asked.compute_process.ask(1, "study", ("sweep", document, AXES, [], False, None, None))
    while asked.message.get(timeout=patient(60))[1] != "progressed":
        pass
    start = time.monotonic()
    asked.compute_process.drop(2)
    while not asked.compute_process.idle:
        assert time.monotonic() - start < patient(5.0)
        time.sleep(0.001)
    asked.compute_process.ask(3, "study", ("sweep", document, AXES, [], False, None, None))
    while asked.message.get(timeout=patient(60))[0] != 3:
        pass
    os.kill(asked.compute_process._process.pid, signal.SIGKILL)
    while (message := asked.message.get(timeout=patient(60)))[1] != "failed":
        pass
    assert isinstance(message[2], Died) and "signal 9" in str(message[2]) and not asked.compute_process.alive


@pytest.mark.parametrize("how", ["ended", "left alone", "killed"])
def test_all_that_it_started_ends_with_it(how):
    """A sweep that has started further processes leaves none behind, whether it is ended or its owner is no more."""
    made, document = ComputeProcess(), project.demo()[0]
    seen = queue.Queue()
    made.heard = lambda number, what, opened: seen.put(what)
    made.ask(1, "study", ("sweep", document, AXES, [], False, None, None))
    seen.get(timeout=patient(60))
    group = made._process.pid
    deadline = time.monotonic() + patient(30)
    while len(_of_group(group)) < 2 and time.monotonic() < deadline and (os.cpu_count() or 1) > 1:
        time.sleep(0.02)
    if how == "ended":
        made.end()
    elif how == "killed":
        os.kill(group, signal.SIGKILL)
        while seen.get(timeout=patient(60)) != "failed":
            pass
        for thread in [each for each in threading.enumerate() if each in made.threads]:
            thread.join(20)
            assert not thread.is_alive()
        assert made._channel.connection.closed
    else:
        made.heard = None
        with socket.socket(fileno=os.dup(made._channel.connection.fileno())) as way:
            way.shutdown(socket.SHUT_RDWR)
    deadline = time.monotonic() + patient(30)
    while _of_group(group):
        assert time.monotonic() < deadline
        time.sleep(0.02)


def _of_group(group: int) -> list[str]:
    """The processes of a group that are still alive."""
    found = []
    for stat in Path("/proc").glob("[0-9]*/stat"):
        with contextlib.suppress(OSError):  # it has ended meanwhile
            state, _, its_group = stat.read_text().rpartition(")")[2].split()[:3]
            found += [stat.parent.name] if int(its_group) == group and state != "Z" else []
    return found


def test_a_first_start_tells_how_far_compiling_is(monkeypatch):
    monkeypatch.setattr(compiling, "compiled_before", lambda: False)
    monkeypatch.setattr(compiling, "compiled_share", lambda: 0.25)
    monkeypatch.setattr(tasks, "OFTEN", 0.001)
    message = []
    tasks.analyse(lambda what, value: message.append((what, value)), CancellationToken(), project.demo()[0])
    assert message[0] == ("compiling", 0.0) and ("compiling", 0.25) in message and "judged" in dict(message)
