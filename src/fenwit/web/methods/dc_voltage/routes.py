"""What only lowered DC volts answer to: each way of lowering them at the wanted speeds."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.methods.dc_voltage import DC_VOLTAGE
from fenwit.core.methods.dc_voltage.design import Way
from fenwit.core.methods.dc_voltage.parts import built
from fenwit.core.methods.dc_voltage.search import made
from fenwit.core.methods.dc_voltage.steps import setting
from fenwit.web import routing
from fenwit.web.fields import Db, JobId, Rpm
from fenwit.web.heavy import HEAVY
from fenwit.web.methods.dc_voltage.edit import VoltsEdit, typed
from fenwit.web.methods.looked import at_speeds, subject_of
from fenwit.web.page import load_state

router = routing.router("/api/jobs/{job_id}", "volts")


class VoltsAsked(BaseModel):
    """For which speeds."""

    wanted_rpm: Annotated[list[Rpm], Field(max_length=20)] | None = None


class WayShown(BaseModel):
    """One way of lowering the volts."""

    way: Way
    design: VoltsEdit | None = None
    labels: list[str] = []
    heat_text: str = ""
    note: str = ""
    """Why it is none, or what stands against it"""


class VoltsShown(BaseModel):
    """Every way, and what of the fan decides."""

    note: str = ""
    ways: list[WayShown] = []
    facts: list[str] = []


@router.post("/volts", dependencies=[HEAVY])
def show_volts(job_id: JobId, asked: VoltsAsked, db: Db) -> VoltsShown:
    """A resistor, a linear and a switching regulator for the wanted speeds."""
    state = at_speeds(load_state(db, job_id), asked.wanted_rpm)
    fan = subject_of(state, DC_VOLTAGE)
    if isinstance(fan, str):
        return VoltsShown(note=fan)
    ways = []
    for way in (Way.SWITCHING, Way.LINEAR, Way.RESISTOR):
        try:
            design = made(fan, state.wanted_rpm, way)
            found = [setting(fan, design, s) for s in design.settings]
            heat = max((m.loss_w for m in found), default=0.0)
            refusal = next((p.refusal for p in built(fan, design).parts if p.refusal), "")
            labels = [s.label for s in DC_VOLTAGE.steps(fan, design, state.wanted_rpm, False)]
            ways.append(
                WayShown(
                    way=way, design=typed(design), labels=labels, note=refusal,
                    heat_text=f"{q.show(heat, q.POWER, 2)} heat at most" if fan.amps_known else "",
                )
            )  # fmt: skip
        except InputError as error:
            ways.append(WayShown(way=way, note=error.reason))
    return VoltsShown(ways=ways, facts=list(DC_VOLTAGE.suits(fan, state.wanted_rpm)))
