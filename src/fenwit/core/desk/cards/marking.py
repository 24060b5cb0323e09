"""What is printed on a part."""

from __future__ import annotations

from fenwit.core.desk import Answer, Call, Card, Field, FieldKind, Group, choice


def _work(call: Call) -> Answer:
    from fenwit.core.desk.marking import answer

    return answer({name: call.word(name) for name in call.given})


CARDS = (
    Card(
        "part-marking",
        "what is printed on a part",
        Group.PARTS,
        "weight = form × series × range, over the sum of all readings",
        (
            choice("kind", ("capacitor", "resistor")),
            Field("code", "as printed, like 104K, 2n2, 4R7 or 0.47uF_X2_275~", FieldKind.TEXT),
            Field(
                "bands",
                "colours of a resistor from one end, like yellow,violet,orange,gold",
                FieldKind.TEXT,
                label="colour bands",
            ),
        ),
        _work,
        validity="printed codes and colours of capacitors and resistors; a measurement decides",
        words="colour code ring band label marking capacitor resistor x2",
        start={"kind": "capacitor", "code": "104K"},
    ),
)
