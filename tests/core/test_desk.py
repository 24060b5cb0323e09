"""The Desk: known answers, every card solved for each of its fields, and nonsense refused beside its field."""

from __future__ import annotations

import io
import json
import math
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from fenwit.core.desk import ask, read
from fenwit.core.desk.cards import CARDS
from fenwit.core.desk.spread import bands, line
from fenwit.core.errors import InputError
from fenwit.report import deskfile
from tests.conftest import ROOT

KNOWN = (ROOT / "tests" / "known" / "desk.txt").read_text().splitlines()
CURVES = {row[:2]: row[4:] for row in KNOWN if row[2:3] == ":"}
ROWS = [row for row in KNOWN if " → " in row and not row.startswith("#")]


def given_of(words: list[str]) -> dict[str, str]:
    full = [part for word in words for part in CURVES.get(word, word).split()]
    return dict(part.split("=", 1) for part in full)


@pytest.mark.parametrize("row", ROWS)
def test_known_answers(row: str) -> None:
    left, right = row.split(" → ")
    card, *words = left.split()
    if right.startswith("refused:"):
        with pytest.raises(InputError) as refused:
            ask(card, given_of(words))
        assert refused.value.field == right.removeprefix("refused:").strip()
        return
    outputs = ask(card, given_of(words))["outputs"]
    for name, text in (pair.split("=") for pair in right.split()):
        found = outputs[name]
        if isinstance(found, bool | str) or found is None:
            assert ("null" if found is None else str(found).lower()) == text
        else:
            assert found == pytest.approx(float(text), rel=6e-5, abs=1e-12), name


def test_every_card_here_has_known_answers() -> None:
    told = {row.split()[0] for row in ROWS}
    assert told | {"part-marking"} == set(CARDS)
    assert len(ROWS) > 110


ROUND: list[tuple[str, str, tuple[str, ...]]] = [
    ("reactance", "frequency_hz=50 capacitance_f=2u7 reactance_ohm=1178.9",
    ("frequency_hz", "capacitance_f", "reactance_ohm")),
    ("reactance", "frequency_hz=1k inductance_h=3m3 reactance_ohm=0", ("reactance_ohm", "frequency_hz")),
    ("series-capacitor-guess", "supply_voltage_v=230 fan_impedance_ohm=723 fan_voltage_v=100",
    ("capacitance_f", "fan_voltage_v")),
    ("bleed-discharge", "capacitance_f=2u7 voltage_v=230 time_s=0.7", ("time_s", "resistance_ohm")),
    ("wire-drop", "current_a=1.5 length_m=4 area_mm2=0.5", ("drop_v", "area_mm2", "length_m", "current_a")),
    ("track-current", "width_mm=1.3 layer=internal", ("current_a", "width_mm")),
    ("rc-snubber-loss", "voltage_v=230 resistance_ohm=100 step_voltage_v=90 capacitance_f=47n",
    ("loss_w", "capacitance_f")),
    ("triac-power", "supply_voltage_v=230 resistance_ohm=529 firing_angle_deg=77",
    ("rms_voltage_v", "power_fraction", "power_w", "firing_angle_deg")),
    ("speed-map", "minimum_speed_rpm=600 maximum_speed_rpm=3000 duty=0.61 inverted=yes", ("speed_rpm", "duty")),
    ("speed-map", "duties=0.2,0.4,0.6,0.8,1 speeds_rpm=520,930,1610,2120,2400 duty=0.71", ("speed_rpm", "duty")),
    ("timer-astable",
    "resistance_a_ohm=4k7 resistance_b_ohm=10k capacitance_f=1n delay_s=2e-7 saturation_voltage_v=0.1",
    ("frequency_hz", "capacitance_f")),
    ("timer-astable", "resistance_a_ohm=4k7 resistance_b_ohm=10k capacitance_f=1n delay_s=2e-7",
    ("frequency_hz", "resistance_a_ohm")),
    ("timer-astable", "resistance_a_ohm=4k7 resistance_b_ohm=10k capacitance_f=1n stray_capacitance_f=15p",
    ("frequency_hz", "resistance_b_ohm")),
    ("timer-astable", "resistance_a_ohm=4k7 resistance_b_ohm=10k capacitance_f=1n", ("duty", "resistance_b_ohm")),
    ("timer-astable-diodes",
    "resistance_high_ohm=1k resistance_low_ohm=2k pot_ohm=50k travel=0.3 capacitance_f=1n delay_s=1e-7",
    ("duty", "travel")),
    ("timer-astable-diodes", "resistance_high_ohm=1k resistance_low_ohm=2k pot_ohm=50k travel=0.3 capacitance_f=1n",
    ("frequency_hz", "capacitance_f")),
    ("timer-one-shot-pwm", "clock_frequency_hz=25k resistance_ohm=18k capacitance_f=1n delay_s=1e-7",
    ("duty", "resistance_ohm")),
    ("timer-one-shot-pwm", "clock_frequency_hz=25k resistance_ohm=18k capacitance_f=1n stray_capacitance_f=12p",
    ("duty", "capacitance_f")),
    ("tachometer", "frequency_hz=78.4 pulses_per_rev=3", ("speed_rpm", "frequency_hz")),
    ("dc-series-resistor", "full_current_a=0.25 full_speed_rpm=2400 resistance_ohm=22 fans=2 start_voltage_v=5",
    ("fan_voltage_v", "speed_rpm", "resistance_ohm")),
    ("dc-supply-reduction", "full_current_a=0.25 full_speed_rpm=2400 fan_voltage_v=9", ("speed_rpm", "fan_voltage_v")),
    ("fan-laws",
    "speed_1_rpm=1400 flow_1_m3_s=0.5 pressure_1_pa=180 power_1_w=160 level_1_db=58 density_2_kg_m3=1.1 speed_2_rpm=900",
     ("flow_2_m3_s", "pressure_2_pa", "power_2_w", "level_2_db", "level_change_db", "speed_2_rpm")),
    ("fan-point",
    f"{CURVES['E1']} system_flow_m3_s=0.2 system_pressure_pa=300 fixed_pressure_pa=120 "
    "density_kg_m3=1.1 speed_fraction=0.8", ("flow_m3_s", "speed_fraction")),
    ("fan-point", f"{CURVES['S3']} system_flow_m3_s=0.16 system_pressure_pa=98 parallel=2 speed_fraction=0.7",
    ("flow_m3_s", "speed_fraction")),
    ("air-density", "altitude_m=1500 temperature_c=12 relative_humidity=0.4", ("density_kg_m3", "temperature_c")),
    ("air-density", "altitude_m=1500 temperature_c=12 relative_humidity=0.4", ("density_kg_m3", "altitude_m")),
    ("air-temperature-rise", "heat_w=9.4k temperature_rise_k=22", ("flow_m3_s", "heat_w")),
    ("air-temperature-rise", "heat_w=9.4k temperature_rise_k=22 altitude_m=820", ("flow_m3_s", "temperature_rise_k")),
    ("noise-speed", "speed_1_rpm=2400 speed_2_rpm=1500 level_1_db=38 count_2=6",
    ("level_change_db", "level_2_db", "speed_2_rpm")),
    ("command-map", "minimum_speed_rpm=300 maximum_speed_rpm=2800 inverse=yes running=yes voltage_v=6.3",
    ("speed_rpm", "voltage_v")),
    ("pot-loading", "pot_ohm=4k7 travel=0.31 input_resistance_ohm=22k", ("voltage_v", "travel")),
    ("pwm-filter", "amplitude_v=5 frequency_hz=3k duty=0.37 resistance_ohm=6k8 capacitance_f=330n stages=2 "
    "load_resistance_ohm=47k gain=2", ("ripple_v", "capacitance_f")),
    ("pwm-filter", "amplitude_v=5 frequency_hz=3k duty=0.37 resistance_ohm=6k8 capacitance_f=330n",
    ("ripple_v", "resistance_ohm")),
    ("sensor-scale", "range_low_v=2 range_high_v=10 value_low=-50 value_high=50 voltage_v=7.7", ("value", "voltage_v")),
    ("ntc", "r25_ohm=10k beta_k=3950 temperature_c=-12", ("resistance_ohm", "temperature_c")),
    ("cone-flow", "cone_factor=77 pressure_pa=140 altitude_m=820", ("flow_m3_h", "pressure_pa")),
    ("cone-flow", "cone_factor=77 pressure_pa=140", ("flow_m3_h", "cone_factor")),
    ("heat-sink-fan", "natural_k_w=2.5 forced_k_w=0.5 ambient_c=24 power_w=29", ("sink_c", "power_w")),
]  # fmt: skip
"""A call, and the fields that stand for each other: the first is found, then each of the others left blank in turn"""


@pytest.mark.parametrize(("card", "call", "ring"), ROUND)
def test_each_field_is_found_from_the_others(card: str, call: str, ring: tuple[str, ...]) -> None:
    given = {k: v for k, v in (w.split("=", 1) for w in call.split()) if k != ring[0] or card == "speed-map"}
    if ring[0] in given:
        given.pop(ring[0])
    first = ask(card, given)
    known = {**given, **{k: repr(v) for k, v in first["outputs"].items() if k in ring}}
    if card == "reactance":
        known = {k: known[k] for k in known if k in (*ring, "frequency_hz", "capacitance_f", "inductance_h")}
    several = {"triac-power", "fan-laws", "noise-speed", "dc-series-resistor"}
    for blank in ring[1:]:
        call_of = {k: v for k, v in known.items() if k != blank}
        if card in several:
            # One of several ways to say the same: only the first answer goes back in.
            call_of = {k: v for k, v in given.items() if k not in ring} | {ring[0]: known[ring[0]]}
        back = ask(card, call_of)["outputs"]
        want = float(_plain(given[blank])) if blank in given else first["outputs"][blank]
        assert back[blank] == pytest.approx(want, rel=1e-6), blank


def _plain(text: str) -> str:
    for letter, power in (("u", "e-6"), ("n", "e-9"), ("p", "e-12"), ("m", "e-3"), ("k", "e3")):
        if letter in text:
            whole, _, part = text.partition(letter)
            return f"{whole}.{part}{power}" if part else f"{whole}{power}"
    return text


@pytest.mark.parametrize("key", CARDS)
def test_the_example_of_each_card_is_worked(key: str) -> None:
    found = ask(key, CARDS[key].start)
    json.dumps(found, allow_nan=False)
    assert found["relation"]
    assert found["outputs"]
    for name in CARDS[key].start:
        assert name in found["inputs"] or key == "part-marking"


@pytest.mark.parametrize("key", CARDS)
def test_nothing_given_and_nonsense_are_refused(key: str) -> None:
    if key != "air-density":  # of which every field has a default
        with pytest.raises(InputError):
            ask(key, {})
    with pytest.raises(InputError, match="no such field"):
        ask(key, {**CARDS[key].start, "moon": "1"})
    for spec in CARDS[key].fields:
        with pytest.raises(InputError) as refused:
            ask(key, {**CARDS[key].start, spec.name: "a lot of it"})
        assert refused.value.field


@pytest.mark.parametrize("key", sorted({card for card, _, _ in ROUND}))
def test_everything_given_at_once_is_refused(key: str) -> None:
    numeric = {
        s.name: "0.5" for s in CARDS[key].fields if s.kind.value in ("number", "whole") and not s.default
    }
    with pytest.raises(InputError):
        ask(key, {**numeric, **CARDS[key].start})


@pytest.mark.parametrize(
    ("card", "call", "field"),
    [
        ("speed-map", "minimum_speed_rpm=600 maximum_speed_rpm=3000 duty=1.4", "duty"),
        ("speed-map", "minimum_speed_rpm=600 maximum_speed_rpm=3000 duty=140%", "duty"),
        ("speed-map", "minimum_speed_rpm=600 maximum_speed_rpm=3000 duty=0.5 speed_rpm=900", "speed_rpm"),
        ("speed-map", "duties=0.2,0.4 speeds_rpm=500,900 minimum_duty=0.1 duty=0.3", "minimum_duty"),
        ("timer-registers", "clock_hz=16M frequency_hz=0", "frequency_hz"),
        ("timer-astable", "resistance_a_ohm=0 resistance_b_ohm=1k capacitance_f=1n", "resistance_a_ohm"),
        ("timer-astable", "capacitance_f=1n frequency_hz=25k duty=0.5", "duty"),
        ("timer-astable-diodes", "resistance_high_ohm=0 resistance_low_ohm=1k pot_ohm=1k travel=0 capacitance_f=1n",
        "resistance_high_ohm"),
        ("timer-one-shot-pwm", "clock_frequency_hz=25k resistance_ohm=1k capacitance_f=1n trigger_low_s=50u",
        "trigger_low_s"),
        ("fan-point", "flows_m3_s=0,1,2,3,4 pressures_pa=100,90,95,85,88 system_flow_m3_s=1 system_pressure_pa=50",
        "pressures_pa"),
        ("fan-point", "flows_m3_s=0.1,1,2 pressures_pa=100,90,0 system_flow_m3_s=1 system_pressure_pa=50",
        "flows_m3_s"),
        ("fan-point", f"{CURVES['E1']} system_flow_m3_s=0.2 system_pressure_pa=300 flow_m3_s=0.9", "flow_m3_s"),
        ("fan-bank", f"{CURVES['R6']} system_flow_m3_s=0.09 system_pressure_pa=90 fixed_pressure_pa=80 alive=2",
        "fixed_pressure_pa"),
        ("air-density", "altitude_m=0 temperature_c=20 density_kg_m3=1.1", "temperature_c"),
        ("dc-series-resistor", "full_current_a=0.25 full_speed_rpm=2400 resistance_ohm=22 speed_rpm=1500", "speed_rpm"),
        ("dc-supply-reduction", "full_current_a=0.25 full_speed_rpm=2400 fan_voltage_v=3", "fan_voltage_v"),
        ("dc-supply-reduction", "full_current_a=0.25 full_speed_rpm=2400 fan_voltage_v=13", "fan_voltage_v"),
        ("wire-drop", "current_a=1 length_m=4 area_mm2=0.5 awg=20", "awg"),
        ("units", "value=1 from=cubit to=m", "from"),
        ("fuse-inrush", "running_current_a=30", "running_current_a"),
        ("fuse-inrush", "", "voltage_v"),
        ("noise-sum", "level_db=40 total_db=44", "level_db"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_beside_its_field(card: str, call: str, field: str) -> None:
    with pytest.raises(InputError) as refused:
        ask(card, dict(w.split("=", 1) for w in call.split()))
    assert refused.value.field == field


def test_bench_notation_and_other_units_mean_the_same() -> None:
    plain = ask("reactance", {"frequency_hz": "50", "capacitance_f": "2.7e-6"})["outputs"]
    for text in ("2u7", "2.7u", "2.7uF", "2.7 µF", "2700n"):
        assert ask("reactance", {"frequency_hz": "0.05k", "capacitance_f": text})["outputs"] == pytest.approx(
            plain
        )
    one = ask(
        "air-temperature-rise",
        {"flow_m3_s": "1400.7 m3/h", "temperature_rise_k": "22K", "altitude_m": "820m"},
    )
    assert one["outputs"]["heat_w"] == pytest.approx(9400, rel=1e-4)
    assert ask("wire-drop", {"current_a": "1A", "length_m": "5m", "area_mm2": "1"})["inputs"]["length_m"] == 5
    # On screen a bare number means what people write it for.
    assert read("reactance", {"capacitance_f": "2.7"}, bare_scales=True).values[
        "capacitance_f"
    ] == pytest.approx(2.7e-6)


def test_uncertainty_is_carried_through() -> None:
    answer = ask(
        "timer-astable",
        {"resistance_a_ohm": "10k", "resistance_b_ohm": "10k ±5%", "capacitance_f": "1n ± 10 %"},
    )
    low, high = answer["bands"]["frequency_hz"]
    middle = answer["outputs"]["frequency_hz"]
    # f ∝ 1/((R_A + 2 R_B) C): 10 % and two thirds of 5 % in squares.
    assert (high - low) / 2 / middle == pytest.approx(math.hypot(0.10, 0.05 * 2 / 3), rel=0.02)
    exact = ask("reactance", {"frequency_hz": "50 ±1", "capacitance_f": "2u7"})
    assert (exact["bands"]["reactance_ohm"][1] / exact["outputs"]["reactance_ohm"] - 1) == pytest.approx(
        0.02, rel=0.01
    )
    with pytest.raises(InputError, match="said once"):
        ask("reactance", {"frequency_hz": "50 ±1 ±2", "capacitance_f": "2u7"})


def test_where_an_answer_folds_it_is_sampled() -> None:
    # The duty of a one-shot falls from 1 to a half where its pulse outgrows the period.
    asked = read(
        "timer-one-shot-pwm",
        {"clock_frequency_hz": "25k", "resistance_ohm": "36.2k ±3%", "capacitance_f": "1n"},
    )
    low, high = bands(asked)["duty"]
    assert low < 0.53
    assert 0.97 < high <= 1


def test_a_line_over_a_field_leaves_out_what_is_refused() -> None:
    asked = read("timer-registers", {"clock_hz": "1M", "frequency_hz": "10k", "bits": "16"})
    (found,) = line(asked, "frequency_hz", ["levels"], 1e3, 1e6)
    assert found.found[0] is not None
    assert found.found[-1] is None
    with pytest.raises(InputError, match="nothing can be drawn"):
        line(asked, "mode", ["levels"], 0, 1)


def run(*words: str, stdin: str = "", capsys: Any = None, monkeypatch: Any = None) -> tuple[int, str, str]:
    monkeypatch.setattr(sys, "stdin", io.StringIO(stdin))
    code = deskfile.run(words[0] if words else "", [w for w in words[1:] if w != "--json"], "--json" in words)
    out = capsys.readouterr()
    return code, out.out, out.err


def test_the_command_line(capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch) -> None:
    code, out, _ = run(capsys=capsys, monkeypatch=monkeypatch)
    assert code == 0
    assert all(key in out for key in CARDS)
    code, out, _ = run("fan-laws", capsys=capsys, monkeypatch=monkeypatch)
    assert "speed_1_rpm" in out
    assert "= 55" in out
    code, out, err = run(
        "reactance", "frequency_hz=50", "capacitance_f=0", "--json", capsys=capsys, monkeypatch=monkeypatch
    )
    assert (code, out) == (2, "")
    assert err.count("\n") == 1
    assert "capacitance_f" in err
    code, out, _ = run(
        "reactance", "frequency_hz=50", "capacitance_f=2u7", capsys=capsys, monkeypatch=monkeypatch
    )
    assert "1/(2π · 50 Hz · 2.7 µF)" in out
    calls = "units value=1 from=inH2O to=Pa\nreactance frequency_hz=50\nmoon a=1\n"
    code, out, _ = run("-", stdin=calls, capsys=capsys, monkeypatch=monkeypatch)
    rows = [json.loads(row) for row in out.splitlines()]
    assert code == 0
    assert rows[0]["outputs"]["result"] == pytest.approx(249.08891)
    assert rows[1]["refused"]["field"] == "capacitance_f" or rows[1]["refused"]["field"] == "reactance_ohm"
    assert rows[2]["refused"]["field"] == "card"


def test_the_command_itself(tmp_path: Path) -> None:
    done = subprocess.run(
        [ROOT / "bin" / "fenwit", "desk", "units", "value=100", "from=cfm", "to=m3/h", "--json"],
        capture_output=True, text=True, check=False, cwd=tmp_path,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout)["outputs"]["result"] == pytest.approx(169.9, rel=1e-4)
