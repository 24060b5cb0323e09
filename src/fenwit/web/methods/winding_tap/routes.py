"""What only winding taps answer to: what every tap does, what two at once would do, and which tap for which duty."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.methods.winding_tap import WINDING_TAP
from fenwit.core.methods.winding_tap.fan import TappedFan, highest_idle_v, on
from fenwit.core.methods.winding_tap.search import usual
from fenwit.core.motor.taps import StartBranch
from fenwit.web import routing
from fenwit.web.duty import NO_DUTY, DutiesShown, duties_shown
from fenwit.web.fields import Db, JobId, Rpm
from fenwit.web.heavy import HEAVY
from fenwit.web.methods.looked import looked_at
from fenwit.web.methods.winding_tap.edit import TapsEdit, read, typed

router = routing.router("/api/jobs/{job_id}", "taps")


class TapsAsked(BaseModel):
    """Which taps are looked at."""

    wanted_rpm: Annotated[list[Rpm], Field(max_length=20)] | None = None
    design: TapsEdit | None = None
    """None: what is chosen, if anything"""


class TapShown(BaseModel):
    """One tap of the motor."""

    name: str
    lead: str
    turns_text: str
    speed_texts: list[str]
    """One for each way the start branch may hang"""
    amps_texts: list[str]
    capacitor_texts: list[str]
    idle_text: str
    """Most volts at the leads that are not fed"""


class BranchShown(BaseModel):
    """A way the start branch may hang."""

    key: StartBranch
    text: str


class TapsShown(BaseModel):
    """Every tap, the switch that suits, and what the design looked at does."""

    taps: list[TapShown]
    branches: list[BranchShown]
    """Those that may be"""
    known: bool
    """Whether the leads, or somebody, say how the start branch hangs"""
    note: str
    usual: TapsEdit | None
    duty: DutiesShown


_BRANCHES = {
    StartBranch.WHOLE_SUPPLY: "across the whole supply",
    StartBranch.MAIN_SECTION: "across the main section",
}


@router.post("/taps", dependencies=[HEAVY])
def show_taps(job_id: JobId, asked: TapsAsked, db: Db) -> TapsShown:
    """Every tap with its speed, and which one for which duty."""
    looked = looked_at(db, job_id, WINDING_TAP, read, asked.wanted_rpm, asked.design)
    if isinstance(looked, str):
        return _nothing(looked)
    state, fan, design = looked.state, looked.fan, looked.design
    branches = fan.branches(design.branch if design else None)
    try:
        suits: TapsEdit | None = typed(usual(fan, state.wanted_rpm, state))
        note = ""
    except InputError as refused:
        suits, note = None, f"{refused.reason}."
    steps = WINDING_TAP.steps(fan, design, state.wanted_rpm, False) if design else ()
    return TapsShown(
        taps=[_tap(fan, name, branches) for name in (t.name for t in fan.taps)],
        branches=[BranchShown(key=b, text=_BRANCHES[b]) for b in StartBranch],
        known=fan.found_branch is not None,
        note=note,
        usual=suits,
        duty=duties_shown(fan, design.duty if design else None, steps),
    )


def _nothing(note: str) -> TapsShown:
    return TapsShown(
        taps=[],
        branches=[BranchShown(key=b, text=words) for b, words in _BRANCHES.items()],
        known=False,
        note=note,
        usual=None,
        duty=NO_DUTY,
    )


def _tap(fan: TappedFan, name: str, branches: tuple[StartBranch, ...]) -> TapShown:
    points = [on(fan, name, branch).running for branch in branches]
    idle = highest_idle_v(fan, name, branches)
    return TapShown(
        name=name,
        lead=fan.lead(name),
        turns_text=f"{fan.tap(name).turns:.2f}",
        speed_texts=[f"{p.speed_rpm:.0f} rpm" if p else "stands" for p in points],
        amps_texts=[q.show(p.line_current_a, q.CURRENT) if p else "" for p in points],
        capacitor_texts=[
            f"{p.capacitor_voltage_v:.0f} V" if p and p.capacitor_voltage_v else "" for p in points
        ],
        idle_text=f"{idle:.0f} V" if idle else "",
    )
