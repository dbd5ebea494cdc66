"""The commands that ask something of the mechanism: positions, wiggling, ties between joints."""

from anakinema.findings.measuring import dimension_of
from anakinema.joints import COUPLING_TYPES
from anakinema.kinematics.positions import stands_at
from anakinema.operations import check_measure, couple, couplings_for, keep_position
from anakinema.words import in_document_units

from .doing import Doing
from .registry import Command

TIES = {
    "gear": "Tie by a gear pair", "rack": "Tie by rack and pinion", "belt": "Tie by a belt", "ratio": "Tie by a ratio",
}  # fmt: skip


class Study(Doing):
    """Where the mechanism stands, how it moves, what moves with what."""

    def commands(self) -> list[Command]:
        """The commands, for the menus Build and Motion."""
        session = self.session
        return [
            *(
                Command(f"tie-{kind}", text, "Build", lambda kind=kind: self.tie(kind), divider=kind == "gear",
                        enabled=lambda kind=kind: self.can_tie(kind),
                        hint=f"{COUPLING_TYPES[kind].title} between the two joints that are selected")
                for kind, text in TIES.items()
            ),
            Command("check-measure", "Check this measure", "Build", self.check, enabled=lambda: self.chosen("measures"),
                    hint="A check that the measure never gets below what it is now; its card has the bound"),
            Command("wiggle", "Wiggle", "Motion", self.wiggle, "Q", enabled=lambda: session.motion is not None,
                    divider=True, hint="Moves the joint that is selected, else the newest, through its freedom"),
            Command("keep-position", "Keep this position", "Motion", self.keep, "K",
                    enabled=lambda: session.motion is not None,
                    hint="Where the mechanism stands now gets a name, to go back to"),
            Command("go-position", "Go to the next position", "Motion", self.go_next, "Shift+K",
                    enabled=lambda: session.document is not None and bool(session.document.positions)),
            Command("update-position", "Put the position here", "Motion", self.update,
                    enabled=lambda: self.chosen("positions") and session.motion is not None,
                    hint="The position that is selected becomes where the mechanism stands now"),
        ]  # fmt: skip

    def can_tie(self, kind: str) -> bool:
        """Whether two joints are selected that a coupling can tie."""
        document, joints = self.session.document, self.session.chosen("joints")
        if document is None or len(joints) != 2:
            return False
        one, two = joints
        return kind in couplings_for(document, one, two) or kind in couplings_for(document, two, one)

    def tie(self, kind: str) -> None:
        """Ties the two joints that are selected."""
        joints = self.session.chosen("joints")
        if len(joints) == 2:
            self.make(lambda document: couple(document, kind, *joints), TIES[kind])

    def check(self) -> None:
        """Makes a check of the measure that is selected."""
        name, document = self.session.selected()[1], self.session.document
        if document is not None and name in document.measures:
            dimension = dimension_of(document.measures[name], document)
            now = round(in_document_units(self.session.measured(name), dimension, document.units), 3)
            self.make(lambda document: check_measure(document, name, now), f"Check {name}")

    def wiggle(self) -> None:
        """Moves a joint to and fro."""
        document, (kind, name) = self.session.document, self.session.selected()
        if document is None:
            return
        if kind != "joints":
            name = next(reversed(document.joints), "")
        if name:
            self.session.wiggle(name)

    def _where(self) -> dict[str, dict[str, float]] | None:
        document, motion = self.session.document, self.session.motion
        if document is None or motion is None:
            return None
        return stands_at(document, motion, self.session.coordinates(), self.session.posed is not None)

    def keep(self) -> None:
        """Keeps where the mechanism stands as a named position."""
        where = self._where()
        if where is not None:
            self.make(lambda document: keep_position(document, where), "Keep this position")

    def update(self) -> None:
        """Puts the position that is selected where the mechanism stands."""
        name, where = self.session.selected()[1], self._where()
        document = self.session.document
        if where is None or document is None or name not in document.positions:
            return
        entry = {key: value for key, value in document.tree["positions"][name].items() if key == "note"}
        self.session.edit(("positions", name), {**where, **entry}, f"Put {name} here")

    def go_next(self) -> None:
        """Goes to the position after the one that is selected, else to the first."""
        document, (kind, name) = self.session.document, self.session.selected()
        if document is None or not document.positions:
            return
        names = list(document.positions)
        after = names[(names.index(name) + 1) % len(names)] if kind == "positions" else names[0]
        self.session.select(f"positions.{after}")
        self.session.go_position(after)
