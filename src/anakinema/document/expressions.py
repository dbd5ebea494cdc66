"""Expressions with units: parsed by a small grammar of our own, never executed as code, bounded in size and depth.

Grammar (loosest first)::

    sum     = product { ("+" | "-") product }
    product = factor { ("*" | "/") factor | unit }
    factor  = ("+" | "-") factor | power
    power   = atom [ "^" factor ]
    atom    = number [number "/" number] [unit] | name | function "(" sum { "," sum } ")" | "(" sum ")" | unit

A unit written after a number belongs to that number, so ``10 mm / 2 mm`` is 5; but what is a plain number is divided
first, as on a drawing: ``1/2 in`` is half an inch, ``pi/2 rad`` a quarter turn, and ``1 1/2 in`` is one and a half
inches. A plain number added to a length or an angle, or given to `sin`, counts in the document's units. The signs of
typesetters, ``− × ÷``, are read as well.
"""

import math
import re
from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache

from ..errors import suggestion
from ..kinds import Dimension, Units
from .units import DIMENSIONS, UNIT_NAMES, Quantity, describe, unit_of
from .units import number as plain_number

MAX_LENGTH = 1000
MAX_DEPTH = 50
MAX_MAGNITUDE = 1e12
MAX_LENGTH_VALUE = 1e8
"""Greatest length (document units): a hundred kilometres in mm."""
FUNCTIONS = ("sqrt", "sin", "cos", "tan", "asin", "acos", "atan", "atan2", "min", "max", "abs")
TRIGONOMETRIC = ("sin", "cos", "tan")
RESERVED = frozenset((*UNIT_NAMES, *FUNCTIONS, "pi"))

TYPESET = str.maketrans({"−": "-", "×": "*", "·": "*", "÷": "/"})
MIXED = re.compile(rf"(?<![\w.)^*/])\s*(\d+)\s*-\s*(\d+)\s*/\s*(\d+)\s*({'|'.join(UNIT_NAMES)})\b")
"""A whole number less a fraction with a unit: an inch and a half as some write it, or a subtraction?"""
TOKEN = re.compile(r"\s*(?:(\d+\.?\d*(?:[eE][+-]?\d+)?|\.\d+(?:[eE][+-]?\d+)?)|([^\W\d]\w*)|([-+*/^(),]))")


class ExpressionError(ValueError):
    """An expression that can't be read, or whose value makes no sense."""


@lru_cache(maxsize=4096)
def tokens(text: str) -> tuple[str, ...]:
    """The words of an expression, with an empty one at the end. The same expressions are read at every edit."""
    if len(text) > MAX_LENGTH:
        raise ExpressionError(f"expression of {len(text)} characters; the longest allowed is {MAX_LENGTH}")
    found, position = [], 0
    text = text.translate(TYPESET).rstrip()
    if mixed := MIXED.search(text):
        whole, over, under, unit = mixed.groups()
        raise ExpressionError(
            f"'{mixed.group().strip()}' is a subtraction; write '{whole} {over}/{under} {unit}' for the sum, or "
            f"'{whole} {unit} - {over}/{under} {unit}' for the difference"
        )
    while position < len(text):
        match = TOKEN.match(text, position)
        if not match:
            raise ExpressionError(f"unexpected character '{text[position:].lstrip()[:1]}' in '{shortened(text)}'")
        found.append(match.group().strip())
        position = match.end()
    return (*found, "")


def shortened(text: str) -> str:
    """A text cut to what fits in an error line."""
    return text if len(text) <= 60 else text[:57] + "…"


@lru_cache(maxsize=4096)
def names(text: str) -> frozenset[str]:
    """The parameters that an expression refers to."""
    return frozenset(word for word in tokens(text) if word.isidentifier() and word not in RESERVED)


def with_name(text: str, old: str, new: str) -> str:
    """An expression in which a parameter has another name.

    >>> with_name("2*rod + rod_end", "rod", "link")
    '2*link + rod_end'
    """
    return re.sub(rf"(?<![\w.]){re.escape(old)}(?!\w)", new, text)


def evaluate(text: str, parameters: Mapping[str, Quantity], units: Units) -> Quantity:
    """The value of an expression as a quantity.

    >>> float(evaluate("2*rod + 3 mm", {"rod": Quantity(40.0, {"mm": 1})}, Units()).in_units("mm"))
    83.0
    """
    return _parsed(text, parameters, units) if names(text) else _constant(text, units)


@lru_cache(maxsize=4096)
def _constant(text: str, units: Units) -> Quantity:
    """The value of an expression without parameters: read at every edit, and always the same."""
    return _parsed(text, {}, units)


def _parsed(text: str, parameters: Mapping[str, Quantity], units: Units) -> Quantity:
    parser = _Parser(tokens(text), parameters, units)
    try:
        value = parser.sum(0)
        if parser.word:
            near = suggestion(parser.word, UNIT_NAMES)
            raise ExpressionError(f"unexpected '{parser.word}' in '{shortened(text)}'{near}")
    except (ArithmeticError, ValueError, RecursionError) as error:
        if isinstance(error, ExpressionError):
            raise
        raise ExpressionError(f"'{shortened(text)}' has no finite value: {error}") from error
    magnitude = value.magnitude
    if isinstance(magnitude, complex) or not math.isfinite(magnitude):
        raise ExpressionError(f"'{shortened(text)}' has no finite value")
    return value


def coerce(value: Quantity, dimension: str, units: Units) -> float:
    """A quantity as a plain number of the wanted dimension: lengths in document units, angles in radians, times in s.

    A plain number counts in the document's units. A radian is a ratio of lengths, so an arc length (radius times
    angle) serves as a length.
    """
    if not value.powers:
        return plain(value.magnitude, dimension, units)
    exponents = value.dimension
    if dimension == "length" and exponents.get("length") == 1:
        value = value / unit_of("rad") ** exponents.pop("angle", 0)
    if exponents != DIMENSIONS[dimension]:
        article = "an" if dimension[0] in "aeiou" else "a"
        raise ExpressionError(f"{article} {dimension} is wanted here, this is {_a(describe(value.dimension))}")
    return _bounded(value.in_units(units.unit(dimension)), dimension)


def plain(number: float, dimension: str, units: Units) -> float:
    """A plain number, counting in the document's units, in core units."""
    turns = Dimension(dimension).turns and units.angle == "deg"
    return _bounded(math.radians(number) if turns else number, dimension)


def _bounded(number: float, dimension: str) -> float:
    if not abs(number) <= (MAX_LENGTH_VALUE if dimension == Dimension.LENGTH else MAX_MAGNITUDE):
        raise ExpressionError(f"{number:g} is too large to be meant")
    return number


def _a(word: str) -> str:
    return ("an " if word[0] in "aeiou" else "a ") + word


class _Parser:
    """Evaluates while it parses; `depth` bounds the nesting."""

    def __init__(self, words: Sequence[str], parameters: Mapping[str, Quantity], units: Units):
        self.words, self.at = words, 0
        self.parameters, self.units = parameters, units

    @property
    def word(self) -> str:
        return self.words[self.at]

    def take(self) -> str:
        word = self.words[self.at]
        self.at += 1
        return word

    def expect(self, word: str) -> None:
        if self.word != word:
            found = f"'{self.word}'" if self.word else "the end"
            raise ExpressionError(f"'{word}' is wanted before {found}")
        self.at += 1

    def sum(self, depth: int) -> Quantity:
        if depth > MAX_DEPTH:
            raise ExpressionError(f"expression nested deeper than {MAX_DEPTH}")
        value = self.product(depth)
        while self.word in ("+", "-"):
            sign = 1 if self.take() == "+" else -1
            value = self.added(value, self.product(depth), sign)
        return value

    def added(self, left: Quantity, right: Quantity, sign: int) -> Quantity:
        left, right = self.alike(left, right, "add" if sign > 0 else "subtract")
        return left + right.times(sign)

    def alike(self, left: Quantity, right: Quantity, verb: str) -> tuple[Quantity, Quantity]:
        """Both quantities with one dimension, plain numbers taking on that of the other."""
        if left.dimension == right.dimension:
            return left, right
        for plain, other in ((left, right), (right, left)):
            if not plain.powers:
                word = describe(other.dimension)
                if word in DIMENSIONS:
                    adopted = unit_of(self.units.written(word)).times(plain.magnitude)
                    return (adopted, right) if plain is left else (left, adopted)
        words = (describe(left.dimension), describe(right.dimension))
        raise ExpressionError(f"can't {verb} {_a(words[0])} and {_a(words[1])}")

    def product(self, depth: int) -> Quantity:
        value = self.factor(depth)
        while True:
            if self.word == "*":
                self.take()
                value = value * self.factor(depth)
            elif self.word == "/":
                self.take()
                plain = not value.powers and self._number_with_unit()
                right = self.number() if plain else self.factor(depth)
                if right.magnitude == 0:
                    raise ExpressionError("division by zero")
                value = value / right
            elif self.word in UNIT_NAMES:
                value = value * self.unit_power()
            else:
                return value

    def _number_with_unit(self) -> bool:
        return self.word[:1].isdigit() and self.words[self.at + 1] in UNIT_NAMES

    def factor(self, depth: int) -> Quantity:
        """A signed power."""
        if depth > MAX_DEPTH:
            raise ExpressionError(f"expression nested deeper than {MAX_DEPTH}")
        if self.word in ("+", "-"):
            sign = 1 if self.take() == "+" else -1
            return self.factor(depth + 1).times(sign)
        return self.power(depth)

    def power(self, depth: int) -> Quantity:
        value = self.atom(depth)
        if self.word != "^":
            return value
        self.take()
        return self.raised(value, self.factor(depth + 1))

    def raised(self, value: Quantity, exponent: Quantity) -> Quantity:
        if exponent.powers:
            raise ExpressionError("an exponent must be a plain number")
        power = exponent.magnitude
        if not math.isfinite(power):
            raise ExpressionError("an exponent must be finite")
        if value.powers and (abs(power) > 12 or (2 * power) % 1):
            raise ExpressionError(f"can't raise {_a(describe(value.dimension))} to the power {power:g}")
        if value.magnitude < 0 and power % 1:
            raise ExpressionError("a fractional power of a negative number has no real value")
        if value.magnitude == 0 and power < 0:
            raise ExpressionError("division by zero")
        return value**power

    def number(self) -> Quantity:
        return plain_number(float(self.take()))

    def unit_power(self) -> Quantity:
        """A unit, with its own exponent when one follows: ``mm^2``."""
        unit = unit_of(self.take())
        if self.word == "^":
            self.take()
            unit = self.raised(unit, self.factor(MAX_DEPTH))
        return unit

    def mixed(self) -> Quantity:
        """A number; a whole one may have a fraction behind it."""
        whole = self.word.isdigit()
        value = self.number()
        if whole and self.word.isdigit() and self.words[self.at + 1] == "/" and self.words[self.at + 2].isdigit():
            over = self.number()
            self.take()
            under = self.number()
            if under.magnitude == 0:
                raise ExpressionError("division by zero")
            value = value + over / under
        return value

    def atom(self, depth: int) -> Quantity:
        word = self.word
        if not word:
            raise ExpressionError("the expression is empty or ends too early")
        if word[0].isdigit() or word[0] == ".":
            value = self.mixed()
            return value * self.unit_power() if self.word in UNIT_NAMES else value
        if word == "(":
            self.take()
            value = self.sum(depth + 1)
            self.expect(")")
            return value
        if word in UNIT_NAMES:
            return self.unit_power()
        if not word.isidentifier():
            raise ExpressionError(f"unexpected '{word}'")
        self.take()
        if word == "pi":
            return plain_number(math.pi)
        if self.word == "(":
            return self.call(word, depth)
        if word in FUNCTIONS:
            raise ExpressionError(f"'{word}' wants its arguments in brackets")
        if word not in self.parameters:
            known = [*self.parameters, *UNIT_NAMES]
            raise ExpressionError(f"unknown parameter '{word}'{suggestion(word, known)}")
        return self.parameters[word]

    def call(self, function: str, depth: int) -> Quantity:
        if function not in FUNCTIONS:
            raise ExpressionError(f"unknown function '{function}'{suggestion(function, FUNCTIONS)}")
        self.expect("(")
        begin = self.at
        arguments = [self.sum(depth + 1)]
        if function in TRIGONOMETRIC and not arguments[0].powers and self.units.angle == "deg":
            said = self.words[begin : self.at]
            if "pi" in said and "/ pi" not in " ".join(said):
                raise ExpressionError(f"'{function}({' '.join(said)})' counts degrees here; write '… rad' for radians")
        while self.word == ",":
            self.take()
            arguments.append(self.sum(depth + 1))
        self.expect(")")
        return self.applied(function, arguments)

    def applied(self, function: str, arguments: list[Quantity]) -> Quantity:
        if function in ("min", "max"):
            best = arguments[0]
            for other in arguments[1:]:
                left, right = self.alike(best, other, "compare")
                larger = left.alike(right).magnitude > left.magnitude
                best = right if larger == (function == "max") else left
            return best
        wanted = 2 if function == "atan2" else 1
        if len(arguments) != wanted:
            raise ExpressionError(f"'{function}' takes {wanted} argument{'s' * (wanted > 1)}, not {len(arguments)}")
        value = arguments[0]
        if function == "sqrt":
            if value.magnitude < 0:
                raise ExpressionError("the square root of a negative number has no real value")
            return value**0.5
        if function == "abs":
            return value.times(-1) if value.magnitude < 0 else value
        if function == "atan2":
            left, right = self.alike(value, arguments[1], "compare")
            return unit_of("rad").times(math.atan2(left.magnitude, left.alike(right).magnitude))
        trig: dict[str, Callable[[float], float]] = {"sin": math.sin, "cos": math.cos, "tan": math.tan}
        if function in trig:
            return plain_number(trig[function](coerce(value, "angle", self.units)))
        ratio = coerce(value, "number", self.units)
        if function == "atan":
            return unit_of("rad").times(math.atan(ratio))
        if not -1 <= ratio <= 1:
            raise ExpressionError(f"'{function}' of {ratio:g}: the value must lie between -1 and 1")
        return unit_of("rad").times(math.asin(ratio) if function == "asin" else math.acos(ratio))
