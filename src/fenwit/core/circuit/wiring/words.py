"""What a hazard, a fault or a planned exchange is called, and what to do about it."""

from __future__ import annotations

from collections.abc import Mapping

from fenwit.core.circuit.wiring.faults import Fault, FaultKind
from fenwit.core.circuit.wiring.hazards import HazardKind
from fenwit.core.circuit.wiring.table import Hazard

HAZARD: Mapping[HazardKind, tuple[str, str]] = {
    HazardKind.SHORT: ("{0} and {1} are joined: a short", "Nothing is switched on before this is taken apart."),
    HazardKind.TWO_TAPS: (
        "two taps at once: {all}", "The winding between them is a short-circuited transformer; let one open first.",
    ),
    HazardKind.LOW_VOLTAGE_JOINED: (
        "mains from {0} on the low-voltage side: {rest}",
        "Part the two circuits; whoever touches the thermostat touches mains.",
    ),
    HazardKind.LIVE_METAL: ("metal at {0} is live", "Take the line off it and bond it to earth."),
    HazardKind.UNBONDED: (
        "metal at {0} is not bonded", "Join it to the supply’s earth by a wire, through no contact.",
    ),
    HazardKind.NEUTRAL_AS_BOND: (
        "metal at {0} hangs on the neutral", "A lost neutral makes it live; give it an earth of its own.",
    ),
    HazardKind.NEUTRAL_EARTHED: (
        "neutral and earth are joined at {0}", "They meet at the supply only; part them here.",
    ),
    HazardKind.AHEAD_OF_DOOR: ("{0} is live with {1} open", "Feed it behind the door’s contact."),
    HazardKind.AHEAD_OF_LIMIT: ("{0} runs with {1} open", "Feed it behind the limit’s contact."),
    HazardKind.SWITCHED_NEUTRAL: (
        "{0} is off, and live: its neutral is switched", "Switch the line, and let the neutral pass.",
    ),
    HazardKind.EARTH_RETURN: ("{0} returns through earth", "Give it a neutral; earth carries no load."),
    HazardKind.HEAT_WITHOUT_AIR: ("{0} heats while no fan runs", "Let the heat wait for the air."),
    HazardKind.RUN_WITHOUT_FEED: (
        "{all} called without the motor’s feed", "The feed stands first and stays; run leads only ask for a size.",
    ),
    HazardKind.WRONG_VOLTS: (
        "{0} gets {volts} V in place of {rated} V", "Check its link, its transformer and where it is joined.",
    ),
    HazardKind.BACK_FED: (
        "idle tap {0} feeds {rest}", "A running motor makes volts on its idle taps; nothing else may hang there.",
    ),
    HazardKind.VA_OVERLOAD: ("{0} carries {va} of {rated} VA", "Take a larger transformer, or give a part its own."),
    HazardKind.CHATTER: (
        "{all} cannot make up their minds", "A coil hangs on what it opens itself; let it hold by another contact.",
    ),
    HazardKind.RACE: ("{all}: which is faster decides", "Interlock them, so that one can only come after the other."),
    HazardKind.BOTH_ENDS_ON_LINE: (
        "both ends on one line: {all}", "It gets no volts there; one end belongs on the return.",
    ),
    HazardKind.SERIES: ("one behind the other: {all}", "None of them gets its volts; lay them side by side."),
    HazardKind.WRONG_CLASS: (
        "{0} is called as another size than wanted", "Join the run leads of the size that is wanted; cap the others.",
    ),
    HazardKind.REVERSED_POT: ("{1} turns backwards for {0}", "Exchange the two ends of the knob’s track."),
    HazardKind.NO_COMMON_GROUND: ("{0} listens to a part without its ground", "Join the two grounds."),
    HazardKind.SERIAL_CROSSED: ("serial pair crossed between {0} and {1}", "A to A, B to B."),
}  # fmt: skip
"""What it is, with places in braces, and what to do"""
FAULT: Mapping[FaultKind, str] = {
    FaultKind.NONE: "the wiring is right, the reading is not",
    FaultKind.SWAPPED: "{0} and {1} swapped",
    FaultKind.OPEN_WIRE: "wire off {0}",
    FaultKind.MISSING_BOND: "earth missing at {0}",
    FaultKind.NOT_MAKING: "contact {0} to {1} does not make",
    FaultKind.WRONG_TERMINAL: "wire of {0} is on {1}",
    FaultKind.WELDED: "contact {0} to {1} does not open",
    FaultKind.OPEN_SECTION: "{0} is open",
    FaultKind.OPEN_PART: "{0} is open",
    FaultKind.SHORTED_SECTION: "{0} is shorted",
    FaultKind.SHORTED_PART: "{0} is shorted",
    FaultKind.BRIDGED: "{0} and {1} touch",
}
FAILURE: Mapping[str, str] = {
    "no-constant-feed": "no net is on the line whenever the doors are shut: the motor needs a feed that stays",
    "under-class": "no size of the kit is as strong as the old motor",
    "no-link": "neither setting of the link fits this supply",
    "shared-output": "something else hangs on an output of the board and would run with the motor",
    "still": "air is wanted, and it stands still",
    "always-on": "no air is wanted, and it runs",
    "circulates-only": "it only circulates",
    "wrong-speed": "it runs at another speed than wanted",
}


def hazard_words(hazard: Hazard) -> tuple[str, str]:
    """What a hazard is, with its places, and what to do about it."""
    words, remedy = HAZARD[hazard.kind]
    values = {name: f"{value:.4g}" for name, value in hazard.values}
    where = hazard.where
    filled = words.format(
        *where,
        *[""] * 2,
        all=" and ".join(where),
        rest=", ".join(where[1:]),
        **{"volts": "", "rated": "", "va": ""} | values,
    )
    return filled, remedy


def fault_words(fault: Fault) -> str:
    """What a fault is, with its place."""
    return FAULT[fault.kind].format(*fault.where)
