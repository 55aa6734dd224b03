"""Sums and units as a maker types them."""

import pytest

from noble_clay.core.errors import PieceError
from noble_clay.core.piece.sums import parse_sum


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("153+4", 157),
        ("2*12.5", 25),
        ("3cm", 30),
        ("0.5in", 12.7),
        ("1/4in", 6.35),
        ("1/4 in + 2mm", 8.35),
        ('3/8"', 9.525),
        ("-(2+3)*4", -20),
        ("2,5", 2.5),
        (" 1 - -1 ", 2),
        ("(1+2)cm", 30),
        ("7/2", 3.5),
        ("45°", 45),
    ],
)
def test_a_sum_comes_to(text, value):
    assert parse_sum(text) == pytest.approx(value, rel=1e-15)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "empty"),
        ("abc", "'abc'"),
        ("1/0", "divides by zero"),
        ("3 5", "'5'"),
        ("(((", "stops too early"),
        ("(1+2", "stops too early"),
        ("5kg", "'kg'"),
        ("2**3", "'*'"),
        ("1;2", "';'"),
        ("9" * 400, "longer than 200"),
    ],
)
def test_what_is_no_sum_is_refused_with_the_reason(text, words):
    with pytest.raises(PieceError) as refusal:
        parse_sum(text)
    assert words in str(refusal.value)
