"""The command line, as the contract says: outputs, exit codes, one line for each error, never a traceback."""

import contextlib
import csv
import io
import json
import os
import signal
import subprocess
import sys
import time
from importlib.resources import as_file, files
from pathlib import Path

import pytest

from anakinema.cli import main, say_what_is_compiled
from anakinema.compiling import store
from anakinema.formats import project
from anakinema.letters import nearest
from mechanisms import four_bar, slider_crank, turn
from patience import patient


@pytest.fixture
def file(tmp_path):
    def write(tree):
        path = tmp_path / "mechanism.anakinema"
        path.write_text(tree if isinstance(tree, str) else json.dumps(tree), encoding="utf-8")
        return str(path)

    return write


def ram(**more):
    return slider_crank(
        30, 100, 0, drivers=turn(60, 420, 12, rate="60 rpm"), traces={"end": {"point": "rod.B"}}, **more
    )


def test_a_table_with_rates_has_them_behind_all_other_columns(file, tmp_path):
    """Of each joint with a coordinate; at a constant turn the crank's are the rate and none."""
    out, plain = tmp_path / "rates.csv", tmp_path / "plain.csv"
    path = file(ram())
    assert main(["run", path, "--csv", str(out), "--rates"]) == main(["run", path, "--csv", str(plain)]) == 0
    lines, before = out.read_text().splitlines(), plain.read_text().splitlines()
    assert all(line.startswith(old) for line, old in zip(lines, before, strict=True))
    rows = list(csv.DictReader(lines))
    assert [float(row["main.v"]) for row in rows] == pytest.approx([360.0] * 13)
    assert [float(row["main.a"]) for row in rows] == pytest.approx([0.0] * 13, abs=1e-6)
    assert {"ram.v", "ram.a"} <= set(rows[0]) or len([name for name in rows[0] if name.endswith(".v")]) > 1


def test_free_travel_is_told_both_ways_with_what_ends_it(file, capsys):
    """A crank turns all around; the slide is stopped by the limit of the crank."""
    path = file(ram())
    assert main(["travel", path, "main", "--json", "-"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["low"]["by"] == found["high"]["by"] == "turn"
    limited = ram()
    limited["joints"]["main"]["limits"] = {"min": 20, "max": 100}
    slide = next(name for name, one in limited["joints"].items() if one["type"] == "prismatic")
    assert main(["travel", file(limited), slide, "--json", "-"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert {found[end]["by"] for end in ("low", "high")} == {"limit"} and found["low"]["what"] == ["main"]
    assert main(["travel", path, "nothing"]) == 2 and "no such joint" in capsys.readouterr().err


def test_run_writes_the_table_and_the_findings(file, tmp_path):
    out, found = tmp_path / "t.csv", tmp_path / "t.json"
    stroke = {"stroke": {"measure": "travel", "joint": "ram", "at_least": 59}}
    assert main(["run", file(ram(checks=stroke)), "--steps", "24", "--csv", str(out), "--json", str(found)]) == 0
    rows = list(csv.reader(io.StringIO(out.read_text())))
    assert rows[0] == [
        "step",
        "time",
        "main",
        "big-end",
        "small-end",
        "ram",
        "end.x",
        "end.y",
        "end.vx",
        "end.vy",
        "end.ax",
        "end.ay",
    ]
    assert len(rows) == 26 and [row[0] for row in rows[1:]] == [str(k) for k in range(25)]
    assert float(rows[-1][1]) == pytest.approx(1.0) and float(rows[-1][2]) == pytest.approx(420.0)
    assert repr(float(rows[5][5])) == rows[5][5]  # round-trips a double
    message = json.loads(found.read_text())
    assert set(message) >= {"mobility", "joints", "clearance", "checks", "stopped"}
    assert message["mobility"] == {"dof": 1, "redundant": [], "count": 1, "because": {}} and message["stopped"] is None
    assert message["behaviour"]["ram"] == {"time_ratio": pytest.approx(1, abs=1e-6), "dwells": []}
    assert message["joints"]["ram"]["travel"] == pytest.approx(60, abs=1e-9)
    assert message["checks"]["stroke"]["pass"] is True and message["checks"]["stroke"]["value"] == pytest.approx(60)


def test_a_failed_check_is_1_and_the_table_says_where(file, capsys):
    stroke = {"stroke": {"measure": "travel", "joint": "ram", "at_least": 61}}
    assert main(["check", file(ram(checks=stroke))]) == 1
    message = capsys.readouterr().out
    assert "FAIL" in message and "≥ 61 mm" in message and "−1 mm" in message


def test_a_stopped_motion_is_1_and_its_results_are_written(file, tmp_path, capsys):
    tree = four_bar(70, 40, 60, 80, drivers=turn(40, 180, 140))
    found = tmp_path / "t.json"
    assert main(["run", file(tree), "--json", str(found)]) == 1
    stopped = json.loads(found.read_text())["stopped"]
    assert stopped["reason"] == "dead point" and 40 < stopped["driver"] < 180
    assert "dead point" in capsys.readouterr().err


def test_a_pair_that_never_shares_depth_passes_with_null(file, tmp_path):
    tree = ram(checks={"gap": {"measure": "clearance", "parts": ["crank", "slider"], "at_least": 1}})
    found = tmp_path / "t.json"
    assert main(["run", file(tree), "--json", str(found)]) == 0
    message = json.loads(found.read_text())["checks"]["gap"]
    assert message.pop("reason") == "the parts never share depth" and message.pop("outcome") == "pass"
    assert message == {"value": None, "pass": True, "at": pytest.approx(60.0)}


HOSTILE = [
    ("", "is empty"),
    ("{", "is not valid JSON"),
    (
        '{"anakinema": 1, "parts": {"a": {"points": {"P": ["thorw", 0]}}}, "parameters": {"throw": 1}}',
        "parts.a.points.P: unknown parameter 'thorw' (did you mean 'throw'?)",
    ),
    ('{"anakinema": 1, "parts": {"a\\nb": {}}}', "parts.a�b: a name may hold only"),
    ('{"anakinema": 1, "parts": {"a": {"pose": ["9^9^9^9", 0, 0]}}}', "has no finite value"),
    ('{"anakinema": 1, "parts": {"a": {"pose": [1e300, 0, 0]}}}', "too large to be meant"),
]


@pytest.mark.parametrize(("text", "message"), HOSTILE)
def test_what_can_not_be_read_is_2_in_one_line(file, capsys, text, message):
    path = file(text)
    for command in ("run", "check"):
        assert main([command, path]) == 2
        error = capsys.readouterr().err
        assert error.startswith(f"{path}: ") and message in error and error.count("\n") == 1


def test_missing_files_and_wrong_options_are_2(file, capsys, tmp_path):
    assert main(["run", str(tmp_path / "none.json")]) == 2
    assert "can't be read: No such file" in capsys.readouterr().err
    assert main(["check", str(tmp_path)]) == 2
    assert "is a folder" in capsys.readouterr().err
    assert main(["run", file(ram()), "--csv", str(tmp_path / "no" / "where.csv")]) == 2
    assert "can't be written" in capsys.readouterr().err
    for words in (["run"], ["run", "x", "--steps", "0"], ["run", "x", "--steps", "many"], ["run", "x", "--wrong"]):
        with pytest.raises(SystemExit) as ended:
            main(words)
        assert ended.value.code == 2
        assert capsys.readouterr().err.count("\n") == 1


def test_ways_to_put_it_together_are_listed_and_taken(file, tmp_path, capsys):
    path, out = file(four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36))), tmp_path / "other.anakinema"
    assert main(["modes", path]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert len(lines) == 4 and lines[0].split() == ["way", "main", "crankpin", "elbow", "pivot"]
    assert "57.3249°" in lines[2] and "−98.005°" in lines[3]
    assert main(["modes", path, "--take", "2", str(out)]) == 0
    assert main(["modes", str(out)]) == 0
    assert "−98.005°" in capsys.readouterr().out.splitlines()[2]
    assert main(["modes", path, "--take", "3", str(out)]) == 2
    assert "there are ways 1 to 2" in capsys.readouterr().err


def contradiction():
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400))
    tree["joints"]["strut"] = {"type": "distance", "a": "frame.O", "b": "coupler.A", "length": 75}
    return tree


def test_contradictory_joints_are_named_with_their_parts(file, capsys):
    assert main(["run", file(contradiction())]) == 2
    message = capsys.readouterr().err
    assert "joints.strut: can't close: 'frame.O' and 'coupler.A' stay open by about" in message
    assert all(line.startswith(str(file(contradiction()))) for line in message.splitlines())


def test_a_link_without_length_is_told(file, capsys):
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 80, 4))
    tree["parts"]["flag"] = {"points": {"P": [0, 0], "Q": [0, 0]}, "pose": [220, 50, 0]}
    tree["parts"]["tag"] = {"points": {"P": [0, 0]}, "pose": [220, 50, 0]}
    tree["joints"]["hinge"] = {"type": "revolute", "a": "rocker.B", "b": "flag.P"}
    tree["joints"]["hang"] = {"type": "revolute", "a": "flag.Q", "b": "tag.P"}
    main(["run", file(tree)])
    assert "parts.flag: joints hinge and hang hold it at one and the same point" in capsys.readouterr().err


def test_too_many_steps_are_refused_in_words(file, capsys):
    tree = ram()
    tree["parts"] |= {f"p{k}": {} for k in range(200)}
    assert main(["run", file(tree), "--steps", "1000000"]) == 2
    assert "ask for fewer steps" in capsys.readouterr().err


def test_an_enormous_mechanism_is_refused_in_words(file, capsys):
    parts = {f"p{k}": {"points": {"O": [k, 0]}} for k in range(4000)}
    joints = {f"j{k}": {"type": "distance", "a": f"p{k}.O", "b": f"p{k + 1}.O", "length": 1} for k in range(3999)}
    assert main(["run", file({"anakinema": 1, "parts": parts, "joints": joints})]) == 2
    assert "4000 moving parts with motions left undriven" in capsys.readouterr().err


def test_a_run_loads_nothing_that_it_does_not_use():
    """And what it leaves out of NumPy is there as ever for who names it."""
    code = (
        "import sys; from anakinema.cli import main\n"
        "try: main()\n"
        "except SystemExit: pass\n"
        "loaded = list(sys.modules)\n"
        "import numpy, scipy.optimize; assert numpy.f2py and numpy.random.default_rng and 'f2py' in dir(numpy)\n"
        "sys.stderr.write(' '.join(loaded))"
    )
    with as_file(files("anakinema").joinpath("examples/sewing-head.anakinema")) as path:
        command = [sys.executable, "-c", code, "run", str(path)]
        done = subprocess.run(command, capture_output=True, text=True, check=True)
    loaded = set(done.stderr.split())
    assert "scipy.sparse.linalg" in loaded
    unused = (
        "numpy.f2py", "numpy.testing", "numpy.ctypeslib", "unittest", "importlib.metadata", "ezdxf",
        "asyncio", "multiprocessing", "scipy.spatial", "scipy.optimize", "scipy.interpolate", "scipy.stats", "numba",
    )  # fmt: skip
    assert not [name for name in unused if name in loaded]


def test_the_demo_runs_as_a_command_of_its_own(tmp_path):
    path = tmp_path / "demo.anakinema"
    project.save(path, *project.demo())
    command = [sys.executable, "-m", "anakinema.cli", "check", str(path)]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 1 and done.stderr == "" and done.stdout.count("FAIL") == 1


def bare(**sections):
    return {"anakinema": 1, "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}}, **sections}


def shaped(*shapes):
    return bare(parts={"frame": {"fixed": True, "points": {"O": [0, 0]}, "shapes": list(shapes)}})


def pinned(**joint):
    parts = {"frame": {"fixed": True, "points": {"O": [0, 0], "P": [1, 0]}}, "arm": {"points": {"O": [0, 0]}}}
    return bare(parts=parts, joints={"pin": {"type": "revolute", "a": "frame.O", "b": "arm.O", **joint}})


FIXED = {"fixed": True, "points": {"O": [0, 0]}}
BOW = [[0, 0], [10, 10], [10, 0], [0, 10]]
REFUSED = [
    (bare(joints=[]), "joints: an object is wanted, this is a list"),
    (bare(joints="x"), "joints: an object is wanted"),
    (bare(parts={"frame": FIXED, "z": {"points": {"P": ["9**9**9**9 mm", 0]}}}), "parts.z.points.P"),
    (bare(parameters={"big": {"value": "(1 mm)^(1e9)"}}), "parameters.big"),
    (pinned(b="arm.Z"), "joints.pin.b: part 'arm' has no point 'Z'; it has O"),
    (pinned(a="frame.Z"), "it has O and P"),
    (bare(parts=1), "parts: an object is wanted, this is a number"),
    (shaped({"kind": "polygon", "vertices": [[0, 0], [1, 0], [2, 0]]}), "parts.frame.shapes.0"),
    (shaped({"kind": "polygon", "vertices": [[0, 0]]}), "parts.frame.shapes.0"),
    (shaped({"kind": "polygon", "vertices": BOW}), "crosses itself"),
    (shaped({"kind": "polygon", "vertices": [[0, 0], [9, 0], [9, 9]], "corner_radius": -1}), "must be at least 0"),
    (shaped({"kind": "disc", "center": [1e12, 0], "diameter": 5}), "too large"),
]


@pytest.mark.parametrize(("tree", "message"), REFUSED)
def test_nonsense_is_refused_with_its_place(file, capsys, tree, message):
    path = file(tree)
    assert main(["run", path]) == 2
    error = capsys.readouterr().err
    assert message in error and error.startswith(f"{path}: ") and "mistake of this program" not in error


ANSWERED = [
    (bare(), 0),
    (bare(parts={"frame": FIXED, "wall": FIXED}), 0),
    (bare(parts={"frame": FIXED, "wall": FIXED}, joints={"j": {"type": "fixed", "a": "frame.O", "b": "wall.O"}}), 0),
    (bare(parts={"frame": FIXED, "wall": FIXED}, joints={"j": {"type": "revolute", "a": "frame.O", "b": "wall.O"}}), 0),
    (bare(parts={}), 2),
    (bare(joints=None), 2),
    (pinned(limits={"min": -1e9}), 0),
]


@pytest.mark.parametrize(("tree", "code"), ANSWERED)
def test_what_is_bare_is_answered(file, capsys, tree, code):
    for words in (["run", file(tree)], ["check", file(tree)], ["modes", file(tree)]):
        assert main(words) == code, capsys.readouterr().err
        assert "mistake of this program" not in capsys.readouterr().err


def test_a_motion_of_a_thousand_million_degrees_is_refused_or_run(file, capsys):
    tree = pinned()
    tree["drivers"] = {"turn": {"joint": "pin", "to": 1e9, "steps": 10}}
    assert main(["run", file(tree)]) in (0, 2)
    assert "mistake of this program" not in capsys.readouterr().err


def test_a_long_name_leaves_room_for_the_reason(file, capsys):
    tree = bare()
    tree["parts"]["n" * 10_000] = {"pose": ["1 kg", 0, 0]}
    assert main(["run", file(tree)]) == 2
    error = capsys.readouterr().err
    assert len(error) < 1000 and "kg" in error


def test_thousands_of_misspelt_names_are_told_at_once(file, capsys):
    tree = bare(parameters={f"length{k}": {"value": k} for k in range(1000)})
    tree["parts"] |= {f"p{k}": {"points": {"P": [f"lenght{k}", 0]}} for k in range(1000)}
    assert main(["run", file(tree)]) == 2
    error = capsys.readouterr().err
    assert "did you mean 'length0'" in error and "and 950 more" in error


def test_outputs_never_overwrite_the_document(file, tmp_path, capsys):
    path = file(ram())
    before = Path(path).read_bytes()
    (tmp_path / "link").symlink_to(path)
    for words in (["--csv", path], ["--json", path], ["--csv", str(tmp_path / "link")]):
        assert main(["run", path, *words]) == 2
        assert "is the document itself" in capsys.readouterr().err
    assert main(["modes", path, "--take", "1", path]) == 2
    assert main(["run", path, "--csv", str(tmp_path / "x"), "--json", str(tmp_path / "x")]) == 2
    assert Path(path).read_bytes() == before and not (tmp_path / "x").exists()


@pytest.mark.parametrize("command", ["run", "check", "modes"])
def test_what_is_no_file_is_refused_and_never_waited_for(command, tmp_path, capsys):
    os.mkfifo(tmp_path / "pipe")
    for path in ("/dev/zero", str(tmp_path / "pipe"), str(tmp_path / ("n" * 300)), "a\0b"):
        assert main([command, path]) == 2
        assert capsys.readouterr().err.count("\n") == 1


@pytest.mark.parametrize("encoding", ["ascii", "latin-1", "utf-8"])
def test_any_standard_output_will_do(file, encoding):
    tree = ram(checks={"stroke": {"measure": "travel", "joint": "ram", "at_least": 61}})
    command = [sys.executable, "-W", "error", "-m", "anakinema.cli", "check", file(tree)]
    done = subprocess.run(command, capture_output=True, env={**os.environ, "PYTHONIOENCODING": encoding}, check=False)
    assert done.returncode == 1 and b"FAIL" in done.stdout and done.stderr == b""


def test_a_full_standard_output_is_told(file):
    with open("/dev/full", "wb") as full:
        command = [sys.executable, "-m", "anakinema.cli", "check", file(ram())]
        done = subprocess.run(command, stdout=full, stderr=subprocess.PIPE, check=False)
    assert done.returncode == 2 and b"No space left" in done.stderr and b"Traceback" not in done.stderr


def test_only_what_passes_passes(file, tmp_path, capsys):
    """A joint that is suspended moves nothing: its check is not judged, and the command says so with its code."""
    checks = {"stroke": {"measure": "travel", "joint": "ram", "at_least": 500}}
    tree = ram(checks=checks)
    tree["joints"]["ram"]["suspended"] = True
    found = tmp_path / "t.json"
    assert main(["run", file(tree), "--json", str(found)]) == 1
    message = json.loads(found.read_text())["checks"]["stroke"]
    assert message["outcome"] == "not judged" and message["pass"] is False and "suspended" in message["reason"]
    assert main(["check", file(tree)]) == 1
    assert "not judged" in capsys.readouterr().out.lower()


def test_the_report_says_that_it_is_not_there(capsys):
    assert main(["report", "x.anakinema"]) == 2
    assert "'report' is not there yet" in capsys.readouterr().err


AS_A_COMMAND = (
    "import signal, sys; signal.signal(signal.SIGINT, signal.default_int_handler); "
    "from anakinema.cli import main; sys.exit(main())"
)
"""The command as a shell starts it: Ctrl+C reaches it, even if the tests run in the background."""


def command(*arguments, **options):
    """A command in a process of its own."""
    return subprocess.Popen(
        [sys.executable, "-c", AS_A_COMMAND, *map(str, arguments)], text=True, stdin=subprocess.DEVNULL,
        **{"stdout": subprocess.PIPE, "stderr": subprocess.PIPE, **options},
    )  # fmt: skip


def until(true):
    """Waits for something, a minute at most."""
    end = time.monotonic() + patient(60)
    while not true():
        assert time.monotonic() < end
        time.sleep(0.05)


def children(process):
    """The processes that a process has started, and that are still there."""
    with contextlib.suppress(FileNotFoundError):
        return Path(f"/proc/{process.pid}/task/{process.pid}/children").read_text().split()
    return []


@pytest.mark.parametrize(("ended", "code"), [(signal.SIGINT, 130), (signal.SIGTERM, -15), (signal.SIGKILL, -9)])
def test_a_study_that_is_ended_takes_its_workers_along_without_a_word(tmp_path, ended, code):
    path = tmp_path / "demo.anakinema"
    project.save(path, *project.demo())
    study = command("sweep", path, "throw=12:18:90000", "--jobs", 3)
    until(lambda: len(children(study)) >= 2)
    workers = children(study)
    study.send_signal(ended)
    out, told = study.communicate(timeout=patient(60))
    assert (study.returncode, out, told) == (code, "", "")
    until(lambda: not any(is_alive(worker) for worker in workers))


def is_alive(pid):
    with contextlib.suppress(OSError):
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    return False


@pytest.mark.parametrize("closed", ["1>&-", "2>&-", "1>&- 2>&-", "| true"])
def test_output_that_is_closed_ends_quietly(tmp_path, closed):
    path = tmp_path / "demo.anakinema"
    project.save(path, *project.demo())
    line = f"set -o pipefail; {sys.executable} -m anakinema.cli check {path} {closed}"
    done = subprocess.run(["bash", "-c", line], capture_output=True, text=True, check=False)
    assert done.returncode == 1 and done.stderr == ""


def test_errors_speak_of_what_was_typed(tmp_path, monkeypatch, capsys):
    """The path and the number as they were given; a value below zero is no option; nothing of the language within."""
    monkeypatch.chdir(tmp_path)
    project.save(Path("demo.anakinema"), *project.demo())
    (tmp_path / "bad.anakinema").write_text("{")
    for words, said in (
        (["run", ".//nothing.anakinema"], ".//nothing.anakinema: "),
        (["check", "./bad.anakinema"], "./bad.anakinema: "),
        (["run", "demo.anakinema", "--steps", "1e3"], "'1e3' is not a whole number from 1 to 1,000,000"),
        (["tolerances", "demo.anakinema", "--builds", "many"], "'many' is not a whole number from 1 on"),
        (["tolerances", "demo.anakinema", "--seed", "-1"], "'-1' is not a whole number from 0 on"),
    ):  # fmt: skip
        with contextlib.suppress(SystemExit):
            assert main(words) == 2
        told = capsys.readouterr().err
        assert said in told and "invalid" not in told and "Error" not in told
    assert main(["tune", "demo.anakinema", "throw", "joints.ram.min", "--want", "-5"]) == 1
    assert "is to be −5 mm" in capsys.readouterr().out


def test_a_terminal_of_few_letters_is_told_in_those(tmp_path):
    path = tmp_path / "demo.anakinema"
    project.save(path, *project.demo())
    for encoding in ("ascii", "latin-1"):
        environment = {**os.environ, "PYTHONIOENCODING": encoding}
        told, _ = command("check", path, env=environment, encoding=encoding).communicate()
        assert "?" not in told and ">= 30 mm" in told and " -0.2659 mm" in told and "<= 60" in told
    assert "".join(map(nearest, "≥≤−é字")) == ">=<=-e<U+5B57>"


def test_where_nothing_can_be_kept_the_first_start_says_so_and_how_far_it_is(capsys, monkeypatch):
    for folder, said in ((Path("/somewhere"), "once after an installation"), (None, "every start compiles")):
        monkeypatch.setattr(store, "LISTENERS", [])
        monkeypatch.setattr(store, "where_to_keep", lambda folder=folder: folder)
        say_what_is_compiled()
        for share in (0.0, 0.05, 0.3, 0.62, 1.0):
            monkeypatch.setattr(store, "compiled_share", lambda share=share: share)
            store.tell()
        first, *rest = capsys.readouterr().err.splitlines()
        assert said in first and [line.split()[1] for line in rest] == ["30", "62", "99"]


def test_cam_writes_a_profile_or_says_why_not(file, tmp_path, capsys):
    from cams import cam

    path = file(cam())
    for form in ("csv", "dxf", "svg", "pdf"):
        out = tmp_path / f"p.{form}"
        assert main(["cam", path, "ride", str(out), "--tolerance", "0.01 mm"]) == 0 and out.stat().st_size > 1000
    assert main(["cam", path, "ride", str(tmp_path / "few.csv"), "--points", "12"]) == 0
    assert len((tmp_path / "few.csv").read_text().splitlines()) == 13
    capsys.readouterr()
    for more, says in (
        (["lift", "p.csv"], "joints.lift: is no cam; the cams of this document are 'ride'"),
        (["ride", "p.step"], "a cam is written as .csv, .dxf, .svg, .pdf"),
        (["ride", "p.dxf", "--cutter", "wide"], "--cutter: unknown parameter 'wide'"),
        (["ride", "p.dxf", "--tolerance", "-1"], "--tolerance: a length above zero is wanted"),
        (["ride", path], "is the document itself"),
        (["ride", str(tmp_path / "none" / "p.dxf")], "can't be written"),
    ):
        assert main(["cam", path, *more]) == 2
        told = capsys.readouterr().err
        assert says in told and told.count("\n") == 1
    found = tmp_path / "found.json"
    assert main(["run", path, "--json", str(found)]) == 0
    one = json.loads(found.read_text())["cams"]["ride"]
    assert one["base"] == pytest.approx(24) and one["lift"] == pytest.approx(12) and one["undercut"] == []
    assert one["pressure_angle"]["value"] == pytest.approx(23.2330, abs=1e-4) and one["face"] is None
