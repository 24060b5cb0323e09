"""How what a fan holds is proved: by load resistors on its heat sinks, each power until it rests."""

from __future__ import annotations

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.job.hold import HeatSheet, Holds, HoldSheet
from fenwit.core.job.mapped import MappedFan
from fenwit.core.prove.plan import PlanLine, number, seen
from fenwit.core.regulator.thermal import ThermalState, settled

_DOUBT = 0.15
"""Of a rise: sinks by their data are no better known [-]"""
_CELSIUS = q.Dimension("temperature", "°C", ("C", "°C"), "", -40.0, 400.0, "like 36.1")
_RPM = q.Dimension("rpm", "rpm", ("rpm",), "k", 0.0, 1e5, "like 1430, 0 where it stands")
_STANDS = 20.0
_MOST = 3
"""Powers that are proved of each sink [-]"""


def heat_lines(fan: MappedFan, hold: HoldSheet) -> tuple[PlanLine, ...]:
    """A line for each sink and power, and the lost sensor last; none where no temperature is held [-]"""
    if hold.holds is not Holds.HEAT:
        return ()
    sheet = hold.heat
    rows = [line for i, _ in enumerate(sheet.sinks) for line in _sink(fan, sheet, i)]
    why = "a program that believes a lost sensor stops the fan in need"
    rows.append(
        PlanLine(
            "lost", "sensor lost", "Pull the sensor's plug; then short it.", why,
            (
                seen("open", "open: the fan runs as set for it", "it takes deep cold for true: the table's ends"),
                seen("short", "shorted: likewise", "it takes great heat for true, and runs full by luck only"),
            ),
        )
    )  # fmt: skip
    return tuple(rows)


def _sink(fan: MappedFan, sheet: HeatSheet, i: int) -> list[PlanLine]:
    one = sheet.sinks[i]
    name = one.name or f"sink {i + 1}"
    rows = []
    for k, power in enumerate(sorted(set(one.profile.powers_w))[-_MOST:]):
        found = settled(one.sink, sheet.curve, power, sheet.ambient_c)
        if found.state is ThermalState.CYCLING or found.sink_c is None:
            words = f"it starts and stops, {found.bottom_c:.0f} to {found.top_c:.0f} °C"
            asks = [seen("cycles", words, "another load, or a warmer room")]
        else:
            half = max(1.0, _DOUBT * (found.sink_c - sheet.ambient_c))
            share = found.speed or 0.0
            rpm, spread = share * fan.full_rpm, 0.1 * fan.full_rpm
            band = Band(0.0, _STANDS) if share == 0 else Band(max(_STANDS, rpm - spread), rpm + spread)
            warm = Band(found.sink_c - half, found.sink_c + half)
            asks = [
                number("sink", "sink at rest", warm, _CELSIUS, 1, "the sink's data, its paste, the air's way", "sink_c"),
                number("speed", "speed at rest", band, _RPM, 0, "the sensor's place and offset; the program's table",
                       "speed_rpm"),
            ]  # fmt: skip
        rows.append(
            PlanLine(
                f"heat{i + 1}{k + 1}", f"{name}, {q.show(power, q.POWER, 3)}",
                "Load resistors of known ohms on the sink, V²/R; until it rests, or an hour.",
                "the model is proved where it will be used", tuple(asks),
            )
        )  # fmt: skip
    return rows
