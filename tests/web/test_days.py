"""Days as they are typed: none may be read as another one."""

from __future__ import annotations

from datetime import date

import pytest

from fenwit.core.errors import InputError
from fenwit.web.days import read_day

TODAY = date(2026, 11, 30)


@pytest.mark.parametrize(
    ("text", "day"),
    [
        ("", None),
        ("2027-11-01", date(2027, 11, 1)),
        ("1 Nov 2027", date(2027, 11, 1)),
        ("1 november 2027", date(2027, 11, 1)),
        ("Nov 1, 2027", date(2027, 11, 1)),
        ("12 months", date(2027, 11, 30)),
        ("in 3 months", date(2027, 2, 28)),  # the last day of a shorter month
        ("2 years", date(2028, 11, 30)),
    ],
)
def test_a_day_is_read(text: str, day: date | None) -> None:
    assert read_day("recheck_on", text, TODAY) == day


@pytest.mark.parametrize(
    "text", ["01/02/2027", "1.2.27", "soon", "31 Feb 2027", "1900-01-01", "999 years", "-5 months"]
)
def test_what_could_be_another_day_is_asked_about(text: str) -> None:
    with pytest.raises(InputError):
        read_day("recheck_on", text, TODAY)
