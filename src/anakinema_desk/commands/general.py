"""The commands that are the window's own: files, what is shown, the motion, help."""

from functools import partial
from typing import TYPE_CHECKING

from anakinema.formats import project

from .registry import Command

if TYPE_CHECKING:
    from ..window import Window

STUDIES = {
    "tune": ("Tune a number", "Ctrl+1", "Which values of a parameter give what is wanted; a slider to try any"),
    "sweep": ("Sweep", "Ctrl+2", "A map of what passes over one parameter or two"),
    "tolerances": ("Tolerances", "Ctrl+3", "What it does to the checks when sizes are not quite right"),
    "plot": ("Plot one against another", "Ctrl+5", "Two quantities of the motion against each other"),
    "arrange": ("Arrange layers", "Alt+A", "The fewest layers in which nothing collides through the whole motion"),
    "swept": ("Swept area", "Alt+S", "The area that a part sweeps, as a ghost on the bench and as a drawing"),
    "trials": ("Trials", "Ctrl+4", "Every change so far, with what the checks said before and after"),
}


def _studies(window: "Window", name: str) -> bool:
    """Whether a study is the one that is looked at."""
    return window.below.currentWidget() is window.studies and window.studies.chosen == name


def commands(window: "Window") -> list[Command]:
    """The commands of files, of the view and of the motion, with those of all subjects among them, menu by menu."""
    session = window.session

    def loaded() -> bool:
        return session.document is not None

    def moving() -> bool:
        return session.end > 0

    return [
        Command("new", "New", "File", window.files.new, "Ctrl+N"),
        Command("open", "Open…", "File", window.files.open, "Ctrl+O"),
        *(
            Command(f"example-{name}", f"Open example: {title}", "", partial(window.files.open_example, name))
            for name, title in project.EXAMPLES.items()
        ),
        Command("save", "Save", "File", window.files.save, "Ctrl+S", enabled=loaded, divider=True),
        Command("save-as", "Save as…", "File", window.files.save_as, "Ctrl+Shift+S", enabled=loaded),
        *window.drawings.commands(),
        Command("quit", "Quit", "File", window.close, "Ctrl+Q", divider=True),
        Command("undo", "Undo", "Edit", session.undo, "Ctrl+Z", enabled=lambda: bool(session.editor.undo_stack)),
        Command(
            "redo",
            "Redo",
            "Edit",
            session.redo,
            "Ctrl+Shift+Z | Ctrl+Y",
            enabled=lambda: bool(session.editor.redo_stack),
        ),
        Command(
            "place",
            "Place it as put by hand",
            "Edit",
            lambda: session.posing.keep(),
            "Ctrl+Return",
            enabled=lambda: session.posing.posed is not None,
        ),
        Command(
            "mode",
            "Put together another way",
            "Edit",
            lambda: session.next_mode(),
            "Ctrl+M",
            enabled=lambda: session.motion is not None,
            hint="The next configuration in which the same joints close",
        ),
        Command("deselect", "Select nothing", "Edit", lambda: session.selection.select(""), "Ctrl+D", divider=True),
        Command("last-message", "Show the last message again", "View", lambda: window.banner.again(), "Ctrl+Shift+M",
                hint="What was told last; again, what was told before"),
        Command("next-panel", "Next panel", "View", lambda: window.keyboard.next_place(1), "F6",
                hint="The keyboard goes from the bench to the make-up, the card and what stands below"),
        Command("panel-before", "Panel before", "View", lambda: window.keyboard.next_place(-1), "Shift+F6"),
        Command("find", "Find…", "Edit", lambda: window.palette_box.look_for(), "Ctrl+F",
                enabled=lambda: session.document is not None,
                hint="A part, joint, point, parameter, check by its name or label"),
        Command("palette", "Find a command…", "Edit", lambda: window.palette_box.open(), "Ctrl+K | Ctrl+Shift+P"),
        *window.together.commands(),
        *window.fastening.commands(),
        *window.build.commands(),
        *window.study.commands(),
        *window.look.commands(),
        Command("fit", "Fit to the bench", "View", window.fit, "Ctrl+0", enabled=loaded),
        Command("plan", "Plan", "View", lambda: window.look_from(window.canvas), "Alt+1", enabled=loaded, divider=True,
                checked=lambda: window.bench.currentWidget() is window.canvas,
                hint="The mechanism from the front, where all is built and moved"),
        Command("depth", "Depth", "View", lambda: window.look_from(window.side), "Alt+2", enabled=loaded,
                checked=lambda: window.bench.currentWidget() is window.side,
                hint="The stack from the side: parts are dragged to another depth, face to face"),
        Command("lifted", "Lifted", "View", lambda: window.look_from(window.lifted), "Alt+3", enabled=loaded,
                checked=lambda: window.bench.currentWidget() is window.lifted,
                hint="The mechanism slanted, its layers spread by a slider"),
        Command("spread", "Spread the layers evenly", "View", window.spread_evenly, "Alt+E", enabled=loaded,
                checked=lambda: window.side.even,
                hint="In the depth view all layers are equally thick, or to scale again"),
        Command("cut-stack", "Cut the stack here", "View", window.cut_stack, "Alt+X",
                enabled=lambda: loaded() and (window.session.display_state.cut is not None or
                                              window.session.selection.current()[0] in ("joints", "parts")),
                checked=lambda: window.session.display_state.cut is not None,
                hint="The depth view shows a cut through the joint or the part that is selected; again, the whole"),
        Command("zoom-in", "Zoom in", "View", lambda: window.canvas.zoom(1.25), "Ctrl++ | Ctrl+="),
        Command("zoom-out", "Zoom out", "View", lambda: window.canvas.zoom(0.8), "Ctrl+-"),
        Command(
            "symbols",
            "Joint symbols",
            "View",
            lambda: window.toggle("show_symbols"),
            "Ctrl+J",
            checked=lambda: window.canvas.show_symbols,
            divider=True,
        ),
        Command(
            "traces",
            "Traces",
            "View",
            lambda: window.toggle("show_traces"),
            "Ctrl+T",
            checked=lambda: window.canvas.show_traces,
        ),
        Command(
            "gaps",
            "Clearances",
            "View",
            lambda: window.show_below(window.gaps),
            "Ctrl+G",
            checked=lambda: window.below.currentWidget() is window.gaps,
            hint="The table of all pairs of parts, in place of the tracks",
        ),
        Command("events", "Events along the motion", "View", lambda: window.show_below(window.events), "Ctrl+8",
                checked=lambda: window.below.currentWidget() is window.events,
                hint="Dead centres, limits, contacts, closest approaches, in the order of time; a row leads there"),
        Command(
            "parameters",
            "Parameters",
            "View",
            lambda: window.show_below(window.parameters),
            "Ctrl+E",
            checked=lambda: window.below.currentWidget() is window.parameters,
            hint="The table of all parameters and where they are used, in place of the tracks",
        ),
        Command("workshop", "Workshop and cautions", "View", lambda: window.show_below(window.workshop), "Ctrl+9",
                enabled=loaded, checked=lambda: window.below.currentWidget() is window.workshop,
                hint="What is found without being asked: whether it can be made, and where something can be caught"),
        Command("timing", "Timing of the drivers", "Motion", lambda: window.show_below(window.timing), "Ctrl+6",
                checked=lambda: window.below.currentWidget() is window.timing, divider=True,
                hint="When each driver moves, and for how long: bars to drag"),
        Command("cam-desk", "Cam desk", "Motion", window.show_cams, "Ctrl+7",
                checked=lambda: window.below.currentWidget() is window.cam_desk,
                hint="Program, profile and judgement of a cam side by side, in place of the tracks"),
        *(
            Command(f"study-{name}", title, "Motion", partial(window.show_study, name), keys,
                    checked=partial(_studies, window, name), hint=hint)
            for name, (title, keys, hint) in STUDIES.items()
        ),
        Command(
            "dark",
            "Dark theme",
            "View",
            window.toggle_theme,
            "Ctrl+Shift+L",
            checked=lambda: window.tokens.name == "dark",
            divider=True,
        ),
        Command("play", "Play or pause", "Motion", window.play, "Space", enabled=moving),
        Command("step-back", "One step back", "Motion", lambda: session.step(-1), "Ctrl+Left", enabled=moving),
        Command("step-on", "One step on", "Motion", lambda: session.step(1), "Ctrl+Right", enabled=moving),
        Command("to-start", "To the start", "Motion", lambda: session.go(0.0), "Ctrl+Home", enabled=moving),
        Command("to-end", "To the end", "Motion", lambda: session.go(session.end), "Ctrl+End", enabled=moving),
        Command(
            "loop",
            "Loop",
            "Motion",
            window.toggle_loop,
            "Ctrl+L",
            checked=lambda: session.player.looping,
            divider=True,
        ),
        Command("bounce", "There and back", "Motion", window.toggle_bounce, "Ctrl+Shift+B",
                checked=lambda: session.player.bouncing, hint="Plays forward, then backward, again and again"),
        Command(
            "worst",
            "Go to the worst check",
            "Motion",
            lambda: window.verdict.go_checks(),
            "Ctrl+B",
            enabled=lambda: bool(session.findings and session.findings.verdicts),
        ),
        Command("cancel", "Cancel the analysis", "Motion", session.analysis.cancel,
                enabled=lambda: session.analysis.busy),
        Command("judge", "Judge this version", "Motion", session.analysis.again, enabled=lambda: window.unjudged()),
        Command("guide", "First mechanism, step by step", "Help", lambda: window.begin_guide()),
        Command("first-look", "A first look at the demo", "Help", lambda: window.begin_demo()),
        Command("help", "Help", "Help", lambda: window.show_help(), "F1", divider=True,
                hint="Building, studies, joints, contact, cams, clearances, to be searched"),
        Command("keys", "Keyboard shortcuts", "Help", window.show_keys),
        Command("about", "About Anakinema", "Help", window.show_about),
    ]
