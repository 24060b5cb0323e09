"""A whole job as one JSON document, out and in again exactly (docs/bundle-format.md)."""

from __future__ import annotations

import json
import math
import unicodedata
from datetime import date
from typing import Annotated, Any, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, ValidationError

from fenwit.core.calibrate.datum import Warmth
from fenwit.core.circuit.wiring.document import read_wiring
from fenwit.core.errors import InputError
from fenwit.core.job.air import AirSheet
from fenwit.core.job.board import Board
from fenwit.core.job.commanded import CommandSheet
from fenwit.core.job.findings import Findings
from fenwit.core.job.hold import HoldSheet
from fenwit.core.job.state import InLine
from fenwit.core.methods import documents, of
from fenwit.core.motor.kinds import Method, MotorKind
from fenwit.core.prove.lead import LeadShown
from fenwit.core.prove.scope import CaptureShown
from fenwit.core.size.profile import Profile
from fenwit.core.size.sizing import Sizing
from fenwit.report.methods.older_records import stored_record
from fenwit.report.record import write_record

FORMAT = "fenwit-job/2"
"""As it is written; the first format, whose signed reports held ready-made drawings, is read too"""
MAX_BYTES = 8_000_000
_MAX_DEPTH = 40

Text = Annotated[str, Field(max_length=120)]
LongText = Annotated[str, Field(max_length=2000)]
Positive = Annotated[float, Field(gt=0, le=1e9, allow_inf_nan=False, strict=True)]
Number = Annotated[float, Field(ge=0, le=1e12, allow_inf_nan=False, strict=True)]
Whole = Annotated[int, Field(ge=1, le=2**31 - 1, strict=True)]
Moment = AwareDatetime


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class BundleFan(_Part):
    """The fan with its nameplate; SI units."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    place: Text = ""
    maker: Text = ""
    serial: Text = ""
    motor_kind: MotorKind | None = None
    poles: Annotated[int, Field(ge=2, le=48, multiple_of=2, strict=True)] | None = None
    rated_voltage_v: Positive | None = None
    rated_frequency_hz: Positive | None = None
    rated_speed_rpm: Positive | None = None
    rated_current_a: Positive | None = None
    rated_power_w: Positive | None = None
    run_capacitance_f: Positive | None = None
    shaft_power_w: Positive | None = None
    apparent_power_va: Positive | None = None
    airflow_m3_per_s: Positive | None = None
    sweep_m: Positive | None = None
    ambient_c: Annotated[float, Field(ge=-40, le=250, allow_inf_nan=False, strict=True)] | None = None
    printed: Annotated[dict[Text, Text], Field(max_length=20)] = {}
    """Field and its text as printed, where the value alone does not say it"""
    findings: dict[str, Any] = {}
    """What was seen on the motor, its leads and capacitor block"""


class BundleJob(_Part):
    """What is wanted, the supply, and what was decided before sizing."""

    wish: LongText = ""
    supply_voltage_v: Annotated[float, Field(ge=1, le=1000, strict=True)]
    supply_frequency_hz: Annotated[float, Field(ge=10, le=500, strict=True)]
    wanted_rpm: Annotated[list[Positive], Field(max_length=8)] = []
    profile: dict[str, Any] = {}
    sizing: dict[str, Any] = {}
    board: dict[str, Any] = {}
    """The control that came in; empty: none"""
    air: dict[str, Any] = {}
    meant: Annotated[list[Text], Field(max_length=8)] = []
    """Beside the wanted speeds, as they were meant"""
    commanded: dict[str, Any] = {}
    hold: dict[str, Any] = {}
    """What the fan holds by itself, and how; empty: nothing"""
    wiring: dict[str, Any] = {}
    """How it is wired, a fenwit-circuit/1 document; empty: nothing"""
    created_at: Moment
    saved_at: Moment


class BundleDesign(_Part):
    """One revision of the regulator with what was predicted for it."""

    regulator: dict[str, Any] | None
    kept: dict[Text, Annotated[float, Field(allow_inf_nan=False, strict=True)]] | None = None
    restores: Whole | None = None
    """Revision that this one brings back"""
    core_version: Text
    who: Text = ""
    made_at: Moment
    name: Text = ""


class BundleCapture(_Part):
    """What a scope saw at a step."""

    design: Whole
    step: Annotated[int, Field(ge=1, le=8, strict=True)]
    name: Text = ""
    shown: dict[str, Any]
    who: Text = ""
    at: Moment


class BundleRun(_Part):
    """A run away from full speed: what stood in the line."""

    what: InLine
    value: Positive | None = None
    typed: Annotated[str, Field(max_length=40)] = ""
    frequency_hz: Annotated[Number, Field(ge=20, le=1e6)] | None = None
    """Of the signal on a control lead, where it is one of a sweep"""
    gone: bool = False
    who: Text = ""
    at: Moment


class BundleReading(_Part):
    """One reading; a null value takes back the one it supersedes."""

    quantity: Annotated[str, Field(min_length=1, max_length=40)]
    value: Number | None
    typed: Annotated[str, Field(max_length=40)]
    step: Annotated[int, Field(ge=1, le=8, strict=True)] | None = None
    design: Whole | None = None
    """Revision it was taken on"""
    expected_low: Number | None = None
    expected_high: Number | None = None
    who: Text = ""
    taken_at: Moment
    supersedes: Whole | None = None
    """Place in this list, from 1, of the reading it corrects"""
    run: Whole | None = None
    """Place in the list of runs, from 1"""
    sigma: Annotated[float, Field(gt=0, le=1, strict=True)] | None = None
    """Relative standard uncertainty by the instrument"""
    aside: bool = False
    winding: Warmth | None = None
    """Of ohms: cold, warm straight after running, or at winding_c; null: unsaid, taken as cold"""
    winding_c: Annotated[float, Field(ge=-40, le=200, strict=True)] | None = None
    source: Text = ""
    """The device it was read off, and where in it; empty: typed by hand"""


class BundleAnswer(_Part):
    """Somebody answers for a method against a refusal."""

    method: Method
    reason: LongText
    who: Text
    at: Moment


class BundleConfirmation(_Part):
    """A caution that somebody confirmed."""

    caution: Text
    text: Annotated[str, Field(max_length=40)] = ""
    brief: Text = ""
    said: LongText = ""
    do: LongText = ""
    """How it read when it was confirmed; empty: not kept"""
    who: Text
    at: Moment


class BundleHandover(_Part):
    """A signature with the report as it was signed."""

    design: Whole | None = None
    who: Annotated[str, Field(min_length=1, max_length=120)]
    note: LongText = ""
    recheck_on: date | None = None
    core_version: Text
    record: dict[str, Any]
    """The report as it was signed; drawings are data"""
    at: Moment


class Bundle(_Part):
    """A whole job. Lists are in the order in which things were added; revisions of designs count from 1."""

    format: Literal["fenwit-job/1", "fenwit-job/2"]
    fan: BundleFan
    job: BundleJob
    designs: Annotated[list[BundleDesign], Field(max_length=2000)] = []
    runs: Annotated[list[BundleRun], Field(max_length=500)] = []
    readings: Annotated[list[BundleReading], Field(max_length=20000)] = []
    answers: Annotated[list[BundleAnswer], Field(max_length=200)] = []
    confirmations: Annotated[list[BundleConfirmation], Field(max_length=2000)] = []
    handovers: Annotated[list[BundleHandover], Field(max_length=200)] = []
    captures: Annotated[list[BundleCapture], Field(max_length=500)] = []


def write_bundle(bundle: Bundle) -> bytes:
    """The document, always the same bytes for the same job.

    Parameters
    ----------
    bundle : Bundle
        The job [-]

    Returns
    -------
    bytes
        UTF-8 JSON [-]
    """
    text = json.dumps(bundle.model_dump(mode="json"), ensure_ascii=False, indent=1, allow_nan=False)
    return (text + "\n").encode()


def read_bundle(data: bytes) -> Bundle:
    """A document as a job; nothing of it is trusted before it is checked.

    Parameters
    ----------
    data : bytes
        The file [-]

    Returns
    -------
    Bundle
        The job [-]

    Raises
    ------
    InputError
        Too large, broken off, of a newer format, or holding what cannot be; the reason says which.
    """
    if len(data) > MAX_BYTES:
        raise InputError(
            "file",
            f"{len(data)} bytes",
            f"up to {MAX_BYTES // 1_000_000} MB",
            "the file is too large for one job",
        )
    document = _document(data)
    said = document.get("format")
    if said not in ("fenwit-job/1", FORMAT):
        raise InputError("file", said, FORMAT, _format_words(said))
    _check_texts(document)
    try:
        bundle = Bundle.model_validate(document)
        _check_links(bundle)
        _check_documents(bundle)
        bundle = _with_records_read(bundle)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(p) for p in first["loc"])
        raise InputError(
            "file", place, "a job as Fenwit writes it", f"{place}: {first['msg'].lower()}"
        ) from None
    return bundle


def _document(data: bytes) -> dict[str, Any]:
    def no_constant(name: str) -> float:
        raise ValueError(f"{name} is no number")

    try:
        document = json.loads(data.decode("utf-8-sig"), parse_constant=no_constant, parse_float=_finite)
    except UnicodeDecodeError:
        raise InputError("file", "binary", "a JSON file", "this is no text file") from None
    except RecursionError:
        raise InputError("file", "nested", "a JSON file", "nested too deeply to be a job") from None
    except ValueError as error:
        broken = isinstance(error, json.JSONDecodeError) and (
            error.pos >= len(error.doc.rstrip()) - 1 or error.msg.startswith("Unterminated string")
        )
        reason = "the file breaks off before its end" if broken else "this is no JSON"
        raise InputError("file", str(error)[:60], "a JSON file written by Fenwit", reason) from None
    if not isinstance(document, dict):
        raise InputError("file", type(document).__name__, "a JSON object", "this is no job")
    return document


def _finite(text: str) -> float:
    number = float(text)
    if not math.isfinite(number):
        raise ValueError(f"{text} is too large a number")
    return number


def _format_words(said: object) -> str:
    if isinstance(said, str) and said.startswith("fenwit-job/"):
        version = said.removeprefix("fenwit-job/")
        if version.isdecimal() and int(version[:9]) > 2:
            return f"written by a newer Fenwit (format {version[:9]}); this one reads formats 1 and 2"
    return "this is no job written by Fenwit"


def _check_texts(value: Any, depth: int = 0) -> None:
    if depth > _MAX_DEPTH:
        raise InputError("file", "nested", "a job", "nested too deeply to be a job")
    if isinstance(value, dict):
        for key, item in value.items():
            _check_texts(key, depth + 1)
            _check_texts(item, depth + 1)
    elif isinstance(value, list):
        for item in value:
            _check_texts(item, depth + 1)
    elif isinstance(value, str):
        if any(unicodedata.category(c) in ("Cc", "Cs") and c not in "\n\t\r" for c in value):
            raise InputError(
                "file", value[:20], "text that can be printed", "contains characters that cannot be printed"
            )
    elif isinstance(value, int) and not isinstance(value, bool) and abs(value) > 2**53:
        raise InputError("file", str(value)[:20], "numbers up to 2⁵³", "a number is too large")


def _check_links(bundle: Bundle) -> None:
    superseded: set[int] = set()
    things: set[tuple[object, ...]] = set()
    for place, reading in enumerate(bundle.readings, start=1):
        where = f"readings.{place}"
        thing = (reading.quantity, reading.step, reading.design, reading.run)
        if reading.run is not None and (reading.run > len(bundle.runs) or reading.step is not None):
            raise InputError("file", where, "a run in the file", f"{where}: there is no such run")
        if (reading.step is None) != (reading.design is None):
            raise InputError("file", where, "both or neither", f"{where}: step and design belong together")
        if reading.design is not None and reading.design > len(bundle.designs):
            raise InputError("file", where, "a revision in the file", f"{where}: there is no such design")
        if reading.supersedes is None:
            if thing in things:
                raise InputError("file", where, "supersedes", f"{where}: a second first reading of one thing")
            things.add(thing)
        elif reading.supersedes >= place or reading.supersedes in superseded:
            raise InputError("file", where, "an earlier reading", f"{where}: corrects no earlier reading")
        else:
            superseded.add(reading.supersedes)
    for place, design in enumerate(bundle.designs, start=1):
        if design.restores is not None and design.restores >= place:
            raise InputError(
                "file", f"designs.{place}", "an earlier revision", "a design restores a later one"
            )
    for capture in bundle.captures:
        if capture.design > len(bundle.designs):
            raise InputError("file", "captures", "a revision in the file", "a capture names no design")
    for handover in bundle.handovers:
        if handover.design is not None and handover.design > len(bundle.designs):
            raise InputError("file", "handovers", "a revision in the file", "a signature names no design")


def _check_documents(bundle: Bundle) -> None:
    from pydantic import TypeAdapter

    TypeAdapter(Findings).validate_python(bundle.fan.findings)
    for place, run in enumerate(bundle.runs, start=1):
        needs = run.what in (InLine.CAPACITOR, InLine.RESISTOR, InLine.VOLTAGE, InLine.DUTY, InLine.CONTROL)
        if needs != (run.value is not None):
            raise InputError(
                "file", f"runs.{place}", "a value where one stands", f"runs.{place}: {run.what.value}"
            )
        if run.frequency_hz is not None and run.what is not InLine.DUTY:
            raise InputError(
                "file", f"runs.{place}", "a duty where a frequency stands", f"runs.{place}: {run.what.value}"
            )
    swept = [(r.frequency_hz, r.value) for r in bundle.runs if r.frequency_hz is not None and not r.gone]
    if len(set(swept)) < len(swept):
        raise InputError("file", "runs", "each place of a sweep once", "a place of the sweep is there twice")
    TypeAdapter(Profile).validate_python(bundle.job.profile)
    of(TypeAdapter(Sizing).validate_python(bundle.job.sizing).method)
    if bundle.job.board:
        TypeAdapter(Board).validate_python(bundle.job.board)
    TypeAdapter(AirSheet).validate_python(bundle.job.air)
    TypeAdapter(CommandSheet).validate_python(bundle.job.commanded)
    TypeAdapter(HoldSheet).validate_python(bundle.job.hold)
    if bundle.job.wiring:
        read_wiring(bundle.job.wiring)
    for design in bundle.designs:
        if design.regulator is not None:
            regulation, fields = documents.body_of(design.regulator)
            TypeAdapter(regulation.design).validate_python(fields)
    for capture in bundle.captures:
        TypeAdapter(CaptureShown | LeadShown).validate_python(capture.shown)


def _with_records_read(bundle: Bundle) -> Bundle:
    """Signed reports as data, every field of them checked: nothing of a file is ever printed as it stands."""
    read = [h.model_copy(update={"record": write_record(stored_record(h.record))}) for h in bundle.handovers]
    return bundle.model_copy(update={"handovers": read})


def bundle_schema() -> dict[str, Any]:
    """The JSON schema of the format."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": FORMAT,
        **Bundle.model_json_schema(),
    }
