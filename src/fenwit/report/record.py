"""The report of a job as data: what is printed, signed and kept. The pages are made from it and from nothing else."""

from __future__ import annotations

import functools
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

from jinja2 import Environment, PackageLoader, StrictUndefined
from markupsafe import Markup


@dataclass(frozen=True)
class Fact:
    """A label with its text."""

    label: str
    text: str


@dataclass(frozen=True)
class StepLine:
    """One step: what it joins, what was wanted, what is expected and what was read."""

    step: int
    joins: str
    where: str
    """Which contacts are closed, where the knob stands, or which delay"""
    label: str
    """As it stands on the label"""
    wanted: str
    speed: str
    motor_volts: str
    amps: str
    watts: str
    read: str
    verdict: str


@dataclass(frozen=True)
class PartLine:
    """One part to buy or to take from the shelf, with what it bears."""

    name: str
    kind: str
    what: str
    rating: str
    stress: str
    where: str
    place: str


@dataclass(frozen=True)
class ReadingLine:
    """One reading with who took it and when; a later one may supersede it."""

    what: str
    text: str
    who: str
    at: str
    superseded: bool


@dataclass(frozen=True)
class CautionLine:
    """A hazard, what to do, and who confirmed it."""

    text: str
    do: str
    confirmed: str


@dataclass(frozen=True)
class RuleLine:
    """A rule of the acceptance profile."""

    text: str
    value: str
    limit: str
    by: str
    met: bool


@dataclass(frozen=True)
class Signature:
    """Who stands behind it."""

    who: str
    at: str
    note: str
    recheck_on: str


@dataclass(frozen=True)
class AnnexSheet:
    """A page that only this way of regulating has."""

    title: str
    note: str
    drawing: str
    """SVG with every text escaped; may be empty"""
    true_size: bool
    lines: tuple[str, ...]


@dataclass(frozen=True)
class Record:
    """A whole job on paper."""

    job_id: int
    name: str
    place: str
    wish: str
    status: str
    facts: tuple[Fact, ...]
    design_title: str
    steps: tuple[StepLine, ...]
    parts: tuple[PartLine, ...]
    wiring: tuple[Fact, ...]
    schematic: str
    """SVG with every text escaped; empty without a regulator"""
    rules: tuple[RuleLine, ...]
    spreads: tuple[Fact, ...]
    readings: tuple[ReadingLine, ...]
    cautions: tuple[CautionLine, ...]
    assumptions: tuple[str, ...]
    core_version: str
    made_at: str
    signature: Signature | None = None
    annexes: tuple[AnnexSheet, ...] = ()
    joins_name: str = "in the line"
    """Heading over what the regulator does at each step"""
    where_name: str = "contacts"
    lugs_note: str = ""


@functools.cache
def _environment() -> Environment:
    found = Environment(
        loader=PackageLoader("fenwit.report"), autoescape=True, undefined=StrictUndefined, trim_blocks=True
    )
    found.filters["drawn"] = Markup
    return found


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


def pdf(page: str) -> bytes:
    """A page as PDF; nothing outside the page but the shipped fonts is read.

    Parameters
    ----------
    page : str
        HTML from this module [-]

    Returns
    -------
    bytes
        PDF [-]
    """
    from weasyprint import HTML  # takes more than a second to import
    from weasyprint.urls import URLFetcher

    fetcher = URLFetcher(allowed_protocols=("file", "data"))
    found: bytes = HTML(string=page, url_fetcher=fetcher).write_pdf()
    return found


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
