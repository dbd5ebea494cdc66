"""The commands that show and hide."""

from collections.abc import Iterable

from ..session import Session
from .registry import Command


class Look:
    """What of the mechanism is shown; nothing of it is in the file."""

    def __init__(self, session: Session):
        self.session = session

    def in_place(self) -> None:
        """Fades all but what is selected."""
        document = self.session.document
        if document is not None:
            self.session.display_state.fade(set(document.parts) - set(self.session.selection.chosen("parts")))

    def commands(self) -> list[Command]:
        """The commands, for the menu View."""
        display_state, session = self.session.display_state, self.session

        def some() -> bool:
            return bool(session.selection.chosen("parts"))

        def every() -> Iterable[str]:
            return session.document.parts if session.document is not None else ()

        return [
            Command("hide", "Hide", "View", lambda: display_state.hide(session.selection.chosen("parts")), "H",
                    enabled=some, divider=True,
                    hint="The parts that are selected are not shown; the same again shows them"),
            Command("isolate", "Show alone", "View",
                    lambda: display_state.isolate(session.selection.chosen("parts"), every()), "I",
                    enabled=some, hint="All but the parts that are selected are hidden; the same again shows all"),
            Command("through", "See through", "View",
                    lambda: display_state.see_through(session.selection.chosen("parts")), "Shift+I",
                    enabled=some, hint="What is behind the parts that are selected is seen through them"),
            Command("in-place", "Open in place", "View", self.in_place, "Ctrl+Shift+I", enabled=some,
                    hint="All but what is selected is faded; the same again shows all"),
            Command("show-all", "Show all", "View", display_state.show_all, "Shift+H",
                    enabled=lambda: bool(display_state.hidden or display_state.through)),
            Command("by-part", "Colour by part", "View",
                    lambda: display_state.colour_by_part(not display_state.by_part),
                    checked=lambda: display_state.by_part),
        ]  # fmt: skip
