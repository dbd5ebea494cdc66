"""What is selected, by kind and name, in the document as it is."""

from collections.abc import Callable, Mapping, Sequence

from PySide6.QtCore import QObject, Signal

from anakinema.document import Document, Rename
from anakinema.document.references import path_of
from anakinema.document.sections import INSIDE
from anakinema.operations.own_features import own_feature, place_of

SECTIONS = {"couplings": "joints", "contacts": "joints", "uses": "parts"}
"""The section of the document in which a kind stands, where that is called otherwise."""


class Selection(QObject):
    """Places such as ``joints.ram``: the one that the card shows, and others besides."""

    changed = Signal()

    def __init__(self, document: Callable[[], Document | None], parent: QObject | None = None):
        super().__init__(parent)
        self._document = document
        self.place = ""
        self.others: tuple[str, ...] = ()
        """What else is selected, in the order in which it was."""
        self._following: dict[str, str] = {}
        """While something gets another name: what is selected, and what it is called then."""

    @property
    def every(self) -> list[str]:
        """All that is selected, what the card shows first."""
        return [one for one in (self.place, *self.others) if one]

    def select(self, place: str, more: bool = False) -> None:
        """Selects by kind and name; empty for nothing. With `more`, besides what is selected, or not any longer where
        it is."""
        chosen = self.every
        if more and place in chosen:
            chosen.remove(place)
        elif more and place:
            chosen.insert(0, place)
        elif not more:
            chosen = [place]
        self.select_all(chosen)

    def select_all(self, places: Sequence[str]) -> None:
        """Selects several; the first is what the card shows."""
        first, others = (places[0], tuple(places[1:])) if places else ("", ())
        if (first, others) != (self.place, self.others):
            self.place, self.others = first, others
            self.changed.emit()

    def kind_of(self, place: str) -> tuple[str, str]:
        """Kind and id of a selected thing, empty where it is gone."""
        document = self._document()
        kind, _, name = place.partition(".")
        if kind == "joints" and document is not None:
            other = next((one for one in ("couplings", "contacts") if name in getattr(document, one)), kind)
            if other != kind:
                return other, name
        if kind == "features":  # of a part, by its place inside it: features.crank#shapes.2
            there = document is not None and own_feature(document, name) is not None
            return (kind, name) if there else ("", "")
        items = getattr(document, kind, {}) if kind and document is not None else {}
        return (kind, name) if name in items else ("", "")

    def current(self) -> tuple[str, str]:
        """Kind and id of what the card shows, empty where that is nothing or gone."""
        return self.kind_of(self.place)

    def chosen(self, kind: str) -> list[str]:
        """The names of all of a kind that are selected, in the order in which they were; of parts also those of a
        sub-assembly or a group that is."""
        document = self._document()
        found: dict[str, None] = {}
        for place in (*reversed(self.others), self.place):
            what, name = self.kind_of(place)
            if what == kind:
                found[name] = None
            elif what == "groups" and kind == "parts" and document is not None:
                found |= dict.fromkeys(document.groups[name].parts)
            elif what == "uses" and kind == "parts" and document is not None:
                found |= dict.fromkeys(part for part in document.parts if part.startswith(f"{name}/"))
        return list(found)

    @property
    def in_tree(self) -> tuple[str, ...]:
        """Where what the card shows stands in the document's tree; empty where that is nothing."""
        document = self._document()
        kind, name = self.current()
        if not kind or document is None:
            return ()
        if kind == "features" and (one := own_feature(document, name)) is not None:
            return tuple(map(str, place_of(document, one)))
        section = SECTIONS.get(kind, kind)
        return document.home(section, name) if section in INSIDE else (section, name)

    # -- with the document -------------------------------------------------------------------------------------

    def clear(self) -> None:
        """Selects nothing; told by who opens another document."""
        self.place, self.others = "", ()

    def foresee(self, renames: Sequence[Rename]) -> None:
        """Changes are about to be made, with these names given: what is selected stays so under its new name."""
        places = self.every
        for change in renames:
            places = [self._renamed(place, change) for place in places]
        self._following = dict(zip(self.every, places, strict=True))

    def made(self) -> None:
        """The changes that were foreseen are made, or not."""
        self._following = {}

    @property
    def following(self) -> Mapping[str, str]:
        """What is selected, and what it is called after the changes that are being made."""
        return self._following

    def keep(self) -> None:
        """Another version of the document: forgets what it no longer holds."""
        before = self.place, self.others
        kept = [self._following.get(place, place) for place in self.every]
        kept = [place for place in kept if self.kind_of(place)[0]]
        self.place, self.others = kept[0] if kept else "", tuple(kept[1:])
        if (self.place, self.others) != before:
            self.changed.emit()

    def _renamed(self, place: str, change: Rename) -> str:
        """What a selected thing is called once something has another name."""
        kind, _, name = place.partition(".")
        document = self._document()
        if not name or document is None:
            return place
        section = SECTIONS.get(kind, kind)
        pieces = name.split("/")
        for target, piece in path_of(document.tree, (), section, name):
            if target == tuple(change.place):
                pieces[piece] = change.name
        return f"{kind}.{'/'.join(pieces)}"
