"""The Wire stage, out of a solved circuit and what was done of it."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from itertools import zip_longest
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.circuit.wiring.dead import DeadTest, Ohms
from fenwit.core.circuit.wiring.document import variables
from fenwit.core.circuit.wiring.edits import DIMENSION
from fenwit.core.circuit.wiring.faults import Agreement, Diagnosis, agreement, diagnose
from fenwit.core.circuit.wiring.flags import Flag
from fenwit.core.circuit.wiring.gauge import gauge_of
from fenwit.core.circuit.wiring.kit import typed_kit
from fenwit.core.circuit.wiring.lists import typed_lists
from fenwit.core.circuit.wiring.order import purposes
from fenwit.core.circuit.wiring.parts import Cable, Kind, Load, Wiring
from fenwit.core.circuit.wiring.retrofit import Retrofit
from fenwit.core.circuit.wiring.table import Hazard, Rest, State, TableRow
from fenwit.core.circuit.wiring.templates import TEMPLATES
from fenwit.core.circuit.wiring.words import FAILURE, fault_words, hazard_words
from fenwit.core.circuit.wiring.written import write_part, write_wiring
from fenwit.core.frame.wire import NO_DUTIES, Duties
from fenwit.store import readings
from fenwit.web.wire.edits import KitEdit, ListsEdit
from fenwit.web.wire.reads import (
    called,
    connection_key,
    jumper_words,
    lamp_key,
    live_key,
    newest_of,
    read_of,
    stand_words,
    taken_ohms,
    test_key,
)
from fenwit.web.wire.shown import (
    BladeShown,
    BoxShown,
    ConnectionShown,
    DeadShown,
    DiagnosisShown,
    DotShown,
    ExchangeRow,
    ExchangeShown,
    FlagShown,
    HazardShown,
    LampShown,
    NetRunShown,
    PieceShown,
    PinShown,
    Runs,
    SheetShown,
    SuspectShown,
    TemplateShown,
    ValueShown,
    WireCableShown,
    WirePage,
    WirePartShown,
    WireRow,
)
from fenwit.web.wire.solved import Solved, solved

MAX_SHOWN_ROWS = 400


def wire_page(
    document: Mapping[str, Any], mine: Iterable[readings.Reading], duties: Duties = NO_DUTIES
) -> WirePage:
    """All of the stage. Raises InputError for a circuit that is more than is worked out."""
    templates = [TemplateShown(key=t.key, name=t.name, words=t.words) for t in TEMPLATES]
    if not document:
        return WirePage(
            title="", document={}, templates=templates, columns=[], rows=[], hazards=[], never=[], sheet=None, parts=[],
            nets=[], connections=[], cables=[], problems=[], dead=[], no_dead="", lamps=[], diagnosis=None,
            exchange=None, lists=ListsEdit(), kit=None,
        )  # fmt: skip
    found = solved(document)
    newest = newest_of(mine)
    wiring, table = found.wiring, found.table
    hazards = [_hazard(h, found, flag) for h, flag in zip_longest(table.hazards, found.flags)]
    return WirePage(
        title=wiring.title,
        document=dict(document),
        templates=templates,
        columns=list(variables(wiring)),
        rows=[_row(i, row, found, newest, duties) for i, row in enumerate(table.rows[:MAX_SHOWN_ROWS])],
        hazards=hazards,
        never=list(table.never),
        sheet=_sheet(found),
        parts=[_part(found, i) for i in range(len(wiring.parts))],
        nets=[name for name, _ in wiring.nets],
        connections=[
            ConnectionShown(
                number=c.number, start=c.start, end=c.end, net=c.net, stage=c.stage, cable=c.cable, core=c.core,
                sleeve=c.sleeve, read=read_of(connection_key(c), newest, None),
            )
            for c in found.work.connections
        ],
        cables=[
            WireCableShown(
                id=u.cable.id, start=u.cable.start, end=u.cable.end, used=[f"{core}: {net}" for core, net in u.used],
                spare=list(u.spare), earth=u.earth,
                size=_gauge(wiring, u.cable),
            )
            for u in found.work.cables
        ],
        problems=[_problem(p.kind, p.net or p.cable, p.to) for p in found.work.problems],
        dead=[_dead(t, newest) for t in found.tests],
        no_dead=found.too_many,
        lamps=[
            LampShown(
                jumper=jumper_words(x), lit=" and ".join(x.lit) or "none", read=read_of(lamp_key(x), newest, None)
            )
            for x in found.lamps
        ],
        diagnosis=_diagnosis(found, newest),
        exchange=_exchange(found.exchange) if found.exchange else None,
        lists=ListsEdit(**vars(typed_lists(wiring))),
        kit=_kit(wiring, duties) if wiring.of(Kind.MOTOR) else None,
    )  # fmt: skip


def _kit(wiring: Wiring, duties: Duties) -> KitEdit:
    """The exchange as it would be typed; what the old motor gives is known where it was measured."""
    typed = KitEdit(**vars(typed_kit(wiring)))
    if not typed.old and duties.shaft_w is not None:
        typed.old = f"{duties.shaft_w:.0f} W shaft"
    return typed


def said_row(page: WirePage, row: WireRow) -> str:
    """What is called and where switches stand in a row."""
    told = [
        name if cell == "yes" else f"{name} {cell}"
        for name, cell in zip(page.columns, row.cells, strict=True)
        if cell
    ]
    return ", ".join(told) or "nothing called"


def _rest_words(rest: Rest) -> list[Runs]:
    out = []
    for name, state in rest.parts.items():
        at = str(state["state"])
        words = at
        if state.get("rpm"):
            words += f" {state['rpm']:.0f} rpm"
        for key, unit in (("series_f", q.CAPACITANCE), ("series_ohm", q.RESISTANCE)):
            value = state.get(key)
            if isinstance(value, float):
                words += f" behind {q.show(value, unit)}"
        volts = state.get("command_v")
        if isinstance(volts, float):
            words += f" {volts:.2f} V"
        if state.get("alarm") is True:
            words += ", alarm"
        out.append(Runs(part=name, words=words, on=at not in ("off", "dead", "disabled", "starved")))
    out += [Runs(part=name, words="pulled" if fed else "rest", on=fed) for name, fed in rest.relays.items()]
    return out


def _said(rest: Rest) -> str:
    return ", ".join(f"{r.part} {r.words}" for r in _rest_words(rest) if r.on) or "all off"


def _row(
    number: int, row: TableRow, found: Solved, newest: Mapping[str, readings.Reading], duties: Duties
) -> WireRow:
    wiring, table = found.wiring, found.table
    values = variables(wiring)
    live = table.walked.base.live(row.closed)
    names = [live.base.pair_names[i] for i in range(len(live.base.pairs)) if row.closed >> i & 1]
    hot = sorted(
        n for n, joined in wiring.nets if joined and any(r.role == "line" for r in live.on(joined[0]))
    )
    origins: dict[tuple[float, str], list[str]] = {}
    for wait in row.interim:
        if _said(wait.rest) != _said(row.rest):
            came = "power-up" if wait.after is None else called(table.rows[wait.after].inputs)
            origins.setdefault((wait.for_s, _said(wait.rest)), []).append(came)
    interim = [
        f"for up to {seconds:g} s {said}, coming from {came[0]}"
        + (f" and {len(came) - 1} more" if len(came) > 1 else "")
        for (seconds, said), came in origins.items()
    ]
    runs = _rest_words(row.rest)
    heaters = [p.id for p in wiring.of(Kind.LOAD) if p.as_a(Load).heats]
    heated = not heaters or any(row.rest.parts[h]["state"] == "on" for h in heaters)
    return WireRow(
        cells=["yes" if at is True else "" if at is False else str(at) for at in row.inputs.values()],
        marks=[
            at is True or (not isinstance(at, bool) and at != values[name][0])
            for name, at in row.inputs.items()
        ],
        settled=row.settled,
        runs=runs,
        va=" + ".join(f"{va:.3g}" for va in row.rest.va.values()),
        also=[_said(r) for r in row.also],
        interim=interim,
        air=[
            f"{name}: {words}"
            for name, state in row.rest.parts.items()
            if (words := duties.words(str(state["state"]), _rpm(state), heated))
        ],
        unmet=[f"{u.part} {u.state}, wanted {u.wanted}" for u in table.unmet if u.row == number],
        alive=list(row.rest.alive),
        hot=hot,
        closed=[f"{a}|{b}" for a, b in names],
        on=[r.part for r in runs if r.on],
        hazards=[i for i, h in enumerate(table.hazards) if number in _rows_of(h)],
        read=read_of(live_key(row), newest, None),
    )


def _rpm(state: State) -> float | None:
    rpm = state.get("rpm")
    return float(rpm) if isinstance(rpm, float | int) and not isinstance(rpm, bool) else None


def _rows_of(hazard: Hazard) -> set[int]:
    return {w[1] if isinstance(w, tuple) else w for w in hazard.when}


def _hazard(hazard: Hazard, found: Solved, flag: Flag | None) -> HazardShown:
    words, remedy = hazard_words(hazard)
    terminals = [t for t in hazard.where if "." in t]
    parts = [t.partition(".")[0] for t in hazard.where]
    net_at = found.wiring.net_at
    rows = sorted(_rows_of(hazard))
    every = len(rows) == len(found.table.rows)
    if hazard.passing:
        first = hazard.when[0]
        start, end = first if isinstance(first, tuple) else (None, first)
        to = called(found.table.rows[end].inputs)
        came = (
            "at power-up" if start is None else f"between {called(found.table.rows[start].inputs)} and {to}"
        )
        lasts = f"for up to {hazard.for_s:g} s" if hazard.for_s else "for a moment"
        more = f", and {len(hazard.when) - 1} more ways" if len(hazard.when) > 1 else ""
        when = f"{lasts} {came}{more}"
    elif every:
        when = "always"
    else:
        when = "; ".join(called(found.table.rows[i].inputs) for i in rows[:2])
        when += f"; and in {len(rows) - 2} more rows" if len(rows) > 2 else ""
    return HazardShown(
        kind=hazard.kind.value, severity=hazard.severity.value, words=words, remedy=remedy, when=when,
        passing=hazard.passing, parts=list(dict.fromkeys(parts)),
        nets=sorted({net_at[t] for t in terminals if t in net_at}), pins=terminals,
        flag=None if flag is None or not flag.lines else FlagShown(
            lines=list(flag.lines), x=flag.x, y=flag.y, width=flag.width, height=flag.height, to_x=flag.to[0],
            to_y=flag.to[1],
        ),
    )  # fmt: skip


def _sheet(found: Solved) -> SheetShown:
    sheet, net_at, purpose = found.sheet, found.wiring.net_at, purposes(found.wiring)
    boxes = []
    for box in sheet.boxes:
        pins = {p.terminal: p for p in box.pins}
        part = found.wiring.by_id[box.part]
        boxes.append(
            BoxShown(
                part=box.part, kind=box.kind, words=part.note or box.kind.value, x=box.x, y=box.y, width=box.width,
                height=box.height,
                pins=[
                    PinShown(
                        terminal=p.terminal, name=p.name, x=p.x, y=p.y, left=p.left, net=net_at.get(p.terminal, "")
                    )
                    for p in box.pins
                ],
                blades=[
                    BladeShown(
                        key=f"{b.a}|{b.b}", x1=pins[b.a].x, y1=pins[b.a].y, x2=pins[b.b].x, y2=pins[b.b].y
                    )
                    for b in box.blades
                ],
            )
        )  # fmt: skip
    runs = [
        NetRunShown(
            net=r.net,
            purpose=purpose[r.net].value,
            pieces=[PieceShown(x1=x1, y1=y1, x2=x2, y2=y2) for x1, y1, x2, y2 in r.pieces],
            dots=[DotShown(x=x, y=y) for x, y in r.dots],
        )
        for r in sheet.runs
    ]
    return SheetShown(width=sheet.width, height=sheet.height, boxes=boxes, runs=runs)


_LABELS = {
    "volts": "volts", "primary_volts": "primary volts", "supply_volts": "supply volts", "signal_volts": "signal volts",
    "va": "VA", "ohms": "ohms", "primary_ohm": "primary ohms", "secondary_ohm": "secondary ohms",
    "farads": "microfarads", "amps": "amps", "frequency_hz": "hertz", "delay_on_s": "comes after",
    "delay_off_s": "goes after", "circulate_rpm": "circulates at", "place": "place",
}  # fmt: skip


_ALWAYS: Mapping[Kind, tuple[str, ...]] = {
    Kind.RELAY: ("volts", "va", "ohms", "delay_on_s", "delay_off_s"),
    Kind.TRANSFORMER: ("primary_volts", "volts", "va", "primary_ohm", "secondary_ohm"),
    Kind.LOAD: ("volts", "va", "ohms"), Kind.LAMP: ("volts", "va"),
}  # fmt: skip


def _part(found: Solved, number: int) -> WirePartShown:
    part = found.wiring.parts[number]
    body = write_part(part)
    keys = dict.fromkeys([*_ALWAYS.get(part.kind, ()), *(k for k in body if k in DIMENSION), "place"])
    values = []
    for key in keys:
        value = body.get(key)
        dimension = DIMENSION.get(key)
        text = "" if value is None else q.show(value, dimension) if dimension else str(value)
        hint = dimension.example if dimension else ""
        values.append(ValueShown(key=key, label=_LABELS.get(key, key), text=text, hint=hint))
    net_at = found.wiring.net_at
    return WirePartShown(
        id=part.id, kind=part.kind,
        terminals=[
            PinShown(terminal=part.at(t), name=t, x=0, y=0, left=False, net=net_at.get(part.at(t), ""))
            for t in part.terminals
        ],
        values=values, body=json.dumps({k: v for k, v in body.items() if k != "id"}, ensure_ascii=False),
    )  # fmt: skip


def _expect(expected: Ohms) -> str:
    if expected.is_open:
        return "open"
    if expected.low is None or expected.high is None:
        return "cannot be known"
    return f"{q.plain(expected.low, 3)} to {q.plain(expected.high, 3)} Ω"


def _dead(test: DeadTest, newest: Mapping[str, readings.Reading]) -> DeadShown:
    return DeadShown(
        first=test.points[0], second=test.points[1], stand=stand_words(test.stand).removeprefix(", "),
        expect=_expect(test.expected),
        through=", ".join(test.expected.through), unknown=", ".join(test.expected.unknown),
        read=read_of(test_key(test), newest, test.expected),
    )  # fmt: skip


def _gauge(wiring: Wiring, cable: Cable) -> str:
    """Its cross-section, the amps beyond it, what is lost on the way and what would do."""
    told = [f"{cable.csa_mm2:g} mm²"] if cable.csa_mm2 is not None else []
    told += [f"{cable.length_m:g} m"] if cable.length_m else []
    found = gauge_of(wiring, cable)
    if found is None:
        return ", ".join(told)
    told.append(f"carries {q.show(found.amps, q.CURRENT)}")
    if found.drop_v is not None and found.drop_share is not None:
        told.append(f"loses {found.drop_v:.2g} V, {100 * found.drop_share:.1f} %")
    if found.least_mm2 is None:
        told.append("more than the usual table goes to")
    elif found.enough is not True:
        told.append(f"at least {found.least_mm2:g} mm²")
    return ", ".join(told)


def _problem(kind: str, what: str, to: str) -> str:
    words = {
        "no-cable": f"no cable carries {what} to {to}",
        "too-few-cores": f"too few cores for {what} to {to}",
        "earth-not-joined": f"the earth of cable {what} has nothing to join",
    }
    return words.get(kind, f"{what} {to}")


def _diagnosis(found: Solved, newest: Mapping[str, readings.Reading]) -> DiagnosisShown | None:
    """What the ohms point to, as soon as one contradicts."""
    taken = taken_ohms(found, newest)
    expected = {(t.points, t.stand.inputs, t.stand.held): t.expected for t in found.tests}
    odd = any(agreement(expected[r.points, r.inputs, r.held], r.ohms) is Agreement.CONTRADICTS for r in taken)
    if not odd:
        return None
    return _told(diagnose(found.wiring, taken, found.tests))


def _told(found: Diagnosis) -> DiagnosisShown:
    after = found.next
    test = (
        None if after is None else DeadTest(after.points, after.stand, Ohms(None, False, None, None, (), ()))
    )
    return DiagnosisShown(
        suspects=[
            SuspectShown(
                words=fault_words(s.fault),
                share=f"{100 * s.probability:.0f} %" if s.probability >= 0.01 else "under 1 %",
                tied=s.tied,
            )
            for s in found.ranked[:6]
            if s.probability > 0.001
        ],
        next_key="" if test is None else test_key(test),
        next_words="" if test is None else f"{test.points[0]} to {test.points[1]}{stand_words(test.stand)}",
    )


def _exchange(found: Retrofit) -> ExchangeShown:
    lines = [
        f"size {found.size}: run leads {', '.join(found.run_leads) or 'none'}",
        f"old outputs joined: {', '.join(found.joined) or 'none'}",
        f"constant feed from net {found.feed_net}" if found.feed_net else "no constant feed found",
        *(f"speed input {i} on {t}" for i, t in found.inputs),
        *([f"capped: {', '.join(found.capped)}"] if found.capped else []),
        f"link {found.link}" if found.link else "no link",
    ]
    failures = []
    for f in found.failures:
        words = FAILURE.get(f.kind, f.kind.replace("-", " "))
        if f.where:
            words = f"{words}: {', '.join(f.where)}"
        if f.row is not None:
            words = f"{called(found.rows[f.row].inputs)}: {words}"
        failures.append(words)
    return ExchangeShown(
        lines=lines,
        rows=[
            ExchangeRow(
                cells=["yes" if v is True else "" if v is False else str(v) for v in r.inputs.values()],
                state=f"{r.state} {r.rpm:.0f} rpm" if r.rpm else r.state, wanted=f"{r.wanted_rpm:.0f} rpm",
                verdict=r.verdict,
            )
            # What fails stands first, then what calls for air; rows in which it stands as it should come last.
            for r in sorted(found.rows, key=lambda r: (r.verdict == "ok", not r.wanted_rpm))
        ],
        failures=failures, document=write_wiring(found.wiring),
    )  # fmt: skip
