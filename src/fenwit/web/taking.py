"""From what is typed to readings that can be written: looked at and computed before, written in one go after."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.calibrate.datum import OhmsAt, winding_said
from fenwit.core.calibrate.instruments import relative_sigma
from fenwit.core.calibrate.leads import parse_ohms
from fenwit.core.caution import Stage, blocking
from fenwit.core.errors import InputError
from fenwit.core.frame import Frame, JobState, frame
from fenwit.core.frame.study import full_readings, study
from fenwit.core.job.findings import FRAME_OHM, LEAD_OHM, SECTION_F
from fenwit.store import history, instruments, readings
from fenwit.store.database import Database
from fenwit.web.findings import instrument_of
from fenwit.web.models import NewReading
from fenwit.web.page import Loaded, must_compute, state_of
from fenwit.web.page.asked import (
    MEASURED,
    OPEN_READING,
    PROVED,
    SHORT_READING,
    WINDING_OHMS,
    Asked,
    run_asked,
    sheet_asked,
)
from fenwit.web.problems import Gated

_WARM = ("hot_resistance_ohm", "main_resistance_ohm", "cold_temperature_c", "run_up_s")
_BLAMED = 4
"""How often a reading of one file, or all of its quantity, is told by name when the job cannot be computed with it [-]"""


@dataclass(frozen=True)
class Taken:
    """A reading that can be written."""

    label: str
    before: readings.Reading | None
    """The reading it corrects"""
    after: int | None
    """Place in its batch of the one it corrects"""
    values: Mapping[str, Any]
    """As `readings.add` takes them"""


Weighed = Taken | InputError | Gated
Wanted = Sequence[tuple[NewReading, datetime | None]]


def take(db: Database, loaded: Loaded, new: NewReading, at: datetime | None = None) -> Taken:
    """One typed reading, ready to be written. Raises InputError beside its field, or Gated."""
    found = weigh(db, loaded, [(new, at)])[0]
    if not isinstance(found, Taken):
        raise found
    return found


def weigh(db: Database, loaded: Loaded, wanted: Wanted, *, follow: bool = False) -> list[Weighed]:
    """Typed readings, each ready to be written or with the reason why not; the job is computed once for all of them.

    With ``follow`` each corrects what stands in its place, in the job or earlier among them, and says nothing of it.
    """
    return _Weighing(db, loaded, wanted, follow).done()


def write(db: Database, taken: Sequence[Taken]) -> list[dict[str, Any]]:
    """Append readings inside a transaction; returns the changes for the history. Raises Stale."""
    written: list[readings.Reading] = []
    changes = []
    for one in taken:
        before = one.before if one.after is None else written[one.after]
        reading = readings.add(db, **one.values, supersedes=before.id if before else None)
        written.append(reading)
        changes.append(history.reading_change(before, reading))
    return changes


class _Weighing:
    def __init__(self, db: Database, loaded: Loaded, wanted: Wanted, follow: bool) -> None:
        self.db, self.loaded, self.wanted, self.follow = db, loaded, wanted, follow
        self.known: dict[int | None, dict[str, Asked]] = {}
        self.values: dict[int, float | None] = {}
        self.sigmas: dict[int, float | None] = {}
        self.windings: dict[int, OhmsAt | None] = {}
        self.refused: dict[int, InputError | Gated] = {}
        self.asked: dict[int, Asked] = {}

    def done(self) -> list[Weighed]:
        for i, (new, _) in enumerate(self.wanted):
            if new.step is None:
                self._try(i, self._measured)
        state = self._computed()
        steps = [i for i, (new, _) in enumerate(self.wanted) if new.step is not None]
        expected = self._expected(state) if steps else {}
        for i in steps:
            self._try(i, self._proved, expected)
        return self._linked(expected)

    def _try(self, i: int, look: Any, *given: Any) -> None:
        try:
            look(i, *given)
        except (InputError, Gated) as refusal:
            self.refused[i] = refusal

    # ---------------------------------------------------------------- at full speed, with the power off, in a run

    def _asked_of(self, new: NewReading) -> Asked:
        if new.run not in self.known:
            loaded = self.loaded
            if new.run is None:
                rows = [*sheet_asked(loaded.state.findings), *MEASURED]
            elif any(run.id == new.run and not run.gone for run in loaded.runs):
                rows = run_asked(loaded.fan.motor_kind)
            else:
                raise InputError("run", new.run, "a run of this job", "there is no such run")
            self.known[new.run] = {a.field: a for a in rows}
        asked = self.known[new.run].get(new.quantity)
        if asked is None:
            raise InputError("quantity", new.quantity, ", ".join(self.known[new.run]), "no such reading")
        return asked

    def _measured(self, i: int) -> None:
        new = self.wanted[i][0]
        asked = self._asked_of(new)
        value = typed_value(new, asked.dimension)
        if new.quantity.partition(":")[0] in WINDING_OHMS:
            self.windings[i] = winding_said(new.quantity, new.text)[1]
        if value is not None:
            stage = Stage.IDENTIFY if ":" in new.quantity else Stage.MEASURE
            _must_be_open(frame(self.loaded.state), self.loaded, stage, new.quantity)
            if new.quantity in (due := full_readings(self.loaded.state)):
                low, high = due[new.quantity]
                # Away from full speed it may be much less, and hardly more.
                _no_slip(new, value, (low if new.run is None else low / _FAR, high), asked.dimension)
        sigma = None
        if new.instrument is not None and value:
            meter = instruments.get(self.db, new.instrument)
            known = instrument_of(meter.name, meter.true_rms, meter.ranges)
            sigma = relative_sigma(known, new.quantity, value)
        self.asked[i], self.values[i], self.sigmas[i] = asked, value, sigma

    def _state(self, rows: Sequence[int]) -> JobState:
        """The job as it would be with some of the readings; of one thing the last one counts."""
        loaded = self.loaded
        last = {(self.wanted[i][0].quantity, self.wanted[i][0].run): i for i in rows}
        others = [
            r
            for r in readings.standing(loaded.readings)
            if r.step is not None or (r.quantity, r.run_id) not in last
        ]
        trial = [
            readings.Reading(
                0, loaded.fan.id, loaded.job.id, None, None, quantity, self.values[i], self.wanted[i][0].text, None, None,
                self.wanted[i][0].who, datetime.now(UTC), None, run, None, self.sigmas[i], self.wanted[i][0].aside,
                "", *_winding(self.windings.get(i)),
            )
            for (quantity, run), i in last.items()
            if self.values[i] is not None
        ]  # fmt: skip
        rows_then = [*others, *trial]
        return state_of(loaded.job, loaded.fan, rows_then, loaded.design, loaded.runs, loaded.answered)

    def _fault(self, rows: Sequence[int]) -> InputError | None:
        if not rows:
            return None
        state, field = self._state(rows), self.wanted[rows[-1]][0].quantity
        try:
            must_compute(state, field)
            if any(self.wanted[i][0].quantity in _WARM for i in rows):
                study(replace(state, wanted_rpm=(), design=None, proofs=()))
        except InputError as error:
            return InputError(field, error.value, error.allowed, error.reason)
        return None

    def _computed(self) -> JobState:
        """The job with all readings it can be computed with; those it cannot are refused by name."""
        good = [i for i in self.values if i not in self.refused]
        again: set[tuple[str, int | None]] = set()
        for _ in range(_BLAMED):
            if self._fault(good) is None:
                break
            # The first things up to which the job can still be computed, by halving; the one after is to blame.
            things = list(dict.fromkeys((self.wanted[i][0].quantity, self.wanted[i][0].run) for i in good))
            low, high = 0, len(things)
            fault = None
            while low < high:
                middle = (low + high) // 2
                some = set(things[: middle + 1])
                found = self._fault([i for i in good if self._thing(i) in some])
                low, high, fault = (low, middle, found) if found else (middle + 1, high, fault)
            blamed = things[min(low, len(things) - 1)]
            mine = [i for i in good if self._thing(i) == blamed]
            # The last one counts; only when those before it do no better all of them are at fault.
            for i in mine if blamed in again else mine[-1:]:
                quantity = self.wanted[i][0].quantity
                assert fault is not None
                self.refused[i] = InputError(quantity, fault.value, fault.allowed, fault.reason)
            again.add(blamed)
            good = [i for i in good if i not in self.refused]
        else:
            if (fault := self._fault(good)) is not None:
                self.refused.update(dict.fromkeys(good, fault))
                good = []
        return self._state(good) if good else self.loaded.state

    def _thing(self, i: int) -> tuple[str, int | None]:
        return self.wanted[i][0].quantity, self.wanted[i][0].run

    # ---------------------------------------------------------------- at a step

    def _expected(self, state: JobState) -> dict[tuple[int, str], tuple[float, float]]:
        if self.loaded.design is None or self.loaded.design.regulator is None:
            return {}
        return {(r.step, r.quantity): (r.low, r.high) for r in frame(replace(state, proofs=())).proofs}

    def _proved(self, i: int, expected: Mapping[tuple[int, str], tuple[float, float]]) -> None:
        new = self.wanted[i][0]
        loaded, step = self.loaded, new.step
        if loaded.design is None or loaded.design.regulator is None:
            raise InputError(
                "step", step, "a job with a chosen regulator", "choose a regulator in Size first"
            )
        if new.quantity not in PROVED:
            raise InputError("quantity", new.quantity, ", ".join(PROVED), "no such reading")
        if new.run is not None:
            raise InputError(
                "run", new.run, "a step or a run", "a reading is of a step or of a run, not of both"
            )
        self.values[i] = typed_value(new, PROVED[new.quantity].dimension, zero=True)
        if (step, new.quantity) not in expected:
            raise InputError("step", step, "a step that runs", "nothing is expected at this step")
        if self.values[i] is not None:
            _must_be_open(frame(loaded.state), loaded, Stage.PROVE, new.quantity)
            _no_slip(
                new, self.values[i] or 0.0, expected[step or 0, new.quantity], PROVED[new.quantity].dimension
            )

    # ---------------------------------------------------------------- what each corrects

    def _linked(self, expected: Mapping[tuple[int, str], tuple[float, float]]) -> list[Weighed]:
        loaded = self.loaded
        filed = loaded.design.root if loaded.design and loaded.design.regulator is not None else None
        newest = {(r.quantity, r.step, r.run_id, r.design_id): r for r in loaded.readings}
        by_id = {r.id: r for r in loaded.readings}
        found: list[Weighed] = []
        here: dict[object, int] = {}
        count = 0
        for i, (new, at) in enumerate(self.wanted):
            if i in self.refused:
                found.append(self.refused[i])
                continue
            thing = (new.quantity, new.step, new.run, filed if new.step is not None else None)
            before = newest.get(thing) if self.follow else None
            if not self.follow and new.supersedes is not None:
                before = by_id.get(new.supersedes)
                if before is None or (before.quantity, before.step, before.run_id, before.design_id) != thing:
                    allowed = "an earlier reading of the same thing in this job"
                    found.append(
                        InputError("supersedes", new.supersedes, allowed, "it corrects no reading of this")
                    )
                    continue
            found.append(
                Taken(
                    self._label(i),
                    before,
                    here.get(thing) if self.follow else None,
                    self._row(i, at, expected, filed),
                )
            )
            here[thing] = count
            count += 1
        return found

    def _label(self, i: int) -> str:
        new = self.wanted[i][0]
        if new.step is None:
            return self.asked[i].label
        return f"{new.quantity.rpartition('_')[0].replace('_', ' ')} at step {new.step}"

    def _row(
        self,
        i: int,
        at: datetime | None,
        expected: Mapping[tuple[int, str], tuple[float, float]],
        filed: int | None,
    ) -> dict[str, Any]:
        new, loaded = self.wanted[i][0], self.loaded
        row: dict[str, Any] = {
            "fan_id": loaded.fan.id,
            "job_id": loaded.job.id,
            "quantity": new.quantity,
            "value": self.values[i],
            "typed": new.text,
            "who": new.who,
            "taken_at": at,
        }
        if new.step is not None:
            return row | {"design_id": filed, "step": new.step, "expected": expected[new.step, new.quantity]}
        sigma = self.sigmas[i]
        meter = new.instrument if sigma is not None else None
        winding, celsius = _winding(self.windings.get(i))
        own = {"winding": winding, "winding_c": celsius}
        return row | own | {"run_id": new.run, "instrument_id": meter, "sigma": sigma, "aside": new.aside}


def _winding(said: OhmsAt | None) -> tuple[str | None, float | None]:
    return (None, None) if said is None else (said.warmth.value, said.celsius)


_BEYOND = (
    "beyond the meter's range: nothing to compute with; an open winding is written into the lead sheet, a section as "
    "open or short",
    "open, short, or like 2u44",
)


def typed_value(new: NewReading, dimension: q.Dimension, *, zero: bool = False) -> float | None:
    """The value of a typed reading; None takes back what it corrects. Raises InputError."""
    if not new.text and new.supersedes is not None:
        return None
    # A fan that stands reads nought, which is a finding and not a slip.
    if zero and new.text in ("0", "0 rpm", "0 V", "0 A", "0rpm", "0V", "0A", "0 mA", "0mA"):
        return 0.0
    base = new.quantity.partition(":")[0]
    text = winding_said(new.quantity, new.text)[0] if base in WINDING_OHMS else new.text
    if base in (LEAD_OHM, FRAME_OHM):
        # Repeats are averaged; "open" is beyond the meter's last range.
        ohms = [min(v, OPEN_READING) for v in parse_ohms(new.quantity, text)]
        return sum(ohms) / len(ohms)
    if base == SECTION_F and new.text.strip().lower() in ("open", "0", "short"):
        return SHORT_READING if new.text.strip().lower() == "short" else 0.0
    if q.beyond_range(text):
        raise InputError(new.quantity, new.text, _BEYOND[1] if base == SECTION_F else "", _BEYOND[0])
    value = q.parse(new.quantity, text, dimension)
    if value <= 0 and not zero and dimension is not q.TEMPERATURE:
        raise InputError(new.quantity, new.text, "above zero", "must be above zero")
    return value


_FAR = 30.0
"""How much less than at full speed amps and watts may be in a run [-]"""


def _no_slip(new: NewReading, value: float, expected: tuple[float, float], dimension: q.Dimension) -> None:
    """A bare number a thousand times off is asked about; typed with its unit it is taken as it stands."""
    meant = q.meant(new.text, value, *expected, dimension)
    if meant:
        around = q.show((expected[0] + expected[1]) / 2, dimension, 2)
        words = f"reads as {q.show(value, dimension)}, where about {around} is expected"
        raise InputError(new.quantity, new.text, "the same with its unit, if it is meant so", words, meant)


def _must_be_open(computed: Frame, loaded: Loaded, stage: Stage, quantity_name: str) -> None:
    gate = blocking(computed.cautions, stage, quantity_name, loaded.confirmed_keys)
    if gate:
        raise Gated(gate.key, gate.do)
