"""The command line: ``anakinema [FILE]``, ``anakinema run FILE``, ``anakinema check FILE``, ``anakinema modes FILE``.

Exit codes: 0 all well; 1 a check failed or the motion stopped before its end; 2 the file can't be read or makes no
sense. Errors go to standard error, one line each, never a traceback.
"""

import argparse
import gc
import importlib
import io
import json
import os
import signal
import sys
import traceback
import warnings
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Any, NoReturn, TypeVar

from . import __version__
from .arguments import joined, whole
from .errors import DocumentError, elided
from .letters import HANDLER

if TYPE_CHECKING:
    from .document import Document
    from .findings import Findings

STUDIES = ("tune", "sweep", "tolerances", "trials", "travel", "arrange", "swept")
COMMANDS = ("run", "check", "modes", "mass", "shop", "import", "cam", *STUDIES)
FAULT_LINES = 50
INTERRUPTED = 130
"""The exit code of what was interrupted at the keyboard, as shells give it."""
T = TypeVar("T")


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        sys.stderr.write(f"anakinema: {message}; see 'anakinema --help'\n")
        raise SystemExit(2)


def parser(arguments: Sequence[str] | None = None) -> argparse.ArgumentParser:
    """The parser of the commands that need no display; those of studies are there where they are asked for."""
    top = _Parser(prog="anakinema", description="Prove a planar mechanism: travel, clearance and behaviour as numbers.")
    top.add_argument("--version", action="version", version=f"anakinema {__version__}")
    top.add_argument("--demo", action="store_true", help="open the demo in the desktop application")
    sub = top.add_subparsers(
        dest="command",
        metavar="COMMAND | FILE",
        help="run or check without a display; a FILE opens it in the desktop application",
    )
    run = sub.add_parser("run", help="step the motion and write its numbers")
    run.add_argument("file")
    run.add_argument("--steps", type=whole(1, 1_000_000), metavar="N", help="steps to divide the motion in")
    run.add_argument("--csv", metavar="OUT", help="table of the motion, a row for each step")
    run.add_argument("--json", metavar="OUT", help="mobility, travel, clearance, checks")
    run.add_argument("--rates", action="store_true", help="velocity and acceleration of each joint in the table too")
    check = sub.add_parser("check", help="judge the checks and print them as a table")
    check.add_argument("file")
    modes = sub.add_parser("modes", help="list the ways in which the joints close, or take one")
    modes.add_argument("file")
    modes.add_argument("--take", nargs=2, metavar=("N", "OUT"), help="write the document put together in way N")
    mass = sub.add_parser("mass", help="mass, centre and moment of inertia of parts, groups and the whole")
    mass.add_argument("file")
    mass.add_argument("--json", metavar="OUT", help="all numbers, in kg and the document's lengths")
    shop = sub.add_parser("shop", help="whether it can be made and stays together, and what can hurt")
    shop.add_argument("file")
    shop.add_argument("--json", metavar="OUT", help="all that was found")
    bring = sub.add_parser("import", help="make a part of each outermost outline of a drawing, its holes cut")
    bring.add_argument("file", metavar="DRAWING", help="a DXF or SVG file")
    bring.add_argument("out", metavar="OUT.anakinema")
    bring.add_argument("--unit", choices=("mm", "cm", "m", "in"), help="that of its numbers, else as it says, or mm")
    bring.add_argument("--layer", action="append", default=[], metavar="NAME", help="a layer to take, else all")
    cam = sub.add_parser("cam", help="write the profile of a cam, as a table or a drawing at true size")
    cam.add_argument("file")
    cam.add_argument("joint", metavar="JOINT", help="the cam joint")
    cam.add_argument("out", metavar="OUT", help="a .csv, .dxf, .svg or .pdf")
    cam.add_argument("--points", type=whole(3, 1_000_000), default=720, metavar="N", help="rows of a table, else 720")
    cam.add_argument("--tolerance", metavar="T", help="by how much lines and arcs may miss it, else 1e-6 of its size")
    cam.add_argument("--cutter", metavar="R", help="write the way of the centre of a cutter of that radius")
    if {*STUDIES, "-h", "--help"} & set(sys.argv[1:] if arguments is None else arguments):
        from .studies.types import declare

        declare(sub)
    return top


def main(arguments: Sequence[str] | None = None) -> int:
    """Runs a command and gives the exit code."""
    if arguments is None and signal.getsignal(signal.SIGINT) is signal.default_int_handler:
        signal.signal(signal.SIGINT, _interrupted)
    arguments = list(sys.argv[1:] if arguments is None else arguments)
    # Before NumPy is loaded: on matrices as small as ours threads of the algebra only wait for each other, and spin.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    for stream in (sys.stdout, sys.stderr):  # a terminal that knows few letters gets the nearest it can show
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors=HANDLER)
    for name in ("stdout", "stderr"):  # closed by who started us: what is told is told to nobody
        if getattr(sys, name) is None:
            setattr(sys, name, Path(os.devnull).open("w", encoding="utf-8"))  # noqa: SIM115, open to the end
    try:
        code = _run(arguments)
        sys.stdout.flush()
        return code
    except BrokenPipeError:  # the reader of our output has gone, as with `| head`
        _close_output()
        return 1
    except OSError as error:
        _close_output()
        return _told("standard output", f"can't be written: {error.strerror or error}")


def _interrupted(*_: object) -> None:
    """Ends at once, with all workers; nothing is left half written. An exception would have to find its way out through
    the locks of what hands work to them."""
    os._exit(INTERRUPTED)


def _close_output() -> None:
    """What is still to be written goes nowhere."""
    with suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _run(arguments: list[str]) -> int:
    words = [word for word in arguments if not word.startswith("-")]
    quiet = {"-h", "--help", "--version"} & set(arguments)
    if words[:1] == ["report"] and not Path("report").exists():
        return _told("anakinema", "'report' is not there yet; 'run FILE --json OUT' writes the findings")
    if (not words or words[0] not in COMMANDS) and not quiet:
        return _desktop(arguments)
    options = parser(arguments).parse_args(joined(arguments))
    say_what_is_compiled()
    gc.set_threshold(100_000, 50, 100)  # what a command leaves lying, its end clears away; looking for it takes a tenth
    warnings.simplefilter("ignore", RuntimeWarning)  # NumPy's remarks on single numbers are no message to a user
    try:
        commands = {"run": run, "check": check, "modes": modes, "mass": mass, "shop": shop, "import": bring, "cam": cam}
        return commands.get(options.command, study)(options)
    except (BrokenPipeError, OSError):
        raise
    except MemoryError:
        return _told(options.file, "needs more memory than there is; ask for fewer steps, or split the mechanism")
    except Exception as error:  # never a traceback: the user's file is not to blame, and is told so
        last = traceback.extract_tb(error.__traceback__)[-1]
        where = f"{Path(last.filename).name}, line {last.lineno}"
        return _told(options.file, f"a mistake of this program, please report it: {error!r} ({where})")


def say_what_is_compiled() -> None:
    """From now on it is told, and how far it is, when the inner loops are to be compiled, which takes a while."""
    from .compiling import store

    last = [-1.0]

    def listen(share: float) -> None:
        if last[0] < 0.0 and share < STARTED:
            once = "the inner loops are compiled, once after an installation: it takes a minute or two"
            text = store.unkept() or once
            sys.stderr.write(f"anakinema: {text}\n")
            last[0] = share
        elif last[0] >= 0.0 and share >= last[0] + TENTH:
            last[0] = share
            sys.stderr.write(f"anakinema: {100 * min(share, 0.99):.0f} % of them are compiled\n")

    if not store.LISTENERS:
        store.LISTENERS.append(listen)


STARTED, TENTH = 0.3, 0.1
"""Share of the inner loops below which compiling them is worth a word, and after which it is told again."""


def _told(about: object, text: str) -> int:
    sys.stderr.write(f"{about}: {_line(text)}\n")
    return 2


def _desktop(arguments: list[str]) -> int:
    options = [word for word in arguments if word.startswith("-") and word != "--demo"]
    files = [word for word in arguments if not word.startswith("-")]
    if options or len(files) > 1:
        parser().error(f"unknown option '{options[0]}'" if options else "one file at a time, please")
    from .compute_process import ready  # here, for no command without a window needs it

    ready()  # it starts while the window is loaded
    desk = importlib.import_module("anakinema_desk.application")  # by name: the core does not depend on the window
    code: int = desk.main(Path(files[0]) if files else None, demo="--demo" in arguments)
    return code


def run(options: argparse.Namespace) -> int:
    """``anakinema run``: steps the motion, writes what is asked for, tells how it went."""
    from .formats.results import motion_csv, results_json

    if fault := _would_overwrite(options.file, (options.csv, options.json)):
        return _told(*fault.split(": ", 1))
    findings = _findings(options.file, options.steps)
    if findings is None:
        return 2
    try:
        if options.csv is not None:
            _write(options.csv, motion_csv(findings.motion, options.rates))
        if options.json is not None:
            _write(options.json, results_json(findings))
    except OSError as error:
        return _told(error.filename or "output", f"can't be written: {error.strerror or error}")
    motion = findings.motion
    if "-" not in (options.csv, options.json):
        print(f"{len(motion.state.t) - 1} of {motion.steps} steps, mobility {motion.mobility.dof}, "
              f"checks: {findings.tally()}")
    return _ended(options.file, findings)


def _ended(path: str, findings: "Findings") -> int:
    """Tells why a motion stopped; gives the exit code."""
    motion = findings.motion
    if motion.stop is not None:
        _told(path, motion.stop.text)
    return 1 if motion.stop is not None or findings.open else 0


def _would_overwrite(path: str, outputs: "Sequence[str | None]") -> str:
    """What is wrong with the files to write: none may be the document itself, nor another of them."""
    targets = [out for out in outputs if out is not None and out != "-"]
    for out in targets:
        try:
            if os.path.samefile(out, path):
                return f"{out}: is the document itself; write to another file"
        except (OSError, ValueError):
            continue  # not there yet, or told when it is opened
    if len({os.path.realpath(out) for out in targets}) < len(targets) or list(outputs).count("-") > 1:
        return f"{outputs[0]}: is named twice; write table and findings to two places"
    return ""


def check(options: argparse.Namespace) -> int:
    """``anakinema check``: prints the checks as a table."""
    from .formats.results import check_table

    findings = _findings(options.file, None)
    if findings is None:
        return 2
    sys.stdout.write(check_table(findings) if findings.verdicts else "no checks in this document\n")
    return _ended(options.file, findings)


def modes(options: argparse.Namespace) -> int:
    """``anakinema modes``: the configurations at the start of the motion, by their joint coordinates."""
    from .formats.project import save
    from .formats.results import modes_table
    from .kinematics.modes import modes as found_modes
    from .kinematics.modes import placed
    from .kinematics.simulation import simulate

    motion = _loaded(options.file, lambda document: simulate(document, 1))
    if motion is None:
        return 2
    found = found_modes(motion)
    if options.take is None:
        sys.stdout.write(modes_table(motion, found))
        return 0
    number, out = options.take
    if not number.isdecimal() or not 1 <= int(number[:8]) <= len(found.ways):
        return _told(options.file, f"there is no way '{number[:20]}'; there are ways 1 to {len(found.ways)}")
    if fault := _would_overwrite(options.file, (out,)):
        return _told(*fault.split(": ", 1))
    chosen = found.ways[int(number) - 1]
    if chosen.outside:
        sys.stderr.write(f"{options.file}: way {number} lies outside the limits of {', '.join(chosen.outside)}\n")
    try:
        save(Path(out), placed(motion.document, motion, chosen.q))
    except OSError as error:
        return _told(out, f"can't be written: {error.strerror or error}")
    return 0


def shop(options: argparse.Namespace) -> int:
    """``anakinema shop``: prints what is found without being asked, and the cautions; exit code 1 where something is
    found that is not waived."""
    from .findings import analyse
    from .formats.shop import cautions_json, shop_json, shop_text

    if fault := _would_overwrite(options.file, (options.json,)):
        return _told(*fault.split(": ", 1))
    findings = _loaded(options.file, analyse)
    if findings is None:
        return 2
    told = {"shop": shop_json(findings), "cautions": cautions_json(findings)}
    open_ones = any(not one.waived for one in findings.shop)
    return _json_or_text(options.json, told, lambda: shop_text(findings), 1 if open_ones else 0)


def mass(options: argparse.Namespace) -> int:
    """``anakinema mass``: prints the masses as a table; exit code 1 where some are not known."""
    from .formats.masses import mass_json, mass_table
    from .kinematics.simulation import simulate

    if fault := _would_overwrite(options.file, (options.json,)):
        return _told(*fault.split(": ", 1))
    motion = _loaded(options.file, lambda document: simulate(document, 1))
    if motion is None:
        return 2
    told = mass_json(motion)
    return _json_or_text(options.json, told, lambda: mass_table(motion, told), 1 if told["unknown"] else 0)


def _json_or_text(out: str | None, told: dict[str, Any], text: Callable[[], str], code: int) -> int:
    """Writes what was found as JSON where that is wanted, and tells it unless that went to standard output; gives the
    exit code."""
    try:
        if out is not None:
            _write(out, json.dumps(told, ensure_ascii=False, allow_nan=False, indent=1) + "\n")
    except OSError as error:
        return _told(error.filename or "output", f"can't be written: {error.strerror or error}")
    if out != "-":
        sys.stdout.write(text())
    return code


def bring(options: argparse.Namespace) -> int:
    """``anakinema import``: parts from a drawing; tells what was left out or mended."""
    from .document import changed, read_document
    from .formats.drawings.bounded import read_within
    from .formats.project import save
    from .geometry.drawn import GAP, Chosen, outlined
    from .operations.importing import add_outlines

    if fault := _would_overwrite(options.file, (options.out,)):
        return _told(*fault.split(": ", 1))
    try:
        drawing = read_within(Path(options.file))
        unknown = [name for name in options.layer if name not in drawing.layers]
        if unknown:
            known = ", ".join(f"'{name}'" for name in list(drawing.layers)[:FAULT_LINES]) or "none"
            return _told(options.file, f"has no layer '{unknown[0]}' with curves; its layers are {known}")
        unit = options.unit or drawing.unit or "mm"
        chosen = Chosen(1.0, max(drawing.reach * GAP, 1e-9), tuple(options.layer or drawing.layers))
        found = outlined(drawing, chosen)
        empty = read_document({"anakinema": 1, "title": Path(options.file).stem, "units": {"length": unit}})
        document = changed(empty, *add_outlines(empty, found.outlines).changes)
    except DocumentError as error:
        for wrong in error.faults[:FAULT_LINES]:
            _told(options.file, str(wrong))
        return 2
    try:
        save(Path(options.out), document)
    except OSError as error:
        return _told(options.out, f"can't be written: {error.strerror or error}")
    told = [*drawing.report, *found.remarks]
    if not options.unit and not drawing.unit:
        told.insert(0, "does not say in what unit it is: millimetres are taken")
    for line in told:
        sys.stderr.write(f"{options.file}: {_line(line)}\n")
    print(found.counted)
    return 0 if drawing.complete and not found.remarks else 1


def cam(options: argparse.Namespace) -> int:
    """``anakinema cam``: writes a profile."""
    from .document.expressions import ExpressionError
    from .formats.cam_files import write_cam

    if fault := _would_overwrite(options.file, (options.out,)):
        return _told(*fault.split(": ", 1))

    def act(document: "Document") -> int:
        sizes = []
        for option in ("tolerance", "cutter"):
            text = getattr(options, option)
            try:
                sizes.append(0.0 if text is None else document.worth(text, "length"))
            except ExpressionError as error:
                return _told(options.file, f"--{option}: {error}")
            if text is not None and not 0.0 < sizes[-1] < float("inf"):
                return _told(options.file, f"--{option}: a length above zero is wanted, this is '{text}'")
        try:
            write_cam(Path(options.out), document, options.joint, options.points, *sizes)
        except ValueError as error:
            return _told(options.out, str(error))
        except OSError as error:
            return _told(options.out, f"can't be written: {error.strerror or error}")
        return 0

    code = _loaded(options.file, act)
    return 2 if code is None else code


def study(options: argparse.Namespace) -> int:
    """``anakinema tune`` and its like: tells what a study finds, and writes it where that is asked for."""
    from .studies.types import act

    if fault := _would_overwrite(options.file, (options.csv, options.json)):
        return _told(*fault.split(": ", 1))
    outcome = _loaded(options.file, lambda document: act(options, document))
    if outcome is None:
        return 2
    code, text, as_csv, as_object = outcome
    try:
        if options.csv is not None:
            _write(options.csv, as_csv())
        if options.json is not None:
            _write(options.json, json.dumps(as_object(), ensure_ascii=False, allow_nan=False, indent=1) + "\n")
    except OSError as error:
        return _told(error.filename or "output", f"can't be written: {error.strerror or error}")
    if "-" not in (options.csv, options.json):
        sys.stdout.write(text)
    return code


def _findings(path: str, steps: int | None) -> "Findings | None":
    from .findings import analyse
    from .findings.advice import unwatched

    findings = _loaded(path, lambda document: analyse(document, steps))
    if findings is not None and (text := unwatched(findings.unwatched)):
        _told(path, f"clearance: {text}")
    return findings


def _loaded(path: str, act: "Callable[[Document], T]") -> "T | None":
    """What comes of a document in a file, or None when it can't be read or makes no sense, which is then told."""
    from .findings.advice import zero_lengths
    from .formats.project import load

    try:
        document, _ = load(Path(path))
        for warning in document.warnings[:FAULT_LINES]:
            sys.stderr.write(f"{path}: {_line(str(warning))}\n")
        for part, joints in zero_lengths(document):
            text = f"joints {' and '.join(joints)} hold it at one and the same point: that link has no length"
            sys.stderr.write(f"{path}: parts.{part}: {text}\n")
        return act(document)
    except DocumentError as error:
        for fault in error.faults[:FAULT_LINES]:
            sys.stderr.write(f"{path}: {_line(str(fault))}\n")
        if len(error.faults) > FAULT_LINES:
            sys.stderr.write(f"{path}: and {len(error.faults) - FAULT_LINES} more\n")
        return None


def _line(text: str) -> str:
    """Text on one line, whatever a hostile file put into its names."""
    return elided("".join(char if char.isprintable() else "�" for char in text))[:600]


def _write(target: str, text: str) -> None:
    if target == "-":
        sys.stdout.write(text)
    else:
        from .formats.writing import write_whole

        path = Path(target)
        if path.exists() and not path.is_file():  # a pipe or a terminal
            path.write_text(text, encoding="utf-8")
        else:
            write_whole(path, text.encode())


if __name__ == "__main__":
    sys.exit(main())
