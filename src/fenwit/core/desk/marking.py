"""What is printed on a part: codes of capacitors and resistors, colour bands; every reading with how likely it is.

A code is text, and text is ambiguous: 470 on a ceramic disc is 47 pF more often than 470. Each way to read it weighs
form × series × range: how usual the form is, whether the value is a preferred one, whether such parts are made
(docs/markings.md).
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from fenwit.core.desk import Answer, Warned
from fenwit.core.errors import InputError

_E24 = (10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91)
_E12 = _E24[::2]
_E96 = tuple(round(100 * 10 ** (i / 96)) for i in range(96))
_LEAST_SHARE = 0.01
"""Below it a reading is left out [-]"""
_ODD = 0.02
"""Weight of a value that is no preferred one [-]"""
CAPACITORS_F, _ODD_CAPACITOR = (0.5e-12, 100e-6), 0.05
RESISTORS_OHM, _ODD_RESISTOR = (0.01, 22e6), 0.02
"""Within which parts are made, and the weight of what lies beyond"""


@dataclass(frozen=True)
class Reading:
    """One way to read a marking."""

    value: float
    tolerance: float | None
    """Larger side; None where none is printed [-]"""
    likelihood: float
    words: str


@dataclass(frozen=True)
class Marking:
    """All ways to read a marking, the likeliest first, and what is printed beside the value."""

    kind: str
    readings: tuple[Reading, ...]
    voltage_v: float | None = None
    voltage_kind: str | None = None
    safety_class: str | None = None
    tempco_ppm_k: float | None = None

    @property
    def best(self) -> Reading:
        """The likeliest reading."""
        return self.readings[0]


@dataclass
class _Way:
    value: float
    form: float
    words: str
    tolerance: float | None = None
    preferred: bool = True
    """Whether a value off the series is held against it"""
    absolute: float | None = None
    """Tolerance in farads [F]"""
    series: str = "E24"


# ---------------------------------------------------------------- weights


def _mantissa(value: float, digits: int) -> int | None:
    """The first digits of a value as a whole number; None where it has more of them."""
    if value <= 0:
        return None
    text = f"{value:.6e}"
    number, _, _ = text.partition("e")
    whole = round(float(number) * 10 ** (digits - 1), 6)
    return round(whole) if abs(whole - round(whole)) < 1e-4 else None


def series_weight(value: float, codes: bool) -> float:
    """How usual a value is: 1 of E12, 0.4 of E24, on resistor codes 0.3 of E96, else 0.02.

    Parameters
    ----------
    value : float
        Farads or ohms [any]
    codes : bool
        A resistor's code, where E96 is met too [-]

    Returns
    -------
    float
        Weight [-]
    """
    two = _mantissa(value, 2)
    if two in _E12:
        return 1.0
    if two in _E24:
        return 0.4
    if codes and _mantissa(value, 3) in _E96:
        return 0.3
    return _ODD


def _weigh(kind: str, ways: Sequence[_Way], codes: bool) -> tuple[Reading, ...]:
    low, high = CAPACITORS_F if kind == "capacitor" else RESISTORS_OHM
    odd = _ODD_CAPACITOR if kind == "capacitor" else _ODD_RESISTOR
    found: list[Reading] = []
    for way in ways:
        # Through decimal text, so that 4.7e-7 is the same float everywhere.
        value = float(f"{way.value:.6g}")
        weight = way.form * (series_weight(value, codes) if way.preferred else 1.0)
        if value > 0 and not low * (1 - 1e-9) <= value <= high * (1 + 1e-9):
            weight *= odd
        tolerance = way.tolerance
        if way.absolute is not None and value > 0:
            tolerance = float(f"{way.absolute / value:.6g}")
        same = next((r for r in found if r.value == value and r.tolerance == tolerance), None)
        if same is not None:
            found[found.index(same)] = Reading(value, tolerance, same.likelihood + weight, same.words)
        else:
            found.append(Reading(value, tolerance, weight, way.words))
    total = sum(r.likelihood for r in found)
    shares = [Reading(r.value, r.tolerance, r.likelihood / total, r.words) for r in found]
    shares.sort(key=lambda r: -r.likelihood)
    return (shares[0], *(r for r in shares[1:] if r.likelihood >= _LEAST_SHARE))


# ---------------------------------------------------------------- words of a code


_TOLERANCES = {"F": 0.01, "G": 0.02, "H": 0.03, "J": 0.05, "K": 0.10, "M": 0.20, "N": 0.30}
_ABSOLUTE_F = {"B": 0.1e-12, "C": 0.25e-12, "D": 0.5e-12}
_LOPSIDED = {"Z": 0.80, "S": 0.50, "P": 1.00}
_LETTERS = {**_TOLERANCES, **_LOPSIDED}
_VOLTS = {
    "A": 1.0, "B": 1.25, "C": 1.6, "D": 2.0, "E": 2.5, "F": 3.15, "G": 4.0, "V": 3.5, "W": 4.5, "H": 5.0, "J": 6.3,
    "K": 8.0,
}  # fmt: skip
_PREFIX = re.compile(r"^([0-3])([ABCDEFGVWHJK])(?=[0-9pnum.])")
_VOLT_WORD = re.compile(r"^([0-9]+(?:\.[0-9]+)?)(V|VAC|VDC|V~|V=|~|VA\.?C\.?)$", re.IGNORECASE)
_SAFETY = re.compile(r"^[XY][1-3]$")
_PER_CENT = re.compile(r"^[±]?([0-9]+(?:\.[0-9]+)?)%$")
_TURNED = {"0": "0", "1": "1", "6": "9", "8": "8", "9": "6"}


@dataclass
class _Words:
    """A code taken to pieces."""

    value: str = ""
    tolerance: float | None = None
    absolute: float | None = None
    voltage_v: float | None = None
    voltage_kind: str | None = None
    safety: list[str] = field(default_factory=list)


def _tidy(code: str) -> list[str]:
    text = code.strip().replace("µ", "u").replace("μ", "u").replace("Ω", "R").replace(",", ".")
    words = [w for w in re.split(r"[_/\s]+", text) if w]
    if not words or len(code) > 40:
        raise InputError("code", code, "like 104K, 2n2 or 4R7", "nothing that could be read")
    return words


def _no_code(code: str, reason: str = "no marking that is known") -> InputError:
    return InputError("code", code, "like 104K, 2n2, 0.47uF or 4R7", reason)


# ---------------------------------------------------------------- capacitors


_UNITS = {"p": 1e-12, "n": 1e-9, "u": 1e-6, "m": 1e-3}
_WITH_UNIT = re.compile(r"^([0-9]+(?:\.[0-9]+)?|\.[0-9]+)([pnum])F?$")
_INFIX = re.compile(r"^([0-9]*)([pnum])([0-9]+)F?$")
_NUMBER = re.compile(r"^([0-9]*\.[0-9]+|[0-9]+\.)$")
_DIGITS = re.compile(r"^[0-9]+$")


def capacitor(code: str) -> Marking:
    """Read the code of a capacitor.

    Parameters
    ----------
    code : str
        As printed; words parted by blanks, `_` or `/` [-]

    Returns
    -------
    Marking
        Farads, the likeliest reading first [-]

    Raises
    ------
    InputError
        A code that nothing explains.
    """
    words = _Words()
    for word in _tidy(code):
        _sort(code, word, words)
    if not words.value:
        raise _no_code(code, "no value in it")
    ways = list(_capacitor_ways(code, words.value))
    for way in ways:
        way.tolerance, way.absolute = words.tolerance, words.absolute
    return Marking(
        "capacitor",
        _weigh("capacitor", ways, codes=False),
        words.voltage_v,
        words.voltage_kind,
        "".join(words.safety) or None,
    )


def _sort(code: str, word: str, words: _Words) -> None:
    """Put one word of a capacitor's code where it belongs."""
    if match := _VOLT_WORD.match(word):
        ac = "A" in match[2].upper() or "~" in match[2]
        words.voltage_v, words.voltage_kind = float(match[1]), "ac" if ac else "dc"
        return
    if _SAFETY.match(word):
        words.safety.append(word)
        return
    if match := _PER_CENT.match(word):
        words.tolerance = float(match[1]) / 100
        return
    if word in _LETTERS or word in _ABSOLUTE_F:
        words.tolerance, words.absolute = _LETTERS.get(word), _ABSOLUTE_F.get(word)
        return
    if words.value:
        raise _no_code(code, "two values in one code")
    if match := _PREFIX.match(word):
        rest = word[2:]
        if _is_value(rest) or _is_value(rest[:-1]):
            words.voltage_v, words.voltage_kind = float(f"{_VOLTS[match[2]] * 10 ** int(match[1]):.6g}"), "dc"
            word = rest
    if not _is_value(word) and word[-1:] in {**_LETTERS, **_ABSOLUTE_F} and _is_value(word[:-1]):
        words.tolerance, words.absolute = _LETTERS.get(word[-1]), _ABSOLUTE_F.get(word[-1])
        word = word[:-1]
    if not _is_value(word):
        raise _no_code(code)
    words.value = word


def _is_value(word: str) -> bool:
    return any(p.match(word) for p in (_WITH_UNIT, _INFIX, _NUMBER, _DIGITS))


def _capacitor_ways(code: str, word: str) -> Iterator[_Way]:
    if match := _WITH_UNIT.match(word):
        yield _Way(float(match[1]) * _UNITS[match[2]], 1.0, f"{match[1]} {match[2]}F")
        return
    if match := _INFIX.match(word):
        value = float(f"{match[1] or '0'}.{match[3]}")
        yield _Way(value * _UNITS[match[2]], 1.0, f"{match[2]} stands for the point")
        return
    if _NUMBER.match(word):
        value = float(word)
        if value <= 0:
            raise _no_code(code, "a value of nothing")
        if value < 1:
            yield _Way(value * 1e-6, 1.0, "below one with a point: microfarads")
            return
        yield _Way(value * 1e-6, 0.85, "microfarads")
        yield _Way(value * 1e-12, 0.15, "picofarads")
        return
    if word.startswith("0"):
        raise _no_code(code, "a value does not begin with a nought")
    if len(word) > 5:
        raise _no_code(code, "too many digits")
    plain = float(word) * 1e-12
    if len(word) <= 2:
        yield _Way(plain, 0.7, "picofarads")
        yield _Way(float(word) * 1e-6, 0.3, "microfarads")
        return
    if len(word) > 3:
        yield _Way(plain, 1.0, "picofarads")
        return
    yield from _three(word)


def _three(word: str) -> Iterator[_Way]:
    last = int(word[2])
    usual = 0.75 if last == 0 else 0.97
    if (times := _times(last)) is not None:
        yield _Way(int(word[:2]) * times * 1e-12, usual, f"{word[:2]} × {times:g} pF")
    yield _Way(float(word) * 1e-12, 0.25 if last == 0 else 0.03, "plain picofarads")
    turned = _upside_down(word)
    if turned and not turned.startswith("0") and (times := _times(int(turned[2]))) is not None:
        yield _Way(int(turned[:2]) * times * 1e-12, 0.02, f"upside down: {turned}")


def _times(last: int) -> float | None:
    """What the third digit of a capacitor multiplies by; none for 7."""
    return {8: 0.01, 9: 0.1, 7: None}.get(last, 10.0**last)


def _upside_down(word: str) -> str:
    """Digits as they read from the other side; empty where some have no other side, or it reads the same."""
    if any(c not in _TURNED for c in word):
        return ""
    turned = "".join(_TURNED[c] for c in reversed(word))
    return "" if turned == word else turned


# ---------------------------------------------------------------- resistors


_LETTER_OHMS = {"R": 1.0, "k": 1e3, "K": 1e3, "M": 1e6}
_R_INFIX = re.compile(r"^([0-9]*)([RkKM])([0-9]*)$")
_OHMS = re.compile(r"^([0-9]+(?:\.[0-9]+)?|\.[0-9]+)([kKM]?)(?:R|ohm|ohms)?$")
_INDEXED = re.compile(r"^([0-9]{2})([ZYRXSABHCDEF])$")
_TIMES_96 = {
    "Z": 0.001, "Y": 0.01, "R": 0.01, "X": 0.1, "S": 0.1, "A": 1.0, "B": 10.0, "H": 10.0, "C": 100.0, "D": 1e3,
    "E": 1e4, "F": 1e5,
}  # fmt: skip
_R_TOLERANCES = {"B": 0.001, "C": 0.0025, "D": 0.005, "F": 0.01, "G": 0.02, "J": 0.05, "K": 0.10, "M": 0.20}


def resistor(code: str) -> Marking:
    """Read the code of a resistor.

    Parameters
    ----------
    code : str
        As printed [-]

    Returns
    -------
    Marking
        Ohms, the likeliest reading first [-]

    Raises
    ------
    InputError
        A code that nothing explains.
    """
    value, tolerance = "", None
    for word in _tidy(code):
        if match := _PER_CENT.match(word):
            tolerance = float(match[1]) / 100
        elif word in _R_TOLERANCES and value:
            tolerance = _R_TOLERANCES[word]
        elif value:
            raise _no_code(code, "two values in one code")
        else:
            value = word
    ways = list(_resistor_ways(code, value))
    for way in ways:
        if tolerance is not None:
            way.tolerance = tolerance
    return Marking("resistor", _weigh("resistor", ways, codes=True))


def _resistor_ways(code: str, word: str) -> Iterator[_Way]:
    if word and set(word) == {"0"}:
        yield _Way(0.0, 1.0, "a link", preferred=False)
        return
    if match := _INDEXED.match(word):
        yield from _indexed(code, word, int(match[1]), match[2])
        return
    if found := _with_letter(word):
        yield found
        return
    if word[-1:] in _R_TOLERANCES and (found := _with_letter(word[:-1])):
        found.tolerance = _R_TOLERANCES[word[-1]]
        yield found
        return
    if not _DIGITS.match(word):
        if match := _OHMS.match(word):
            ohm = float(match[1]) * _LETTER_OHMS.get(match[2], 1.0)
            if ohm > 0:
                yield _Way(ohm, 1.0, "ohms")
                return
        raise _no_code(code)
    if word.startswith("0"):
        raise _no_code(code, "a value does not begin with a nought")
    if len(word) <= 2:
        yield _Way(float(word), 1.0, "ohms")
        return
    if len(word) > 4:
        raise _no_code(code, "too many digits")
    tolerance = 0.05 if len(word) == 3 else 0.01
    last = int(word[-1])
    digits = word[:-1]
    usual, plain = (0.9, 0.1) if last == 0 else (0.97, 0.03)
    first = _Way(int(digits) * 10.0**last, usual, f"{digits} × {10.0**last:g} Ω", tolerance)
    first.preferred = len(word) == 3
    yield first
    yield _Way(float(word), plain, "plain ohms", tolerance)
    turned = _upside_down(word)
    if turned and not turned.startswith("0"):
        yield _Way(int(turned[:-1]) * 10.0 ** int(turned[-1]), 0.03, f"upside down: {turned}", tolerance)


def _with_letter(word: str) -> _Way | None:
    match = _R_INFIX.match(word)
    if match is None or not (match[1] or match[3]):
        return None
    ohm = float(f"{match[1] or '0'}.{match[3] or '0'}") * _LETTER_OHMS[match[2]]
    return _Way(ohm, 1.0, f"{match[2]} stands for the point", preferred=False) if ohm > 0 else None


def _indexed(code: str, word: str, index: int, letter: str) -> Iterator[_Way]:
    named = 1 <= index <= 96
    coded = _E96[index - 1] * _TIMES_96[letter] if named else 0.0
    words = f"number {index} of E96 × {_TIMES_96[letter]:g} Ω"
    if letter == "R":
        yield _Way(float(index), 0.95, "ohms", preferred=False)
        if named:
            yield _Way(coded, 0.05, words, preferred=False)
        return
    if letter == "F":
        if named:
            yield _Way(coded, 0.8, words, preferred=False)
        yield _Way(float(index), 0.2, "ohms, F for 1 %", 0.01, preferred=False)
        return
    if not named:
        raise _no_code(code, "E96 has numbers 01 to 96")
    yield _Way(coded, 1.0, words, preferred=False)


# ---------------------------------------------------------------- colour bands


COLOURS = ("black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white")
_BAND_TOLERANCES = {
    "brown": 0.01, "red": 0.02, "green": 0.005, "blue": 0.0025, "violet": 0.001, "grey": 0.0001, "orange": 0.0005,
    "yellow": 0.0002, "gold": 0.05, "silver": 0.10,
}  # fmt: skip
_COMMON_4 = {"gold": 1.0, "silver": 0.5, "brown": 0.3, "red": 0.2}
_COMMON_5 = {"brown": 1.0, "red": 0.4, "green": 0.15, "gold": 0.1, "blue": 0.08, "violet": 0.08}
_RARE = 0.02
_TEMPCO = {
    "black": 250.0, "brown": 100.0, "red": 50.0, "orange": 15.0, "yellow": 25.0, "green": 20.0, "blue": 10.0,
    "violet": 5.0, "grey": 1.0,
}  # fmt: skip
_SPELT = {"gray": "grey", "purple": "violet"}
_NO_BAND = 0.20
"""Tolerance of three bands: none is printed [-]"""
_GIVEN, _OTHER = 0.7, 0.3


def resistor_bands(bands: Sequence[str]) -> Marking:
    """Read colour bands, from the end they were given and from the other one.

    Parameters
    ----------
    bands : sequence of str
        Colours: one (a link), three to six [-]

    Returns
    -------
    Marking
        Ohms, the likeliest reading first [-]

    Raises
    ------
    InputError
        A colour there is none of, a wrong number of them, or an order that no resistor has.
    """
    tidy = [_SPELT.get(b.strip().lower(), b.strip().lower()) for b in bands]
    given = ",".join(tidy)
    allowed = ", ".join((*COLOURS, "gold", "silver"))
    for colour in tidy:
        if colour not in (*COLOURS, "gold", "silver"):
            raise InputError("bands", given, allowed, f"{colour or 'an empty band'} is no colour of a band")
    if tidy == ["black"]:
        return Marking("resistor", (Reading(0.0, None, 1.0, "a link"),))
    if not 3 <= len(tidy) <= 6:
        raise InputError("bands", given, "3 to 6 bands, or one black one", "no resistor has so many bands")
    ways: list[tuple[_Way, float | None]] = []
    for order, form, words in ((tidy, _GIVEN, "as given"), (tidy[::-1], _OTHER, "from the other end")):
        found = _one_way(order, form, words)
        if found is not None:
            ways.append(found)
    if not ways:
        allowed = "digits first, then multiplier and tolerance"
        raise InputError("bands", given, allowed, "no resistor has these in this order")
    weighed = _weigh("resistor", [w for w, _ in ways], codes=False)
    best = next(
        (
            t
            for w, t in ways
            if float(f"{w.value:.6g}") == weighed[0].value and w.tolerance == weighed[0].tolerance
        ),
        None,
    )
    return Marking("resistor", weighed, tempco_ppm_k=best)


def _one_way(bands: Sequence[str], form: float, words: str) -> tuple[_Way, float | None] | None:
    count = len(bands)
    digits = 2 if count <= 4 else 3
    if bands[0] == "black" or any(b not in COLOURS for b in bands[:digits]):
        return None
    number = int("".join(str(COLOURS.index(b)) for b in bands[:digits]))
    times = _multiplier(bands[digits])
    tolerance: float | None = _NO_BAND
    common = 1.0
    if count > 3:
        band = bands[digits + 1]
        if band not in _BAND_TOLERANCES:
            return None
        tolerance = _BAND_TOLERANCES[band]
        common = (_COMMON_4 if count == 4 else _COMMON_5).get(band, _RARE)
    tempco = None
    if count == 6:
        if bands[5] not in _TEMPCO:
            return None
        tempco = _TEMPCO[bands[5]]
    way = _Way(
        number * times, form * common * _series_of_bands(number, digits), words, tolerance, preferred=False
    )
    return way, tempco


def _multiplier(band: str) -> float:
    return {"gold": 0.1, "silver": 0.01}.get(band) or 10.0 ** COLOURS.index(band)


def _series_of_bands(number: int, digits: int) -> float:
    if digits == 2:
        return 1.0 if number in _E12 else 0.4 if number in _E24 else _ODD
    return 1.0 if number in _E96 or (number % 10 == 0 and number // 10 in _E24) else 0.05


# ---------------------------------------------------------------- the card


def read_marking(kind: str, code: str | None, bands: str | None) -> Marking:
    """Read a code or bands.

    Parameters
    ----------
    kind : str
        capacitor or resistor [-]
    code : str or None
        As printed [-]
    bands : str or None
        Colours, parted by commas [-]

    Returns
    -------
    Marking
        Every reading [-]

    Raises
    ------
    InputError
        Both or neither, bands on a capacitor, or what nothing explains.
    """
    if kind not in ("capacitor", "resistor"):
        raise InputError("kind", kind, "capacitor, resistor", "no such kind of part")
    if code and bands:
        raise InputError(
            "bands", bands, "a code or bands", "one of both is enough: they could contradict each other"
        )
    if not code and not bands:
        raise InputError("code", "", "a code or bands", "nothing to read")
    if bands:
        if kind == "capacitor":
            raise InputError("bands", bands, "a code", "colours of capacitors are not read here")
        return resistor_bands(bands.split(","))
    assert code is not None
    return capacitor(code) if kind == "capacitor" else resistor(code)


def answer(given: Mapping[str, str]) -> Answer:
    """The card `part-marking`. Raises InputError as `read_marking`."""
    if "kind" not in given:
        raise InputError("kind", "", "capacitor, resistor", "which kind of part it is")
    found = read_marking(given["kind"], given.get("code"), given.get("bands"))
    farads = found.kind == "capacitor"
    value, second = ("value_f", "second_f") if farads else ("value_ohm", "second_ohm")
    best = found.best
    outputs = {
        value: best.value,
        "tolerance": best.tolerance,
        "voltage_v": found.voltage_v,
        "voltage_kind": found.voltage_kind,
        "safety_class": found.safety_class,
        "tempco_ppm_k": found.tempco_ppm_k,
        "likelihood": best.likelihood,
        "reading": best.words,
        "alternatives": [
            {"value": r.value, "tolerance": r.tolerance, "likelihood": r.likelihood, "reading": r.words}
            for r in found.readings[1:]
        ],
        second: found.readings[1].value if len(found.readings) > 1 else None,
    }
    warnings: tuple[Warned, ...] = ()
    if best.likelihood < 0.9:
        warnings = (Warned("ambiguous", "it can be read in more than one way: measure it before it counts"),)
    return Answer(outputs, (value,), "weight = form × series × range, over the sum of all readings", warnings)
