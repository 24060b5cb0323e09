"""CSV out and in: header with units, commas or semicolons, decimal points or commas, errors row by row."""

from __future__ import annotations

import csv
import io
import re
import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from fenwit.core.errors import InputError

_BARE = re.compile(r"[0-9]*[.,]?[0-9]*(?:e[+-]?[0-9]{1,2})?")
MAX_BYTES, MAX_ROWS, MAX_COLUMNS = 2_000_000, 5_000, 60


@dataclass(frozen=True)
class Cell:
    """A heading: what it names, and the unit given in brackets."""

    name: str
    unit: str


@dataclass(frozen=True)
class Sheet:
    """A file as rows of text under headings."""

    headings: tuple[Cell, ...]
    rows: tuple[tuple[str, ...], ...]
    first_line: int
    """Line of the first row in the file, for messages"""


def write_csv(headings: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """A table as text: semicolons between cells, decimal points, one header line.

    Parameters
    ----------
    headings : sequence of str
        Headings, the unit in brackets [-]
    rows : iterable of sequence of str
        Cells as text [-]

    Returns
    -------
    str
        The file [-]
    """
    out = io.StringIO()
    writer = csv.writer(out, delimiter=";", lineterminator="\r\n")
    writer.writerow(headings)
    for row in rows:
        writer.writerow([_inert(cell) for cell in row])
    return out.getvalue()


_NUMBER = re.compile(r"[+\-−]?[0-9]+(?:[.,][0-9]+)?(?:e[+-]?[0-9]+)?", re.IGNORECASE)


def _inert(cell: str) -> str:
    """A spreadsheet would run a cell that begins like a formula, however its first sign is dressed up."""
    bare = cell.lstrip(
        "".join(c for c in cell if c.isspace() or unicodedata.category(c) in ("Cc", "Cf", "Zs"))
    )
    first = unicodedata.normalize("NFKC", bare[:1])[:1]
    runs = first in ("=", "+", "-", "−", "@", "|", "%") and not _NUMBER.fullmatch(bare)
    return f"'{cell}" if runs or cell[:1] in ("\t", "\r", "'") else cell


def read_csv(data: bytes) -> Sheet:
    """A file as a sheet.

    Parameters
    ----------
    data : bytes
        The file, UTF-8 or Latin-1 [-]

    Returns
    -------
    Sheet
        Headings in lower case and rows of their length [-]

    Raises
    ------
    InputError
        Too large, empty, no text, no header, or a quote that is never closed; the reason says which.
    """
    if len(data) > MAX_BYTES:
        raise InputError(
            "file", f"{len(data)} bytes", f"up to {MAX_BYTES // 1_000_000} MB", "the file is too large"
        )
    if not data.strip():
        raise InputError("file", "", "a header line and rows", "the file is empty")
    if b"\0" in data:
        raise InputError("file", "binary", "text", "this is no text file; save the sheet as CSV")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    first = next((line for line in text.splitlines() if line.strip()), "")
    delimiter = max(";\t,", key=first.count)
    if first.count(delimiter) == 0:
        raise InputError(
            "file", first[:40], "a header line such as step;speed (rpm)", "there is only one column"
        )
    try:
        rows = [row for row in csv.reader(io.StringIO(text), delimiter=delimiter, strict=True) if any(row)]
    except csv.Error as error:
        raise InputError("file", "", "complete rows", f"the file breaks off or is damaged: {error}") from None
    if not rows:
        raise InputError("file", "", "a header line and rows", "there is nothing in the file but separators")
    if len(rows) > MAX_ROWS + 1:
        raise InputError("file", len(rows), f"up to {MAX_ROWS} rows", "too many rows for one import")
    if len(rows[0]) > MAX_COLUMNS:
        raise InputError("file", len(rows[0]), f"up to {MAX_COLUMNS} columns", "too many columns")
    headings = tuple(_heading(cell) for cell in rows[0])
    width = len(headings)
    body = tuple(tuple(c.strip().removeprefix("'") for c in (row + [""] * width)[:width]) for row in rows[1:])
    if not body:
        raise InputError("file", "", "at least one row", "there is a header and nothing under it")
    return Sheet(headings, body, 2)


def _heading(cell: str) -> Cell:
    tidy = " ".join(cell.strip().lower().replace("_", " ").split())
    if tidy.endswith(")") and "(" in tidy:
        name = tidy[:-1].rpartition("(")[0]
        # The unit keeps its own letters: mA is not MA.
        at = cell.rfind("(")
        return Cell(name.strip(), cell[at + 1 :].strip().removesuffix(")").strip())
    return Cell(tidy, "")


_STATE = re.compile(r"\s+(cold|warm|hot|at\b|@).*$", re.IGNORECASE)


def with_unit(text: str, unit: str) -> str:
    """A bare number together with the unit of its heading; anything else as it is.

    Parameters
    ----------
    text : str
        The cell [-]
    unit : str
        The unit of its heading, or nothing [-]

    Returns
    -------
    str
        Text to be read in bench notation [-]
    """
    # How warm a winding was stands behind its ohms: "1.2 warm" under kΩ is 1.2 kΩ, warm.
    split = _STATE.search(text)
    value, state = (text[: split.start()], text[split.start() :]) if split else (text, "")
    bare = unit and _BARE.fullmatch(value.replace(" ", ""))
    return f"{value} {unit}{state}" if bare else text
