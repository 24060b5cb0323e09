"""The lamp test: a lamp for each tap before the motor is joined, and a jumper where the thermostat calls."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from fenwit.core.circuit.wiring.parts import (
    Joined,
    Kind,
    Load,
    Motor,
    Place,
    Role,
    Switch,
    Thermostat,
    WiredPart,
    Wiring,
)
from fenwit.core.circuit.wiring.walk import Walked

_APART = "|"


@dataclass(frozen=True)
class LampTest:
    """A jumper at the thermostat, and the taps whose lamps light."""

    jumper: tuple[str, str] | None
    lit: tuple[str, ...]


def lamp_tests(wiring: Wiring) -> tuple[LampTest, ...]:
    """Which lamps light with each jumper; two at once are harmless here and mean two taps alive later.

    Parameters
    ----------
    wiring : Wiring
        The circuit [-]

    Returns
    -------
    tuple of LampTest
        First without a jumper, then for every output of every thermostat; none where there is neither [-]
    """
    motors = [p for p in wiring.of(Kind.MOTOR) if isinstance(p.spec, Motor)]
    stats = [p for p in wiring.of(Kind.THERMOSTAT) if isinstance(p.spec, Thermostat)]
    if not motors or not stats:
        return ()
    jumpers: list[tuple[str, str] | None] = [None]
    for part in stats:
        spec = part.as_a(Thermostat)
        outputs = dict.fromkeys(o for _, outs in spec.calls for o in outs)
        jumpers += [(part.at(spec.common), part.at(o)) for o in outputs]
    return tuple(LampTest(j, _lit(wiring, j)) for j in jumpers)


def _lit(wiring: Wiring, jumper: tuple[str, str] | None) -> tuple[str, ...]:
    parts: list[WiredPart] = []
    moved: dict[str, list[str]] = {}
    taps: list[tuple[str, str]] = []
    for part in wiring.parts:
        spec = part.spec
        if isinstance(spec, Motor):
            for tap in spec.taps:
                lamp = f"{part.id}{_APART}{tap}"
                parts.append(WiredPart(lamp, Kind.LAMP, ("1", "2"), Load(spec.volts, 15.0, None, False, "")))
                moved.setdefault(part.at(tap), []).append(f"{lamp}.1")
                moved.setdefault(part.at(spec.common), []).append(f"{lamp}.2")
                taps.append((lamp, part.at(tap)))
            parts.append(replace(part, kind=Kind.STRIP, spec=Joined(), metal=False))
        elif isinstance(spec, Thermostat):
            links = (
                ((jumper[0].partition(".")[2], jumper[1].partition(".")[2]),)
                if jumper and _is_at(part, jumper)
                else ()
            )
            parts.append(replace(part, kind=Kind.STRIP, spec=Joined(links)))
        elif isinstance(spec, Switch) and spec.power is None:
            parts.append(replace(part, spec=replace(spec, positions=(_usual(spec),))))
        else:
            parts.append(part)
    nets = tuple((name, (*joined, *_more(joined, moved))) for name, joined in wiring.nets)
    walked = Walked(Wiring("", tuple(parts), nets))
    live = walked.live(walked.rows[0].first)
    return tuple(tap for lamp, tap in taps if live.load_state(_part(parts, lamp)) == "on")


def _is_at(part: WiredPart, jumper: tuple[str, str]) -> bool:
    return jumper[0].partition(".")[0] == part.id


def _more(joined: Iterable[str], moved: dict[str, list[str]]) -> list[str]:
    return [lamp for terminal in joined for lamp in moved.get(terminal, ())]


def _part(parts: Iterable[WiredPart], name: str) -> WiredPart:
    return next(p for p in parts if p.id == name)


def _usual(spec: Switch) -> Place:
    """Shut doors and limits; other switches where they begin."""
    if spec.role in (Role.DOOR, Role.LIMIT):
        return next((p for p in spec.positions if p.name != "open"), spec.positions[0])
    return spec.positions[0]
