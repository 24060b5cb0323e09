"""What a duty on the control lead is compared by: watts of the whole fan, since nothing of its inside is known."""

from __future__ import annotations

from fenwit.core import quantity as q
from fenwit.core.job.state import JobState
from fenwit.core.methods.common.mapped import merit_of
from fenwit.core.methods.pwm.design import LOGIC_A
from fenwit.core.methods.pwm.fan import DutyFan
from fenwit.core.methods.pwm.parts import LOGIC_V, logic_loss_w
from fenwit.core.methods.pwm.steps import ideal
from fenwit.core.methods.seam import Compared
from fenwit.core.size.merits import Failing, Merits, Piece


def compared(fan: DutyFan, state: JobState, glance: bool) -> tuple[Compared, ...]:
    """One row: the fan keeps its full supply, and its electronics do the rest."""
    steps = ideal(fan, state.wanted_rpm, glance)
    heat = logic_loss_w(fan.supply_voltage_v, LOGIC_A)
    found = tuple(merit_of(fan, s, heat + LOGIC_V * LOGIC_A) for s in steps)
    unmet = tuple(s.need.reason if s.need and s.need.reason else "" for s in steps)
    row = Merits(
        variant="",
        name="duty on the control lead",
        steps=found,
        unmet=unmet,
        hottest=f"logic regulator, {q.plain(heat, 2)} W",
        hottest_w=heat,
        slowest_rpm=fan.speeds.slowest_rpm,
        jump_rpm=0.0,
        stepless=True,
        built_text="timer, one open drain, its lead; supply whole",
        built_rpm=tuple(s.shown.speed_rpm if s.shown else 0.0 for s in steps),
        pieces=((Piece.CONTROLLER, 1), (Piece.FUSE, 1), (Piece.BOX, 1)),
        regulator_hum="none; the fan's own commutation",
        failures=(
            Failing("control lead off", "full speed", "stands low: slowest, or stands"),
            Failing("timer", "as its last level says: make that full speed", "full speed, or stands"),
            Failing("tachometer", "reads nothing; the fan runs on", ""),
        ),
        note="full torque at low speed, a tachometer that stays valid, cool electronics",
    )
    return (Compared(row, steps),)
