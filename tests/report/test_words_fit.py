"""Words of a schematic stand inside its frame, however long they are; lamps lie along their wires."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.circuit import PartKind
from fenwit.core.circuit.drawing import Drawing
from fenwit.core.frame.asked import must_know
from fenwit.demo.scenario import JOBS
from fenwit.report.picture import Anchor, Circle, Picture, Words
from fenwit.report.schematic import schematic_picture


def drawing_of(name: str) -> Drawing:
    job = must_know(next(j for j in JOBS if j.name == name).state())
    design = job.design or job.regulation.usual(job.subject, job.state.wanted_rpm, job.state)
    return job.regulation.built(job.subject, design).drawing


def edges(words: Words) -> tuple[float, float]:
    # Half a size for each letter: less than any of the fonts a reader may have takes.
    length = 0.5 * words.size * len(words.text)
    before = {Anchor.START: 0.0, Anchor.MIDDLE: length / 2, Anchor.END: length}[words.anchor]
    return words.x - before, words.x - before + length


def inside(picture: Picture) -> bool:
    ends = [edges(s) for s in picture.shapes if isinstance(s, Words)]
    right = picture.left + picture.width
    return all(picture.left - 1e-6 <= low and high <= right + 1e-6 for low, high in ends)


@pytest.mark.parametrize(
    "name", ["Battery room exhaust", "Corridor ventilators", "Bunk room 2", "Spectrograph rack"]
)
def test_every_name_is_whole(name: str) -> None:
    picture = schematic_picture(drawing_of(name), {}, "L  230 V", "x")
    assert inside(picture)


@given(st.text(st.characters(min_codepoint=48, max_codepoint=122), min_size=1, max_size=60))
@settings(max_examples=15, deadline=None)
def test_a_long_supply_widens_the_frame(text: str) -> None:
    assert inside(schematic_picture(drawing_of("Battery room exhaust"), {}, text, "x"))


def test_lamps_lie_along_their_wires() -> None:
    drawing = drawing_of("Battery room exhaust")
    lamps = [p for p in drawing.placed if p.kind is PartKind.LAMP]
    assert {p.part for p in lamps} == {"H1", "H2"}
    picture = schematic_picture(drawing, {}, "L", "x")
    circles = sorted((c for c in picture.shapes if isinstance(c, Circle)), key=lambda c: c.radius)
    ends = [c.y for c in circles[:-2]]
    assert circles[-1].radius > 2 * circles[0].radius
    for lamp in circles[-2:]:
        assert min(abs(lamp.y - y) for y in ends) < 1.0
