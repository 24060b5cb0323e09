"""Part markings: every known answer, every refusal, and every printed form reads back. *Independent*."""

from __future__ import annotations

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenwit.core.desk import ask
from fenwit.core.desk.marking import read_marking
from fenwit.core.errors import InputError
from fenwit.report.deskfile import run

COLOURS = ("black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white")
E24 = (10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91)


@pytest.mark.parametrize(
    ("given_", "expected"),
    [
        (
            {"kind": "capacitor", "code": "2A104J"},
            {"value_f": 1e-7, "tolerance": 0.05, "voltage_v": 100, "voltage_kind": "dc"},
        ),
        ({"kind": "capacitor", "code": "474K"}, {"value_f": 4.7e-7, "tolerance": 0.1}),
        ({"kind": "capacitor", "code": "2n2"}, {"value_f": 2.2e-9}),
        ({"kind": "capacitor", "code": "u47"}, {"value_f": 4.7e-7}),
        ({"kind": "capacitor", "code": "104"}, {"value_f": 1e-7}),
        (
            {"kind": "capacitor", "code": "0.47uF_X2_275~"},
            {"value_f": 4.7e-7, "voltage_v": 275, "voltage_kind": "ac", "safety_class": "X2"},
        ),
        ({"kind": "capacitor", "code": "470"}, {"value_f": 4.7e-11, "likelihood": 0.75, "second_f": 4.7e-10}),
        ({"kind": "capacitor", "code": "22"}, {"value_f": 2.2e-11, "likelihood": 0.70, "second_f": 22e-6}),
        (
            {"kind": "capacitor", "code": "2.5_450VAC"},
            {"value_f": 2.5e-6, "likelihood": 0.85, "second_f": 2.5e-12},
        ),
        ({"kind": "capacitor", "code": "159"}, {"value_f": 1.5e-12}),
        (
            {"kind": "capacitor", "code": "2J683K"},
            {"value_f": 6.8e-8, "voltage_v": 630, "voltage_kind": "dc"},
        ),
        ({"kind": "resistor", "bands": "yellow,violet,orange,gold"}, {"value_ohm": 47000, "tolerance": 0.05}),
        ({"kind": "resistor", "bands": "gold,orange,violet,yellow"}, {"value_ohm": 47000, "tolerance": 0.05}),
        (
            {"kind": "resistor", "bands": "brown,black,black,red,brown"},
            {"value_ohm": 10000, "likelihood": 0.70, "second_ohm": 120},
        ),
        (
            {"kind": "resistor", "bands": "blue,grey,black,brown,brown,red"},
            {"value_ohm": 6800, "tolerance": 0.01, "tempco_ppm_k": 50},
        ),
        ({"kind": "resistor", "code": "473"}, {"value_ohm": 47000}),
        ({"kind": "resistor", "code": "4R7"}, {"value_ohm": 4.7}),
        ({"kind": "resistor", "code": "4702"}, {"value_ohm": 47000, "tolerance": 0.01}),
        ({"kind": "resistor", "code": "68C"}, {"value_ohm": 49900}),
        ({"kind": "resistor", "code": "470"}, {"value_ohm": 47, "likelihood": 0.90, "second_ohm": 470}),
        ({"kind": "resistor", "code": "189"}, {"value_ohm": 680, "likelihood": 0.60, "second_ohm": 18e9}),
        ({"kind": "resistor", "code": "39R"}, {"value_ohm": 39, "likelihood": 0.95, "second_ohm": 2.49}),
        ({"kind": "resistor", "code": "000"}, {"value_ohm": 0}),
    ],
    ids=lambda v: str(v.get("code") or v.get("bands")) if "kind" in v else "",
)
def test_known_markings(given_: dict[str, str], expected: dict[str, object]) -> None:
    found = ask("part-marking", given_)["outputs"]
    for name, value in expected.items():
        if isinstance(value, str):
            assert found[name] == value
        elif name == "likelihood":
            assert found[name] == pytest.approx(value, abs=0.006)
        else:
            assert found[name] == pytest.approx(value, rel=1e-6)


@pytest.mark.parametrize(
    ("given_", "field"),
    [
        *(({"kind": "capacitor", "code": c}, "code") for c in ("hello", "1n_2n")),
        *(({"kind": "resistor", "code": c}, "code") for c in ("97C", "R", "047")),
        *(
            ({"kind": "resistor", "bands": b}, "bands")
            for b in ("black,red,red,black", "pink,red,red", "gold,red,red,silver")
        ),
        ({"kind": "resistor", "code": "473", "bands": "red,red,red"}, "bands"),
        ({"kind": "resistor"}, "code"),
        ({"kind": "capacitor", "bands": "red,red,red"}, "bands"),
        ({"kind": "coil", "code": "104"}, "kind"),
        ({"code": "104"}, "kind"),
    ],
)
def test_what_nothing_explains_is_refused(given_: dict[str, str], field: str) -> None:
    with pytest.raises(InputError) as refused:
        ask("part-marking", given_)
    assert refused.value.field == field


@given(st.sampled_from(E24), st.integers(0, 6))
def test_bands_read_back_either_way_round(two: int, power: int) -> None:
    bands = [COLOURS[two // 10], COLOURS[two % 10], COLOURS[power], "gold"]
    for order in (bands, bands[::-1]):
        found = read_marking("resistor", None, ",".join(order))
        assert found.best.value == pytest.approx(two * 10.0**power)
        assert found.best.tolerance == 0.05


@given(st.sampled_from(E24), st.integers(1, 5), st.sampled_from("JKM"))
def test_three_digit_codes_read_back(two: int, power: int, letter: str) -> None:
    farads = read_marking("capacitor", f"{two}{power}{letter}", None).best
    assert farads.value == pytest.approx(two * 10.0**power * 1e-12)
    assert farads.tolerance == {"J": 0.05, "K": 0.1, "M": 0.2}[letter]
    ohms = read_marking("resistor", f"{two}{power}", None).best
    assert ohms.value == pytest.approx(two * 10.0**power)


@given(st.sampled_from(E24), st.sampled_from("Rk"), st.integers(0, 2))
def test_letters_in_the_points_place_read_back(two: int, letter: str, where: int) -> None:
    text = {0: f"{letter}{two}", 1: f"{two // 10}{letter}{two % 10}", 2: f"{two}{letter}"}[where]
    value = two * {0: 0.01, 1: 0.1, 2: 1.0}[where] * {"R": 1.0, "k": 1e3}[letter]
    assert read_marking("resistor", text, None).best.value == pytest.approx(value)


@given(st.sampled_from(E24), st.sampled_from("pnu"), st.booleans())
def test_capacitors_as_they_are_said_read_back(two: int, letter: str, inside: bool) -> None:
    text = f"{two // 10}{letter}{two % 10}" if inside else f"{two}{letter}"
    scale = {"p": 1e-12, "n": 1e-9, "u": 1e-6}[letter]
    value = two * (0.1 if inside else 1.0) * scale
    if value <= 100e-6:
        assert read_marking("capacitor", text, None).best.value == pytest.approx(value)


def test_likelihoods_are_shares_and_the_heaviest_comes_first() -> None:
    for code in ("470", "22", "104", "159"):
        found = read_marking("capacitor", code, None)
        shares = [r.likelihood for r in found.readings]
        assert shares == sorted(shares, reverse=True)
        assert 0.95 <= sum(shares) <= 1 + 1e-9


def test_the_desk_on_the_command_line(capsys: pytest.CaptureFixture[str]) -> None:
    assert run("part-marking", ["kind=capacitor", "code=104K"], True) == 0
    answer = json.loads(capsys.readouterr().out)
    assert answer["format"] == "fenwit-desk/1"
    assert answer["outputs"]["value_f"] == pytest.approx(1e-7)
    assert run("part-marking", ["kind=capacitor", "code=hello"], True) == 2
    assert "hello" in capsys.readouterr().err
