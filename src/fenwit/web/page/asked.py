"""What a technician reads: what each reading is called, what it takes, and the one that stands."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fenwit.core import quantity as q
from fenwit.core.calibrate.datum import OhmsAt, Warmth
from fenwit.core.calibrate.leads import OPEN_OHM
from fenwit.core.caution import DEAD_READINGS, Caution, Stage, blocking
from fenwit.core.job.findings import FRAME_OHM, LEAD_OHM, SECTION_ESR, SECTION_F, Findings
from fenwit.core.job.state import InLine
from fenwit.core.job.steps import Quantity
from fenwit.core.methods import REGULATIONS
from fenwit.core.motor.kinds import KINDS, MotorKind, SubjectKind
from fenwit.core.regulator.sweep import sweep, sweep_words
from fenwit.store import readings, runs
from fenwit.web.models import RunShown, SweepShown, SweptRow, Wanted
from fenwit.web.page.loading import Loaded, run_state

WINDING_OHMS = ("main_resistance_ohm", "auxiliary_resistance_ohm", LEAD_OHM)
"""Readings that say how warm the winding was"""


@dataclass(frozen=True)
class Asked:
    """A value the technician types: what it is called and what it takes."""

    field: str
    label: str
    dimension: q.Dimension
    hint: str


NAMEPLATE = (
    Asked("poles", "poles", q.POLES, "16"),
    Asked("rated_voltage_v", "rated volts", q.VOLTAGE, "230V"),
    Asked("rated_frequency_hz", "rated hertz", q.FREQUENCY, "50Hz"),
    Asked("rated_speed_rpm", "rated rpm", q.SPEED, "330"),
    Asked("rated_current_a", "rated amps", q.CURRENT, "0.32 A"),
    Asked("rated_power_w", "rated watts, VA or hp", q.POWER, "75W"),
    Asked("run_capacitance_f", "run capacitor", q.CAPACITANCE, "2u5 or 2.5 µF"),
    Asked("airflow_m3_per_s", "airflow", q.AIRFLOW, "800 cfm"),
    Asked("sweep_m", "blade sweep", q.LENGTH, "48 in"),
    Asked("ambient_c", "room at most", q.TEMPERATURE, "40 °C"),
)
MEASURED = (
    Asked("supply_voltage_v", "supply volts", q.VOLTAGE, "230V"),
    Asked("speed_rpm", "full speed", q.SPEED, "330"),
    Asked("line_current_a", "line amps", q.CURRENT, "0.318 A"),
    Asked("input_power_w", "input watts", q.POWER, "73W"),
    Asked("capacitor_voltage_v", "volts across run capacitor", q.VOLTAGE, "running, true rms"),
    Asked("main_resistance_ohm", "main winding", q.RESISTANCE, "260 or 260 warm"),
    Asked("auxiliary_resistance_ohm", "auxiliary winding", q.RESISTANCE, "290"),
    Asked("run_capacitance_f", "run capacitor", q.CAPACITANCE, "as read: 2u44"),
    Asked("frequency_hz", "supply hertz", q.FREQUENCY, "50Hz"),
    Asked("power_factor", "power factor", q.POWER_FACTOR, "0.93"),
    Asked("auxiliary_current_a", "auxiliary amps", q.CURRENT, "in the capacitor's lead"),
    Asked("locked_rotor_current_a", "amps, rotor held", q.CURRENT, "two seconds at most"),
    Asked("run_up_s", "run-up", q.TIME, "seconds to 95 % of full"),
    Asked("hot_resistance_ohm", "main winding, hot", q.RESISTANCE, "right after stopping"),
    Asked("cold_temperature_c", "room temperature", q.TEMPERATURE, "20 °C"),
)
IN_RUN = (
    "speed_rpm",
    "line_current_a",
    "motor_voltage_v",
    "input_power_w",
    "supply_voltage_v",
    "power_factor",
    "capacitor_voltage_v",
    "auxiliary_current_a",
    "locked_rotor_current_a",
    "frequency_hz",
)
"""Read in a run away from full speed"""
_TWO_WINDINGS = (
    "capacitor_voltage_v",
    "auxiliary_current_a",
    "auxiliary_resistance_ohm",
    "run_capacitance_f",
)
RUN_ONLY = {
    "speed_rpm": Asked("speed_rpm", "rpm", q.SPEED, ""),
    "motor_voltage_v": Asked("motor_voltage_v", "motor volts", q.VOLTAGE, "across the motor, true rms"),
}
PROVED: dict[str, Quantity] = {what.key: what for r in REGULATIONS.values() for what in r.quantities}
"""What is read at the steps of a regulator, whatever its method"""


def typed_value(value: float | None, dimension: q.Dimension) -> str:
    if value is None:
        return ""
    return str(round(value)) if dimension is q.POLES else q.show(value, dimension, 4)


_OF_AC = ("rated_frequency_hz", "frequency_hz", "power_factor", "poles", "locked_rotor_current_a", "main_resistance_ohm",
          "hot_resistance_ohm", "auxiliary_current_a", "capacitor_voltage_v", "motor_voltage_v", "run_up_s",
          "cold_temperature_c", "run_capacitance_f")  # fmt: skip


_DC_HINTS = {
    "supply_voltage_v": "12V", "speed_rpm": "2400", "line_current_a": "150m", "input_power_w": "1.8W",
}  # fmt: skip


def on_dc(kind: str | None) -> bool:
    """Whether a kind runs on DC: it has no hertz, and no windings that one could read."""
    return kind is not None and KINDS[MotorKind(kind)].dc


def is_mapped(kind: str | None) -> bool:
    """Whether a fan of a kind is known by a map of speeds."""
    return kind is not None and KINDS[MotorKind(kind)].subject is SubjectKind.MAPPED


def has_control_lead(kind: str | None) -> bool:
    """Whether a fan of a kind has a lead of its own that sets its speed."""
    return kind is not None and KINDS[MotorKind(kind)].control_lead


def has_control_input(kind: str | None) -> bool:
    """Whether a fan of a kind has terminals of its own that set its speed, by a voltage."""
    return kind is not None and KINDS[MotorKind(kind)].control_input


def fitting(asked: Sequence[Asked], kind: str | None) -> list[Asked]:
    """Readings that make sense for a kind: a motor without a run capacitor has no capacitor volts."""
    single = kind is not None and kind not in (MotorKind.PSC.value, MotorKind.PSC_TAPPED.value)
    none = (*(_TWO_WINDINGS if single else ()), *(_OF_AC if is_mapped(kind) else ()))
    return [a for a in asked if a.field not in none]


def sheet_asked(findings: Findings) -> list[Asked]:
    """Ohms between all leads in the order of probing, each lead to frame, and the sections of the block."""
    leads = findings.leads
    found = [
        Asked(f"{LEAD_OHM}:{a.key}:{b.key}", f"{a.name} to {b.name}", q.RESISTANCE, "")
        for i, a in enumerate(leads)
        for b in leads[i + 1 :]
    ]
    found += [Asked(f"{FRAME_OHM}:{a.key}", f"{a.name} to frame", q.RESISTANCE, "open") for a in leads]
    for section in findings.block.sections if findings.block else ():
        found.append(
            Asked(
                f"{SECTION_F}:{section.name}",
                f"section {section.name}",
                q.CAPACITANCE,
                "as read, open or short",
            )
        )
        found.append(
            Asked(f"{SECTION_ESR}:{section.name}", f"ESR of {section.name}", q.RESISTANCE, "if known")
        )
    return found


def run_asked(kind: str | None) -> list[Asked]:
    """What can be read in a run."""
    by_field = {a.field: a for a in MEASURED} | RUN_ONLY
    return fitting([by_field[name] for name in IN_RUN], kind)


def run_row(run: runs.Run, loaded: Loaded, found: Sequence[Caution], keys: set[str]) -> RunShown:
    state = run_state(run, readings.standing(loaded.readings))
    rows = [wanted_row(a, loaded, found, keys, run=run.id) for a in run_asked(loaded.fan.motor_kind)]
    if state.what is InLine.LOCKED:
        rows = [r for r in rows if r.quantity in ("locked_rotor_current_a", "supply_voltage_v")]
    else:
        rows = [r for r in rows if r.quantity != "locked_rotor_current_a"]
    return RunShown(id=run.id, what=run.what, label=state.label, readings=rows, empty=not state.readings)


def sweep_shown(loaded: Loaded, found: Sequence[Caution], keys: set[str]) -> SweepShown | None:
    """The sweep of frequencies of a fan with a control lead; without rows while nobody began one."""
    if not has_control_lead(loaded.fan.motor_kind):
        return None
    mine = {(r.frequency_hz, r.value): r for r in loaded.runs if r.frequency_hz is not None and not r.gone}
    states = [run_state(r, readings.standing(loaded.readings)) for r in mine.values()]
    told = sweep([one for s in states if (one := s.swept) is not None])
    rows = []
    for row in told.rows:
        cells = [run for (hz, _), run in mine.items() if hz == row.frequency_hz]
        rows.append(
            SweptRow(
                frequency_text=f"{row.frequency_hz / 1e3:g} kHz", verdict=row.verdict,
                off_text="" if row.off_share is None else f"{100 * row.off_share:.1f} %",
                runs=[_speed_only(run_row(c, loaded, found, keys)) for c in sorted(cells, key=lambda r: r.value or 0)],
            )
        )  # fmt: skip
    duties = sorted({r.value or 0.0 for r in mine.values()})
    return SweepShown(
        duties=[f"{100 * d:.0f} %" for d in duties], rows=[r for r in rows if r.runs], words=sweep_words(told)
    )


def _speed_only(run: RunShown) -> RunShown:
    return run.model_copy(update={"readings": [r for r in run.readings if r.quantity == "speed_rpm"]})


def wanted_row(
    asked: Asked,
    loaded: Loaded,
    found: Sequence[Caution],
    keys: set[str],
    stage: Stage = Stage.MEASURE,
    run: int | None = None,
) -> Wanted:
    mine = [r for r in loaded.readings if r.step is None and r.run_id == run and r.quantity == asked.field]
    newest = mine[-1] if mine else None
    gate = blocking(found, stage, asked.field, keys)
    base = asked.field.partition(":")[0]
    return Wanted(
        quantity=asked.field,
        label=asked.label,
        hint=_DC_HINTS.get(asked.field, asked.hint) if on_dc(loaded.fan.motor_kind) else asked.hint,
        dead=base in DEAD_READINGS or base == "cold_temperature_c",
        text=_reading_text(newest, asked),
        reading_id=newest.id if newest else None,
        who=newest.who if newest else "",
        taken_at=newest.taken_at if newest and newest.value is not None else None,
        gated_by=gate.key if gate else None,
        aside=bool(newest and newest.aside),
        uncertainty=f"±{100 * 1.645 * newest.sigma:.2g} %" if newest and newest.sigma else "",
        instrument_id=newest.instrument_id if newest else None,
        winding=_winding(newest, base),
    )


def said_reading(reading: readings.Reading, sheet: Sequence[Asked]) -> str:
    """A reading with its unit and one decimal sign, whoever typed it how; what it was corrected by does not matter."""
    if reading.value is None:
        return "taken back"
    if "±" in reading.typed:
        return reading.typed.replace(",", ".")
    if reading.step is not None:
        what = PROVED.get(reading.quantity)
        asked = Asked(what.key, what.name, what.dimension, "") if what else None
    else:
        known = {a.field: a for a in (*MEASURED, *RUN_ONLY.values(), *sheet)}
        asked = known.get(reading.quantity)
    if asked is None:
        return reading.typed
    text = _reading_text(reading, asked)
    return f"{text} Ω" if text[-1:].isdigit() and asked.dimension is q.RESISTANCE else text


def _winding(newest: readings.Reading | None, base: str) -> str:
    if base not in WINDING_OHMS or newest is None or newest.value is None:
        return ""
    return OhmsAt(Warmth(newest.winding or Warmth.COLD), newest.winding_c).words


def _reading_text(newest: readings.Reading | None, asked: Asked) -> str:
    if newest is None or newest.value is None:
        return ""
    said = _winding(newest, asked.field.partition(":")[0]) if newest.winding is not None else ""
    return f"{_value_text(newest, newest.value, asked)} {said}".strip()


def _value_text(newest: readings.Reading, value: float, asked: Asked) -> str:
    base = asked.field.partition(":")[0]
    if base in (LEAD_OHM, FRAME_OHM):
        if value >= (OPEN_OHM if base == LEAD_OHM else OPEN_READING):
            # What the meter could not show is told as it was typed: ">200M" is less than "open".
            return newest.typed if newest.typed.startswith(">") else "open"
        return q.plain(value, 5) if value < 1e4 else q.show(value, q.RESISTANCE, 4)
    if base == SECTION_F and value == 0:
        return "open"
    if base == SECTION_F and value >= SHORT_READING:
        return "short"
    if asked.dimension is q.POWER_FACTOR:
        return f"{value:g}"
    return typed_value(value, asked.dimension)


OPEN_READING, SHORT_READING = 2e7, 1e-3
"""What "open" on an ohmmeter and "short" on a capacitance meter are stored as: the ends of their ranges [Ω, F]"""
