"""Cross-sections of wires by amps and by drop; a table to begin with, the local code decides."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fenwit.core.circuit.wiring.hazards import consumers
from fenwit.core.circuit.wiring.parts import EXTRA_LOW_V, Cable, Wiring
from fenwit.core.errors import InputError, check_range

COPPER_WARM = 0.0225
"""Resistivity of copper at 70 °C [Ω mm²/m]"""
USUAL: tuple[tuple[float, float], ...] = ((0.5, 3.0), (0.75, 6.0), (1.0, 10.0), (1.5, 16.0), (2.5, 20.0))
"""Cross-section and the amps it is usually trusted with; 0.5 mm² for control only [mm², A]"""
MAINS_DROP, CONTROL_DROP = 0.03, 0.10
"""Of the volts: as much may be lost on the way [-]"""


@dataclass(frozen=True)
class Gauge:
    """What a cable carries at most, and what is lost in it."""

    amps: float
    drop_v: float | None
    """None: its length is not known [V]"""
    drop_share: float | None
    least_mm2: float | None
    """None: more than the table goes to [mm²]"""
    enough: bool | None
    """Whether the cable's own cross-section suffices; None: not stated"""


def drop_v(length_m: float, amps: float, csa_mm2: float) -> float:
    """Volts lost in a pair of cores, there and back.

    Parameters
    ----------
    length_m : float
        Of the cable, one way [m]
    amps : float
        Through both cores [A]
    csa_mm2 : float
        Cross-section of a core [mm²]

    Returns
    -------
    float
        ΔU = 2 ρ ℓ I / A [V]

    Raises
    ------
    InputError
        A length, current or cross-section that cannot be.
    """
    check_range("length_m", length_m, 0.0, 5000.0, "m")
    check_range("amps", amps, 0.0, 1000.0, "A")
    check_range("csa_mm2", csa_mm2, 0.05, 400.0, "mm²")
    return 2 * COPPER_WARM * length_m * amps / csa_mm2


def least_mm2(
    amps: float, volts: float, length_m: float, control: bool, table: Sequence[tuple[float, float]] = USUAL
) -> float | None:
    """The smallest cross-section of a table that carries the amps and keeps the drop.

    Parameters
    ----------
    amps : float
        Through it [A]
    volts : float
        At its start [V]
    length_m : float
        One way; 0 where it is not known [m]
    control : bool
        Whether it is a control cable, which may lose more and be thinner [-]
    table : sequence of tuple
        Cross-section and its amps, rising [mm², A]

    Returns
    -------
    float or None
        Cross-section; None where the table ends before [mm²]

    Raises
    ------
    InputError
        Amps, volts or a length that cannot be.
    """
    check_range("volts", volts, 0.5, 1000.0, "V")
    share = CONTROL_DROP if control else MAINS_DROP
    for csa, limit in table:
        if csa < 0.75 and not control:
            continue
        if amps <= limit and drop_v(length_m, amps, csa) <= share * volts:
            return csa
    return None


def gauge_of(wiring: Wiring, cable: Cable) -> Gauge | None:
    """What a cable has to carry: all consumers of its kind that lie beyond it, seen from the first supply.

    Parameters
    ----------
    wiring : Wiring
        The circuit [-]
    cable : Cable
        One of its cables [-]

    Returns
    -------
    Gauge or None
        None where nothing that takes current lies beyond it [-]
    """
    control = cable.purpose == "control"
    beyond = _beyond(wiring, cable)
    amps, volts = 0.0, 0.0
    for consumer in consumers(wiring):
        low = consumer.rated_v <= EXTRA_LOW_V
        if low == control and consumer.va and wiring.place_of[consumer.part.id] in beyond:
            amps += consumer.va / consumer.rated_v
            volts = max(volts, consumer.rated_v)
    if not amps:
        return None
    length, csa = cable.length_m or 0.0, cable.csa_mm2
    lost = drop_v(length, amps, csa) if csa is not None and length else None
    try:
        least = least_mm2(amps, volts, length, control)
    except InputError:
        least = None
    enough = None if csa is None or least is None else csa >= least
    return Gauge(amps, lost, None if lost is None else lost / volts, least, enough)


def _beyond(wiring: Wiring, cable: Cable) -> set[str]:
    """Places that are reached from the supply's place through this cable only."""
    first = wiring.place_of[wiring.supply.id] if wiring.supply else (wiring.places or ("",))[0]
    reached, grown = {first}, True
    while grown:
        grown = False
        for other in wiring.cables:
            if (
                other is not cable
                and other.purpose == cable.purpose
                and (other.start in reached) != (other.end in reached)
            ):
                reached |= {other.start, other.end}
                grown = True
    return set(wiring.places) - reached
