"""What a contact is: two parts that may touch and part again, and never pass. It stands among the joints of a document,
but names parts rather than points, has no rows that always hold, and no coordinate."""

from typing import ClassVar


class ContactType:
    """The one kind of contact there is; see `JointType` for what the words are for."""

    name: ClassVar[str] = "contact"
    title: ClassVar[str] = "Contact"
    word: ClassVar[str] = "contact"
    holds: ClassVar[str] = (
        "where the two parts (or groups, or sub-assemblies) share depth, their outlines may touch and part again, and "
        "never pass"
    )
    symbol: ClassVar[str] = "contact"


CONTACT = ContactType()
