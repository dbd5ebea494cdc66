"""All things of a document by name and label, to be found and selected."""

from collections.abc import Iterator
from functools import partial

from anakinema.document.model import Document
from anakinema.joints import JOINT_TYPES
from anakinema.operations.own_features import OwnFeature

from ..session import Session
from .palette import Line

MOST_POINTS = 400
"""Points that are listed; those of a sieve would hide all else."""


def things(session: Session) -> list[Line]:
    """Parts, joints, points and so on, each with what it is; choosing one selects it."""
    document = session.document
    if document is None:
        return []
    return [Line(text, partial(session.selection.select, place), what, hint=place, also=name)
            for place, text, what, name in _named(document)]  # fmt: skip


def _named(document: Document) -> Iterator[tuple[str, str, str, str]]:
    """The place of each thing, what to call it, what it is, and its name."""
    for part in document.parts.values():
        yield f"parts.{part.id}", part.name, "part", part.id
    for joint in document.joints.values():
        yield f"joints.{joint.id}", joint.id, f"{JOINT_TYPES[joint.type].title.lower()} joint", ""
    for coupling in document.couplings.values():
        yield f"joints.{coupling.id}", coupling.id, coupling.kind.title.lower(), ""
    for contact in document.contacts.values():
        yield f"joints.{contact.id}", contact.id, f"contact of {contact.a} and {contact.b}", ""
    for section, what in (("parameters", "parameter"), ("drivers", "driver"), ("programs", "program"),
                          ("checks", "check"), ("measures", "measure"), ("traces", "trace"),
                          ("positions", "position"), ("tracks", "track"), ("groups", "rigid group"),
                          ("uses", "sub-assembly")):  # fmt: skip
        for name in getattr(document, section):
            yield f"{section}.{name}", name, what, ""
    points = [(part, point) for part in document.parts.values() for point in part.points]
    for part, point in points[:MOST_POINTS]:
        yield f"features.{OwnFeature(part.id, ('points', point)).text}", f"{part.name}.{point}", "point", part.id
