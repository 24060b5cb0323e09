"""The report of a job as data: what is printed, signed and kept. The pages are made from it and from nothing else."""

from __future__ import annotations

import functools
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import Annotated, Any

from jinja2 import Environment, PackageLoader, StrictUndefined
from markupsafe import Markup
from pydantic import ConfigDict, Field, TypeAdapter

from fenwit.report.picture import Picture, picture_svg

Text = Annotated[str, Field(max_length=2000)]
"""What a record may hold of words: plain text, of a length that fits on paper"""
_STRICT = ConfigDict(extra="forbid")
MOST_READINGS = 300
"""Readings that are printed; the rest stands in the CSV of the job [-]"""


@dataclass(frozen=True)
class Fact:
    """A label with its text."""

    __pydantic_config__ = _STRICT
    label: Text
    text: Text


@dataclass(frozen=True)
class StepLine:
    """One step: what it joins, what was wanted, what is expected and what was read."""

    __pydantic_config__ = _STRICT
    step: int
    joins: Text
    where: Text
    """Which contacts are closed, where the knob stands, or which delay"""
    label: Text
    """As it stands on the label"""
    wanted: Text
    speed: Text
    motor_volts: Text
    amps: Text
    watts: Text
    read: Text
    verdict: Text


@dataclass(frozen=True)
class PartLine:
    """One part to buy or to take from the shelf, with what it bears."""

    __pydantic_config__ = _STRICT
    name: Text
    kind: Text
    what: Text
    rating: Text
    stress: Text
    where: Text
    place: Text


@dataclass(frozen=True)
class ReadingLine:
    """One reading with who took it and when; a later one may supersede it."""

    __pydantic_config__ = _STRICT
    what: Text
    text: Text
    who: Text
    at: Text
    superseded: bool


@dataclass(frozen=True)
class CautionLine:
    """A hazard, what to do, and who confirmed it."""

    __pydantic_config__ = _STRICT
    text: Text
    do: Text
    confirmed: Text


@dataclass(frozen=True)
class RuleLine:
    """A rule of the acceptance profile."""

    __pydantic_config__ = _STRICT
    text: Text
    value: Text
    limit: Text
    by: Text
    met: bool


@dataclass(frozen=True)
class Signature:
    """Who stands behind it."""

    __pydantic_config__ = _STRICT
    who: Text
    at: Text
    note: Text
    recheck_on: Text
    imported: bool = False
    """It came with a file: nobody signed in this database"""


@dataclass(frozen=True)
class AnnexSheet:
    """A page that only this way of regulating has."""

    __pydantic_config__ = _STRICT
    title: Text
    note: Text
    drawing: Picture | None = None
    lines: Annotated[tuple[Text, ...], Field(max_length=200)] = ()


@dataclass(frozen=True)
class Record:
    """A whole job on paper."""

    __pydantic_config__ = _STRICT
    job_id: int
    name: Text
    place: Text
    wish: Text
    status: Text
    facts: Annotated[tuple[Fact, ...], Field(max_length=600)]
    design_title: Text
    steps: Annotated[tuple[StepLine, ...], Field(max_length=8)]
    parts: Annotated[tuple[PartLine, ...], Field(max_length=200)]
    wiring: Annotated[tuple[Fact, ...], Field(max_length=600)]
    schematic: Picture | None
    """None without a regulator"""
    rules: Annotated[tuple[RuleLine, ...], Field(max_length=100)]
    spreads: Annotated[tuple[Fact, ...], Field(max_length=600)]
    readings: Annotated[tuple[ReadingLine, ...], Field(max_length=20_000)]
    cautions: Annotated[tuple[CautionLine, ...], Field(max_length=100)]
    assumptions: Annotated[tuple[Text, ...], Field(max_length=200)]
    core_version: Text
    made_at: Text
    signature: Signature | None = None
    annexes: Annotated[tuple[AnnexSheet, ...], Field(max_length=12)] = ()
    joins_name: Text = "in the line"
    """Heading over what the regulator does at each step"""
    where_name: Text = "contacts"
    lugs_note: Text = ""
    more_readings: int = 0
    """Readings that are not printed"""


@functools.cache
def _environment() -> Environment:
    found = Environment(
        loader=PackageLoader("fenwit.report"), autoescape=True, undefined=StrictUndefined, trim_blocks=True
    )
    # The one place where markup is let through: it was written just now, from data.
    found.filters["drawn"] = lambda picture: Markup(picture_svg(picture))
    found.filters["css_text"] = _css_text
    return found


def _css_text(text: str) -> Markup:
    """A text between quotes of a style sheet: every sign that could end it is written as its number."""
    return Markup(
        "".join(c if c.isascii() and (c.isalnum() or c == " ") else f"\\{ord(c):06x}" for c in text)
    )


class Sheet(StrEnum):
    """What is printed of a record."""

    REPORT = "report"
    LABEL = "label"
    """The label to stick on the regulator, one small page"""


def page_html(sheet: Sheet, record: Record, fonts: Mapping[str, str]) -> str:
    """A record as a page.

    Parameters
    ----------
    sheet : Sheet
        Report or label [-]
    record : Record
        The report [-]
    fonts : mapping of str to str
        Address of each shipped font, from `font_faces` [-]

    Returns
    -------
    str
        HTML; every text of the record is escaped [-]
    """
    return _environment().get_template(f"{sheet.value}.html").render(r=record, faces=_faces(fonts))


def filled_page(name: str, fonts: Mapping[str, str], **values: object) -> str:
    """Another page of this folder's templates with its values; every text of them is escaped.

    Parameters
    ----------
    name : str
        Template without its ending [-]
    fonts : mapping of str to str
        Address of each shipped font, from `font_faces` [-]
    values : object
        What the template calls by name [-]

    Returns
    -------
    str
        HTML [-]
    """
    return _environment().get_template(f"{name}.html").render(faces=_faces(fonts), **values)


def pdf(page: str, fonts: Mapping[str, str]) -> bytes:
    """A page as PDF; nothing outside the page but the given fonts is read.

    Parameters
    ----------
    page : str
        HTML from this module [-]
    fonts : mapping of str to str
        Address of each shipped font, from `font_faces` [-]

    Returns
    -------
    bytes
        PDF [-]
    """
    from weasyprint import HTML  # takes more than a second to import
    from weasyprint.urls import URLFetcher

    class OnlyFonts(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: Any = None) -> Any:
            if url not in allowed:
                raise ValueError(f"a report reads no files: {url[:200]}")
            return super().fetch(url, headers)

    allowed = frozenset(fonts.values())
    fetcher = OnlyFonts(allowed_protocols=("file",), allow_redirects=False)
    found: bytes = HTML(string=page, url_fetcher=fetcher).write_pdf()
    return found


@functools.cache
def _records() -> TypeAdapter[Record]:
    return TypeAdapter(Record)


def read_record(document: Mapping[str, Any]) -> Record:
    """A stored or sent record, checked field by field; raises ValueError where anything does not fit.

    Parameters
    ----------
    document : mapping
        As today's Fenwit writes it [-]

    Returns
    -------
    Record
        The record [-]
    """
    return _records().validate_python(document)


_FACES = (  # the sans has no µ and no Ω: those come from the mono
    ("Sheet", "atkinson-hyperlegible-next-latin-wght-normal"),
    ("Figures", "jetbrains-mono-latin-wght-normal"),
)


def font_faces(folder: Path, address: str | None = None) -> dict[str, str]:
    """Where the shipped fonts are, by the names the pages call them.

    Parameters
    ----------
    folder : Path
        Folder of the built front end's files [-]
    address : str, optional
        Web address of that folder; without it the files themselves are named [-]

    Returns
    -------
    dict
        Address by name; fonts that are not there are left out [-]
    """
    found = {}
    for name, stem in _FACES:
        for file in sorted(folder.glob(f"{stem}*.woff2"))[:1]:
            found[name] = file.resolve().as_uri() if address is None else f"{address}/{file.name}"
    return found


def _faces(fonts: Mapping[str, str]) -> Markup:
    rules = [
        f"@font-face {{ font-family: {name}; src: url('{place}'); font-weight: 200 800; }}"
        for name, place in fonts.items()
    ]
    return Markup("\n".join(rules))


def write_record(record: Record) -> dict[str, Any]:
    """A record as a document, to be stored or sent.

    Parameters
    ----------
    record : Record
        The record [-]

    Returns
    -------
    dict
        JSON values [-]
    """
    found: dict[str, Any] = _records().dump_python(record, mode="json")
    return found
