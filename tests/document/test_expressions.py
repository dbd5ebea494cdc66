"""Expressions: arithmetic, units, dimensions, and what a hostile one can do (nothing)."""

import math
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anakinema.document.expressions import ExpressionError, Units, coerce, evaluate
from anakinema.document.units import Quantity

KNOWN = {"rod": Quantity(40.0, {"mm": 1}), "lead": Quantity(30.0, {"deg": 1}), "n": Quantity(3.0, {})}


def value(text: str, dimension: str, units: Units | None = None) -> float:
    units = units or Units()
    return coerce(evaluate(text, KNOWN, units), dimension, units)


@pytest.mark.parametrize(
    ("text", "dimension", "wanted"),
    [
        ("2*rod + 3 mm", "length", 83.0),
        ("1/2 in", "length", 12.7),
        ("10 mm / 2 mm", "number", 5.0),
        ("1 in / 1 mm", "number", 25.4),
        ("2 mm * 3 in / 1 cm", "length", 15.24),
        ("180 deg / pi", "angle", 1.0),
        ("90 deg - lead", "angle", math.radians(60)),
        ("-rod^2 / (2*rod)", "length", -20.0),
        ("2^3^2", "number", 512.0),
        ("sqrt(rod^2 + (3 cm)^2)", "length", 50.0),
        ("rod*sin(lead)", "length", 20.0),
        ("atan2(rod, rod)", "angle", math.pi / 4),
        ("acos(0.5)", "angle", math.pi / 3),
        ("max(rod, 5 cm, 1 in)", "length", 50.0),
        ("abs(-4)", "length", 4.0),
        ("60 rpm", "angular rate", 2 * math.pi),
        ("90 deg/s", "angular rate", math.pi / 2),
        ("20 mm/s", "linear rate", 20.0),
        ("rod*lead", "length", 40 * math.pi / 6),
        ("rod + 2", "length", 42.0),
        (".5e1", "number", 5.0),
        ("2*pi", "number", 2 * math.pi),
    ],
)
def test_arithmetic_and_units(text, dimension, wanted):
    assert value(text, dimension) == pytest.approx(wanted, rel=1e-14)


def test_plain_numbers_count_in_the_units_of_the_document():
    inches = Units("in", "rad")
    assert value("2", "length", inches) == 2.0
    assert value("1 cm", "length", inches) == pytest.approx(1 / 2.54)
    assert value("2", "angle", inches) == 2.0
    assert value("90", "angle") == pytest.approx(math.pi / 2)


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("rod + lead", "can't add a length and an angle"),
        ("rodd", "unknown parameter 'rodd' (did you mean 'rod'?)"),
        ("sim(lead)", "unknown function 'sim' (did you mean 'sin'?)"),
        ("1/0", "division by zero"),
        ("0^-1", "division by zero"),
        ("sqrt(-1)", "square root of a negative number"),
        ("(-8)^0.5", "fractional power of a negative number"),
        ("acos(2)", "between -1 and 1"),
        ("9^9^9^9", "no finite value"),
        ("1e400", "no finite value"),
        ("2 +", "ends too early"),
        ("(2", "')' is wanted"),
        ("2 3", "unexpected '3'"),
        ("__import__('os')", "unexpected character"),
        ("rod.real", "unexpected character '.'"),
        ("(" * 60 + "1" + ")" * 60, "nested deeper"),
        ("-" * 100 + "1", "nested deeper"),
        ("1+" * 600 + "1", "longest allowed"),
        ("sin", "wants its arguments in brackets"),
        ("atan2(1)", "takes 2 arguments"),
        ("", "empty"),
    ],
)
def test_faults_are_told(text, message):
    with pytest.raises(ExpressionError) as caught:
        evaluate(text, KNOWN, Units())
    assert message in str(caught.value)


@pytest.mark.parametrize(("text", "dimension"), [("rod", "angle"), ("lead", "length"), ("rod^2", "length")])
def test_a_value_of_the_wrong_dimension_is_refused(text, dimension):
    with pytest.raises(ExpressionError, match="is wanted here, this is"):
        value(text, dimension)


NUMBERS = st.integers(0, 99).map(str)
TREES = st.recursive(
    NUMBERS, lambda inner: st.tuples(inner, st.sampled_from("+-*"), inner).map(lambda t: f"({t[0]} {t[1]} {t[2]})")
)


@given(TREES)
def test_agrees_with_ordinary_arithmetic(text):
    if len(text) <= 1000 and text.count("(") <= 40:
        try:
            found = evaluate(text, {}, Units()).magnitude
        except ExpressionError as error:
            assert "nested" in str(error)
        else:
            assert found == pytest.approx(float(eval(text)))


@given(st.text(alphabet="0123456789.+-*/^(), eEabcdmrinsqtpod", max_size=40))
def test_any_text_gives_a_finite_value_or_a_fault(text):
    try:
        found = evaluate(text, KNOWN, Units())
    except ExpressionError:
        return
    assert math.isfinite(found.magnitude)


@pytest.mark.parametrize(("text", "value", "unit"), [
    ("a/2 in", 1.5, "in"), ("(1)/2 in", 0.5, "in"), ("pi/2 rad", math.pi / 2, "rad"), ("1 1/2 in", 1.5, "in"),
    ("-1 1/2 in", -1.5, "in"), ("2*a/4 mm", 1.5, "mm"), ("10 mm / 2 mm", 5, ""), ("span/2 mm", 5, ""),
    ("2×3 mm − 1 mm", 5, "mm"), ("9 mm ÷ 3", 3, "mm"), ("atan(1)", math.pi / 4, "rad"), ("90 deg / 2 deg", 45, ""),
    ("cos(pi rad)", -1, ""), ("cos(180)", -1, ""), ("cos(180/pi)", math.cos(1), ""), ("12 - 1/2", 11.5, ""),
])  # fmt: skip
def test_what_is_written_as_on_a_drawing_is_meant_so(text, value, unit):
    known = {"a": Quantity(3.0, {}), "span": Quantity(10.0, {"mm": 1})}
    found = evaluate(text, known, Units())
    assert (found.in_units(unit) if unit else found.magnitude) == pytest.approx(value, rel=1e-12)


@pytest.mark.parametrize(("text", "message"), [
    ("1-1/2 in", "is a subtraction; write '1 1/2 in'"), ("cos(pi)", "counts degrees here"),
    ("1 2 in", "unexpected '2'"),
    ("1 1/0 in", "division by zero"), ("1.5 1/2 in", "unexpected '1'"),
])  # fmt: skip
def test_what_may_be_meant_in_two_ways_is_told(text, message):
    with pytest.raises(ExpressionError, match=re.escape(message)):
        evaluate(text, {}, Units())
