"""Mutants of the shipped examples, by structure, bytes, numbers and nesting, each given to the command line; and
drawings of both formats and pictures, made of pieces and damaged, each read.

`make fuzz COUNT=1000 SEED=3` runs them in processes and prints what came of them. The contract: an answer or a clear
refusal within 10 s (of the processor, for many run at once) and 2 GB, never a traceback, never a dead process.
"""

import argparse
import contextlib
import copy
import io
import json
import multiprocessing
import operator
import os
import random
import re
import resource
import signal
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Iterator
from importlib.resources import files
from pathlib import Path
from types import FrameType
from typing import Any

from drawn import OUTLINES, drawing, judge_drawing, judge_picture, picture

from anakinema import cli
from anakinema.formats.project import EXAMPLES

SECONDS, BYTES = 10.0, 2 << 30
"""What any file may take, of the processor and of the memory."""
HUNG = 120.0
"""Seconds after which a process is given up from outside."""
ODD: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 1e-12, 1e12, -1e308, 1e300, 2**70, 0.5, "", " ", "0", "nan", "inf", "1/0", "2*throw",
    "12 mm", "90 deg", "60 rpm", "1e400", "x" * 3000, "a.b", "frame.O", "\ud800", "\x00", "(" * 300, "2**9**9**9",
    [], {}, [0, 0], [0, 0, 0], [[0, 0], [1, 0], [0, 1]], ["a", "b"], {"type": "revolute"},
    {"kind": "disc", "center": [0, 0], "diameter": 5}, 5e-324, 1e-160, 1e-7, 1e8, -1e8, "0.1 + 0.2 - 0.3",
)  # fmt: skip

EDGES = (5e-324, 1e-160, 1e-305, 1e-12, 1e-8, 1e-7, 2e-7, 1e-6, 99999999.9999, 1e8, -1e8, 1e10, 1e12, 180, 360)
NUMBER = re.compile(r"(-?\d+(?:\.\d+)?) ?(?:deg|mm|rpm|s)?")


DRAWINGS, PICTURES = 53, 59
"""Of so many mutants one is a drawing, and one a picture."""


class TooSlow(BaseException):
    """Raised in a mutant that takes too long."""


# -- mutants -------------------------------------------------------------------------------------------------------


def sources() -> list[bytes]:
    """The examples as they ship."""
    return [files("anakinema").joinpath(f"examples/{name}.anakinema").read_bytes() for name in EXAMPLES]


def mutant(seed: int, wholes: list[bytes]) -> bytes:
    """The mutant of a number."""
    chance = random.Random(seed)
    whole = chance.choices(wholes, [1 / len(whole) ** 2 for whole in wholes])[0]  # long ones take their time
    return chance.choices((_bytes, _structure, _numbers, _nested), (8, 6, 6, 1))[0](whole, chance)


def _nested(whole: bytes, chance: random.Random) -> bytes:
    """With sub-assemblies in sub-assemblies, and copies of copies, some of them in circles."""
    tree = json.loads(whole)
    deep, long = (round(10 ** chance.uniform(0, 3.3)) for _ in range(2))
    wide = chance.choice((1, 1, 1, 2))
    inner = {f"deep{k}": {"parts": {f"x{j}": {"assembly": f"deep{k - 1}"} if k else {"points": {"A": [j, 0]}}
                                    for j in range(wide)}} for k in range(deep)}  # fmt: skip
    last = chance.choice((0, long - 1, chance.randrange(long)))
    copies = {f"copy{k}": {"of": f"copy{k - 1 if k else last}", "pose": [k, 0, 0]} for k in range(long)}
    if last == 0:
        copies["copy0"] = {"points": {"A": [0, 0]}}
    tree.setdefault("assemblies", {}).update(inner)
    tree["parts"] |= {"deepest": {"assembly": f"deep{deep - 1}", "pose": [0, 0, 0]}, **copies}
    if chance.random() < 0.5:
        tree["parts"] = dict(reversed(list(tree["parts"].items())))
    return json.dumps(tree).encode()


def _bytes(whole: bytes, chance: random.Random) -> bytes:
    data = bytearray(whole)
    for _ in range(chance.choice((1, 1, 2, 5, 40))):
        at, size = chance.randrange(len(data) + 1), chance.choice((1, 2, 10, 200))
        piece = bytes(chance.randrange(256) for _ in range(size))
        match chance.randrange(6):
            case 0:
                del data[at : at + size]
            case 1:
                data[at:at] = piece
            case 2:
                data[at:at] = data[at : at + size]
            case 3:
                data[at : at + size] = chance.choice((b"[", b"{", b'"', b",", b"1e999", b"-", b"\\ud800", b"null"))
            case 4:
                data = data[:at] or data
            case _ if at < len(data):
                data[at] ^= 1 << chance.randrange(8)
    return bytes(data)


def _structure(whole: bytes, chance: random.Random) -> bytes:
    tree = json.loads(whole)
    for _ in range(chance.choice((1, 1, 1, 2, 3, 8))):
        places = list(_places(tree))
        holder, key = chance.choice(places)
        other_holder, other_key = chance.choice(places)
        with contextlib.suppress(KeyError, IndexError, TypeError):  # an earlier mutation took the place away
            _mutate(holder, key, other_holder[other_key], chance)
    return json.dumps(tree).encode()


def _numbers(whole: bytes, chance: random.Random) -> bytes:
    """Some numbers at the edge of what is read: next to nothing, to the greatest, or to others."""
    tree = json.loads(whole)
    places = [(holder, key) for holder, key in _places(tree) if _number(holder[key]) is not None]
    for _ in range(chance.choice((1, 1, 2, 3, 5))):
        holder, key = chance.choice(places)
        value, other = _number(holder[key]), _number(operator.getitem(*chance.choice(places)))
        near = chance.choice((1e-12, 1e-9, 1e-7, 1e-4))
        holder[key] = chance.choice((
            0, -value, value * near, value / near, value + near, other, other + near, other + value, 2 * value,
            value / 2, chance.choice(EDGES),
        ))  # fmt: skip
    return json.dumps(tree).encode()


def _number(value: Any) -> float | None:
    """The number of a number, or of one with a unit."""
    found = NUMBER.fullmatch(value) if isinstance(value, str) else None
    if found is not None:
        return float(found[1])
    return value if isinstance(value, (int, float)) and not isinstance(value, bool) else None


def _mutate(holder: Any, key: Any, other: Any, chance: random.Random) -> None:
    value = holder[key]
    match chance.randrange(9):
        case 0:
            del holder[key]
        case 1:
            holder[key] = copy.deepcopy(chance.choice(ODD))
        case 2:
            holder[key] = copy.deepcopy(other)
        case 3 if isinstance(holder, dict):
            holder[chance.choice(("x", "fixed", "cut", "limits", "zero", f"{key}s", ""))] = holder.pop(key)
        case 4 if isinstance(holder, dict):
            holder[f"{key}2"] = copy.deepcopy(value)
        case 5 if isinstance(value, list):
            value.append(copy.deepcopy(chance.choice([*value, *ODD])))
        case 6 if isinstance(value, list):
            chance.shuffle(value)
        case 7 if isinstance(value, str):
            others = (f"-({value})", f"{value} + {value}", value[1:], f"1000*({value})", f"{value}2")
            holder[key] = chance.choice(others)
        case _ if isinstance(value, (int, float)):
            holder[key] = chance.choice((-value, value * 10, value / 1000, value + 1e-9, value * (1 + chance.random())))


def _places(tree: Any) -> Iterator[tuple[Any, Any]]:
    """Every place in a tree: what holds it, and its key there."""
    for key in list(tree) if isinstance(tree, dict) else range(len(tree)):
        yield tree, key
        if isinstance(tree[key], (dict, list)):
            yield from _places(tree[key])


# -- running one ---------------------------------------------------------------------------------------------------


def judge(data: bytes, folder: Path) -> str:
    """What came of a mutant: ``answered``, ``refused``, or what was wrong."""
    path, out, table = folder / "mutant.anakinema", folder / "out.json", folder / "out.csv"
    path.write_bytes(data)
    message, said = io.StringIO(), io.StringIO()
    start = time.process_time()
    try:
        with contextlib.redirect_stdout(message), contextlib.redirect_stderr(said):
            code = cli.main(["run", str(path), "--json", str(out), "--csv", str(table)])
        text = said.getvalue()
        if "a mistake of this program" in text or "Traceback" in text or "Warning" in text:
            return f"mistake: {text.strip().splitlines()[-1][:300]}"
        if path.read_bytes() != data:
            return "the file was changed"
        if code not in (0, 1, 2) or (code == 2 and not text.strip()):
            return f"code {code} and no word"
        if code != 2:
            json.loads(out.read_text(), parse_constant=_no_number)
    except TooSlow:
        return f"slow: over {SECONDS:.0f} s"
    except BaseException as error:
        return f"raised {error!r}"[:300]
    finally:
        signal.setitimer(signal.ITIMER_PROF, 0)
        for left in (out, table):
            left.unlink(missing_ok=True)
    took = time.process_time() - start
    return f"slow: {took:.1f} s" if took > SECONDS else "refused" if code == 2 else "answered"


def _loosened(wholes: list[bytes]) -> bytes:
    """An example with a joint suspended, so that something is left undriven."""
    tree = next(tree for tree in map(json.loads, wholes) if "contact" in tree["joints"])
    tree["joints"]["contact"]["suspended"] = True
    return json.dumps(tree).encode()


def _no_number(text: str) -> None:
    raise ValueError(f"{text} in the JSON")


def _alarm(_: int, __: FrameType | None) -> None:
    raise TooSlow


def run(seeds: range, folder: Path, tell: Callable[[int, str, float], None]) -> None:
    """Judges mutants one after the other; tells number, outcome and seconds of each."""
    wholes = sources()
    for whole in (*wholes, _loosened(wholes)):
        judge(whole, folder)  # loads and compiles what there is, which no mutant is to blame for
    signal.signal(signal.SIGPROF, _alarm)
    for seed in seeds:
        start, outcome = time.process_time(), ""
        try:
            if seed % DRAWINGS == 0:
                ending, data = drawing(seed)
                signal.setitimer(signal.ITIMER_PROF, OUTLINES + 1)
                outcome = judge_drawing(ending, data, folder)
            elif seed % PICTURES == 0:
                outcome = judge_picture(picture(seed))
        except TooSlow:
            outcome = "slow"
        except BaseException as error:
            outcome = f"raised {error!r}"[:300]
        finally:
            signal.setitimer(signal.ITIMER_PROF, 0)
        if not outcome:
            data = mutant(seed, wholes)
            signal.setitimer(signal.ITIMER_PROF, SECONDS + 1)
            start = time.process_time()
            outcome = judge(data, folder)
        if resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 > BYTES:
            outcome = "over 2 GB"
        tell(seed, outcome, time.process_time() - start)


def _child(seeds: range, message: Any) -> None:
    os.environ["OMP_NUM_THREADS"] = "1"
    with tempfile.TemporaryDirectory() as folder:
        run(seeds, Path(folder), lambda *entry: message.send(entry))
    message.send(None)


# -- running many --------------------------------------------------------------------------------------------------


def main() -> int:
    """Runs mutants in processes that are started anew when one dies; prints the sum."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=2000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--processes", type=int, default=os.cpu_count() or 1)
    asked = parser.parse_args()
    start, outcomes, longest, wrong = time.monotonic(), Counter[str](), 0.0, []
    said = start
    left = [range(asked.seed + k, asked.seed + asked.count, asked.processes) for k in range(asked.processes)]
    running: list[tuple[range, Any, Any, int, float]] = []

    def begin(seeds: range) -> None:
        mine, theirs = multiprocessing.Pipe(duplex=False)
        process = multiprocessing.get_context("spawn").Process(target=_child, args=(seeds, theirs), daemon=True)
        process.start()
        theirs.close()
        running.append((seeds, process, mine, 0, time.monotonic()))

    for seeds in left:
        begin(seeds)
    while running:
        if time.monotonic() - said > 300.0:
            said = time.monotonic()
            print(f"{outcomes.total()} so far, {said - start:.0f} s", flush=True)
        seeds, process, mine, count, since = running.pop(0)
        ended, dead = False, ""
        try:
            while mine.poll(0.05):
                entry = mine.recv()
                if entry is None:
                    ended = True
                    break
                seed, outcome, took = entry
                count, since, longest = count + 1, time.monotonic(), max(longest, took)
                kind = outcome if outcome in ("answered", "refused") else outcome.split(":")[0].split("(")[0]
                outcomes[kind] += 1
                if outcome not in ("answered", "refused"):
                    wrong.append((seed, outcome))
                    print(f"mutant {seed}: {outcome}", flush=True)
                if outcome == "over 2 GB":
                    dead = "x"
                    break
        except EOFError:
            process.join()
            dead = f"process died with {process.exitcode}"
        if not ended and not dead and time.monotonic() - since > HUNG:
            dead = "hangs"
        if dead:
            process.kill()
            if dead != "x":
                outcomes[dead] += 1
                wrong.append((seeds[count], dead))
                print(f"mutant {seeds[count]}: {dead}", flush=True)
                count += 1
            if seeds[count:]:
                begin(seeds[count:])
        elif not ended:
            running.append((seeds, process, mine, count, since))
    took = time.monotonic() - start
    print(f"mutants {outcomes.total()} from seed {asked.seed} in {took:.0f} s, the slowest {longest:.1f} s")
    for outcome, count in outcomes.most_common():
        print(f"  {count:>7} {outcome}")
    return int(bool(wrong))


if __name__ == "__main__":
    sys.exit(main())
