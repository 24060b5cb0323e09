"""Days as people write them, none of which can be read as another day."""

from __future__ import annotations

import calendar
import re
from datetime import date, datetime

from fenwit.core.errors import InputError

_EXAMPLE = "like 1 Nov 2027, 2027-11-01 or 12 months"
_FORMS = ("%Y-%m-%d", "%d %b %Y", "%d %B %Y", "%b %d %Y", "%B %d %Y", "%d. %b %Y", "%d-%b-%Y")
_FIRST, _LAST = date(2000, 1, 1), date(2200, 1, 1)


def read_day(field: str, text: str, today: date) -> date | None:
    """A day as typed, or so many months or years from today; None where nothing is typed. Raises InputError."""
    tidy = " ".join(text.replace(",", " ").split())
    if not tidy:
        return None
    ahead = re.fullmatch(r"(?:in )?(\d{1,3}) ?(months?|years?|mo|yr|m|y)", tidy, re.IGNORECASE)
    if ahead:
        months = int(ahead[1]) * (12 if ahead[2].lower().startswith("y") else 1)
        year, month = divmod(today.year * 12 + today.month - 1 + months, 12)
        if not year < _LAST.year:
            raise InputError(field, text, "a day to come", "no such day for a re-check")
        return date(year, month + 1, min(today.day, calendar.monthrange(year, month + 1)[1]))
    if re.fullmatch(r"\d{1,2}[./-]\d{1,2}[./-]\d{2,4}", tidy):
        raise InputError(field, text, _EXAMPLE, "day and month could be mixed up: write the month as a word")
    for form in _FORMS:
        try:
            found = datetime.strptime(tidy, form).date()
        except ValueError:
            continue
        if not _FIRST <= found <= _LAST:
            raise InputError(field, text, "a day to come", "no such day for a re-check")
        return found
    raise InputError(field, text, _EXAMPLE, "cannot be read as a day")
