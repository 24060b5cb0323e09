"""Why a reading may be off: the slips people make, tried on the reading against what the others imply."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from fenwit.core.calibrate.fit import Belief, ReadingCheck
from fenwit.core.errors import check_range

_ALIKE = 0.06
"""How near the corrected reading must come, at the least [-]"""


@dataclass(frozen=True)
class _Slip:
    quantities: tuple[str, ...]
    factor: float
    words: str


_ANY = ("",)
_VOLTS = ("capacitor_voltage_v", "motor_voltage_v")
_SLIPS = (
    _Slip(_ANY, 1000.0, "a thousand too much: milli taken for the unit, or the unit for kilo?"),
    _Slip(_ANY, 1e-3, "a thousand too little: the unit taken for milli, or kilo for the unit?"),
    _Slip(("speed_rpm",), 2.0, "twice as much: does the pick-up see two marks a turn?"),
    _Slip(("speed_rpm",), 0.5, "half as much: is a pulse for every turn counted, or one for two?"),
    _Slip(_VOLTS, math.sqrt(3), "√3 too much: line to line read instead of line to neutral?"),
    _Slip(_VOLTS, 1 / math.sqrt(3), "√3 too little: line to neutral read instead of line to line?"),
    _Slip(("line_current_a", "auxiliary_current_a"), 2.0, "twice as much: two turns through the clamp?"),
    _Slip(_ANY, 100.0, "a hundred times as much: a slip of the decimal point by two places, or the range?"),
    _Slip(_ANY, 0.01, "a hundredth: a slip of the decimal point by two places, or the range?"),
    _Slip(_ANY, 10.0, "ten times as much: a slip of the decimal point or the range?"),
    _Slip(_ANY, 0.1, "a tenth: a slip of the decimal point or the range?"),
)


def likely_cause(
    belief: Belief, check: ReadingCheck, on_other_taps: Mapping[str, Mapping[str, float]] | None = None
) -> str:
    """The slip that would explain a reading which the others do not bear out.

    Parameters
    ----------
    belief : Belief
        The fan [-]
    check : ReadingCheck
        The reading in question [-]
    on_other_taps : mapping or None
        What each other tap would read, by tap and quantity [any]

    Returns
    -------
    str
        In words, a question; asks to read again where no slip explains it [-]

    Raises
    ------
    InputError
        A reading or an implied value that is not above zero.
    """
    read = float(check_range("read", check.read, 1e-12, 1e12, ""))
    implied = float(check_range("implied", check.implied, 1e-12, 1e12, ""))
    if check.quantity == "run_capacitance_f":
        return (
            "every other reading agrees without it: is it another capacitor's value, a slip of the point, or has the "
            "capacitor failed? Measure it"
        )
    ratio = math.log(read / implied)
    reach = max(_ALIKE, 0.5 * abs(ratio / max(abs(check.odd_by), 1e-9)) * 3)
    # The less the others imply, the wider a slip may miss; a factor of √3 and one of two are still told apart.
    reach = min(reach, 0.30)
    found: list[tuple[float, str]] = []
    for slip in _SLIPS:
        if slip.quantities is _ANY or check.quantity in slip.quantities:
            found.append((abs(ratio - math.log(slip.factor)), slip.words))
    if check.quantity == "input_power_w" and check.run is None and belief.datum.line_current_a:
        apparent = belief.datum.line_current_a.value * belief.datum.supply_voltage_v
        if read / apparent > 0.97:
            found.append(
                (abs(math.log(read / apparent)), "these are volts times amps: was volt-amps read for watts?")
            )
    for tap, values in (on_other_taps or {}).items():
        if check.quantity in values:
            found.append(
                (
                    abs(math.log(read / values[check.quantity])),
                    f"it is what the {tap} tap would read: taken there?",
                )
            )
    if check.quantity == "main_resistance_ohm" and belief.datum.auxiliary_resistance_ohm is not None:
        both = implied + belief.datum.auxiliary_resistance_ohm.value
        found.append((abs(math.log(read / both)), "main and auxiliary in series read for the main alone?"))
    if check.quantity == "power_factor" and read > 0.99:
        return "a power factor of 1 is rare on a fan: was it read or assumed?"
    near = min(found, default=(math.inf, ""))
    if near[0] < reach:
        return near[1]
    if check.quantity in ("capacitor_voltage_v", "auxiliary_current_a"):
        return "no usual slip explains it: has the run capacitor lost what its label says? Measure it"
    return "no usual slip explains it: read it again, with another meter if there is one"
