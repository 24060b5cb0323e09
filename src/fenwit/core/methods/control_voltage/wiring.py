"""The fan's terminals with all that is wired to them, as a circuit: supply, source, contact, lamps, further fans."""

from __future__ import annotations

from typing import Any

from fenwit.core.circuit.wiring.document import FORMAT
from fenwit.core.circuit.wiring.templates import Facts
from fenwit.core.methods.common.mapped import fuse_for
from fenwit.core.methods.control_voltage.design import Cabling, ControlDesign, Following, Source
from fenwit.core.methods.control_voltage.fan import ControlFan
from fenwit.core.methods.control_voltage.parts import LAMP_A
from fenwit.core.methods.control_voltage.signal import chain_resistors

PANEL = "panel"


def wired(fan: ControlFan, design: ControlDesign, facts: Facts, title: str) -> dict[str, Any]:
    """The design with every fan it commands.

    Parameters
    ----------
    fan : ControlFan
        The fan, and how many [-]
    design : ControlDesign
        What tells it its speed [-]
    facts : Facts
        The supply [-]
    title : str
        What it is called [-]

    Returns
    -------
    dict
        A `fenwit-circuit/1` document [-]
    """
    return _Strip(fan, design, facts).document(title)


class _Strip:
    def __init__(self, fan: ControlFan, design: ControlDesign, facts: Facts) -> None:
        self.fan, self.design, self.facts = fan, design, facts
        self.names = [f"V{i}" for i in range(1, fan.count + 1)]
        self.parts: list[dict[str, Any]] = []
        self.nets: dict[str, list[str]] = {}

    def stand(self, net: str, *terminals: str) -> None:
        """Terminals that are wired together."""
        self.nets.setdefault(net, []).extend(terminals)

    def part(self, name: str, kind: str, place: str = PANEL, **given: Any) -> None:
        """One more part."""
        self.parts.append({"id": name, "kind": kind} | given | {"place": place})

    def document(self, title: str) -> dict[str, Any]:
        """All of it, as it is kept."""
        self._mains()
        {
            Source.KNOB: self._knob, Source.STEPS: self._chain, Source.FILTER: self._filter,
            Source.ANALOG: self._controller,
        }[self.design.source]()  # fmt: skip
        self._further()
        if self.design.enable:
            self._enable()
        if self.design.alarm:
            self._lamps()
        return {
            "format": FORMAT, "title": title, "parts": self.parts,
            "nets": {n: joined for n, joined in self.nets.items() if len(joined) > 1},
            "places": [PANEL, *(self._place(i) for i in range(len(self.names)))], "cables": self._cables(),
        }  # fmt: skip

    def _place(self, i: int) -> str:
        return f"fan {i + 1}"

    def _mains(self) -> None:
        supply: dict[str, Any] = {"volts": self.facts.supply_volts}
        if self.facts.frequency_hz != 50.0:
            supply["frequency_hz"] = self.facts.frequency_hz
        self.part("S", "supply", **supply)
        self.part("F", "fuse", amps=fuse_for(self.design.fuse_a, self.fan.amps(self.fan.full_rpm)))
        watts = self.fan.watts(self.fan.full_rpm)
        analog = self.fan.analog
        for i, name in enumerate(self.names):
            alarm = {"alarm": {"com": "COM", "no": "NO", "nc": "NC"}} if self.design.alarm and i == 0 else {}
            leads = len(self.names) > 1 and self.design.following is not Following.TOGETHER
            self.part(
                name, "ec-fan", self._place(i), volts=self.facts.supply_volts,
                va=round((watts or 0.0) / len(self.names), 1), aux_volts=analog.aux_v,
                enable_to="AUX" if self.design.enable else "10V", **alarm, **({"output": True} if leads else {}),
            )  # fmt: skip
        self.stand("line", "S.L", "F.1")
        self.stand("fed", "F.2", *(f"{n}.L" for n in self.names))
        self.stand("neutral", "S.N", *(f"{n}.N" for n in self.names))
        self.stand("earth", "S.PE", *(f"{n}.PE" for n in self.names))
        self.stand("0V", "V1.GND")
        self.stand("10V", "V1.10V")
        self.stand("set", "V1.AI")
        if not self.design.enable:
            # Nothing has to close: a link at each fan stands for the contact.
            self.stand("10V", "V1.EN")
            for name in self.names[1:]:
                self.stand(f"10V {name}", f"{name}.10V", f"{name}.EN")

    def _knob(self) -> None:
        knob = self.design.knob
        self.part("P", "pot", ohms=knob.pot_ohm)
        self.stand("set", "P.W")
        for name, ohm, end, net in (("RT", knob.top_ohm, "B", "10V"), ("RB", knob.bottom_ohm, "A", "0V")):
            if ohm:
                self.part(name, "resistor", ohms=ohm)
                self.stand(net, f"{name}.1")
                self.stand(f"{name} to P", f"{name}.2", f"P.{end}")
            else:
                self.stand(net, f"P.{end}")

    def _chain(self) -> None:
        order = sorted(range(len(self.design.volts)), key=lambda i: self.design.volts[i])
        resistors, net = chain_resistors(self.fan, self.design), "0V"
        taps: dict[int, str] = {}
        for k, ohm in enumerate(resistors):
            last = k == len(resistors) - 1
            above = "10V" if last else f"tap {k + 1}"
            if ohm > 0:
                self.part(f"R{k + 1}", "resistor", ohms=round(ohm, 3))
                self.stand(net, f"R{k + 1}.1")
                self.stand(above, f"R{k + 1}.2")
            elif last:
                # No resistor: the uppermost tap is the reference itself.
                self.stand("10V", *self.nets.pop(net, []))
                taps = {i: "10V" if tap == net else tap for i, tap in taps.items()}
            else:
                # No resistor: the two are one point, and the lower name goes on.
                above = net
            if not last:
                taps[order[k] + 1] = above
            net = above
        self.part(
            "SW", "switch", make_before_break=True,
            positions=[{"name": str(i), "joins": [["C", str(i)]]} for i in sorted(taps)],
        )  # fmt: skip
        self.stand("set", "SW.C")
        for i, tap in taps.items():
            self.stand(tap, f"SW.{i}")

    def _controller(self) -> None:
        """A controller's output, fed by itself."""
        self.part("U24", "supply", volts=24, terminals=["+", "-"], note="of the controller")
        self.part("U", "sensor", supply_volts=24, note="0–10 V output")
        self.stand("controller", "U24.+", "U.V")
        self.stand("0V", "U24.-", "U.GND")
        self.stand("set", "U.OUT")

    def _filter(self) -> None:
        """Logic, filter and the amplifier before the fan; the amplifier tells, as long as it has its volts."""
        f = self.design.filter
        self.part("LOGIC", "strip", terminals=["OUT", "0V"], note="pulses")
        self.stand("0V", "LOGIC.0V")
        net, start = "pulses", "LOGIC.OUT"
        self.stand(net, start)
        for k in range(1, f.stages + 1):
            self.part(f"R{k}", "resistor", ohms=f.resistance_ohm)
            self.part(f"C{k}", "capacitor", farads=f.capacitance_f)
            self.stand(net, f"R{k}.1")
            net = f"filtered {k}"
            self.stand(net, f"R{k}.2", f"C{k}.1")
            self.stand("0V", f"C{k}.2")
        self._controller()
        self.part("IN", "strip", terminals=["1"], note="amplifier's input")
        self.stand(net, "IN.1")

    def _further(self) -> None:
        """How the fans behind the first are told."""
        for before, name in zip(self.names, self.names[1:], strict=False):
            self.stand("0V", f"{name}.GND")
            if self.design.following is Following.TOGETHER:
                self.stand("set", f"{name}.AI")
            else:
                self.stand(f"lead {before}", f"{before}.AO", f"{name}.AI")

    def _enable(self) -> None:
        joins = [[f"{i}a", f"{i}b"] for i in range(1, len(self.names) + 1)]
        self.part(
            "EN", "switch", note="enable",
            positions=[{"name": "stop", "joins": []}, {"name": "go", "joins": joins}],
        )  # fmt: skip
        for i, name in enumerate(self.names, 1):
            self.stand(f"aux {name}", f"{name}.AUX", f"EN.{i}a")
            self.stand(f"enable {name}", f"{name}.EN", f"EN.{i}b")

    def _lamps(self) -> None:
        volts = self.fan.analog.aux_v
        for name, contact, note in (("H1", "NO", "well"), ("H2", "NC", "alarm")):
            self.part(name, "lamp", volts=volts, va=round(volts * LAMP_A, 2), note=note)
            self.stand(note, f"V1.{contact}", f"{name}.1")
            self.stand("0V", f"{name}.2")
        self.stand("aux V1", *([] if "aux V1" in self.nets else ["V1.AUX"]), "V1.COM")

    def _cables(self) -> list[dict[str, Any]]:
        """Mains and signal, from the panel to each fan or on from fan to fan; as many cores as nets go on."""
        cable, found = self.design.cable, []
        length = {"length_m": cable.length_m} if cable.length_m else {}
        looped = cable.cabling is Cabling.LOOPED
        for i in range(len(self.names)):
            start = self._place(i - 1) if i and looped else PANEL
            found.append(
                {
                    "id": f"M{i + 1}",
                    "from": start,
                    "to": self._place(i),
                    "cores": ["brown", "blue"],
                    "earth": True,
                }
                | length
            )
            beyond = set(self.names[i:] if looped else [self.names[i]])
            crossing = sum(
                1
                for joined in self.nets.values()
                if {t.partition(".")[0] for t in joined} & beyond
                and {t.partition(".")[0] for t in joined} - beyond
            ) - 3  # fmt: skip
            found.append(
                {
                    "id": f"C{i + 1}", "from": start, "to": self._place(i), "use": "control", "earth": False,
                    "cores": [str(k) for k in range(1, max(2, crossing) + 1)], "csa_mm2": cable.area_mm2,
                }
                | length
            )  # fmt: skip
        return found
