"""Words for terminals that know few letters: the nearest that they can show, as a typist would put it."""

import codecs
import unicodedata

NEAREST = {
    "≥": ">=", "≤": "<=", "−": "-", "–": "-", "—": "-", "×": "x", "÷": "/", "·": ".", "→": "->", "←": "<-", "↔": "<->",
    "°": " deg", "±": "+-", "…": "...", "σ": "sigma", "μ": "u", "µ": "u", "ω": "omega", "θ": "theta", "π": "pi",
    "Δ": "Delta", "⌀": "dia. ", "√": "sqrt", "∞": "inf", "≈": "~", "²": "^2", "³": "^3", "’": "'", "‘": "'", "“": '"',
    "”": '"', "•": "*", "▸": ">", "✓": "ok", "✗": "x", "½": "1/2", "\u00a0": " ", "\u2009": " ", "\u202f": " ",
}  # fmt: skip
HANDLER = "anakinema.nearest"


def nearest(letter: str) -> str:
    """A letter in those of ASCII: what it stands for, or without its accents; else how it is numbered.

    >>> nearest("≥"), nearest("é"), nearest("字")
    ('>=', 'e', '<U+5B57>')
    """
    plain = unicodedata.normalize("NFKD", letter).encode("ascii", "ignore").decode()
    return NEAREST.get(letter) or plain or f"<U+{ord(letter):04X}>"


def _handled(error: UnicodeError) -> tuple[str, int]:
    if not isinstance(error, UnicodeEncodeError):
        raise error
    return "".join(map(nearest, error.object[error.start : error.end])), error.end


codecs.register_error(HANDLER, _handled)
