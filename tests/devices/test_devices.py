"""Devices that answer, against simulated ones on real sockets and pseudo-terminals: good, late, lost, rubbish."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import pytest

from fenwit.bench.ecfan import EcFan, Faults, Traits
from fenwit.bench.lines import FAN_CHANNELS, LOGGER_CHANNELS, LineInstrument, crc, framed, unframed
from fenwit.bench.modbus import ModbusFan
from fenwit.bench.names import devices_of, networks_of
from fenwit.bench.registers import Alarm, Holding, Input, Simulated, State
from fenwit.bench.servers import line_pty, line_tcp, modbus_rtu, modbus_tcp
from fenwit.bench.simulated import exhaust, started
from fenwit.bench.taken import Outcome
from fenwit.core.errors import InputError
from fenwit.core.motor.analog import VoltLine, soft_start_s


@dataclass
class Clock:
    """Time that only passes when a test says so."""

    now: float = 0.0

    def __call__(self) -> float:
        return self.now


def settled(fan: EcFan, clock: Clock, seconds: float = 60.0) -> float:
    clock.now += seconds
    return fan.speed_rpm


@pytest.fixture
def bench() -> Iterator[tuple[EcFan, Clock, ModbusFan]]:
    clock = Clock()
    fan = exhaust()
    fan.clock = clock
    fan.__post_init__()
    fan.analog_v = 10.0
    clock.now = 60.0
    with modbus_tcp(fan) as port:
        yield fan, clock, ModbusFan("exhaust", 1, host="127.0.0.1", port=port, simulated=True)


# ---------------------------------------------------------------- the simulated fan itself


def test_it_starts_softly_after_its_self_check() -> None:
    clock = Clock()
    fan = EcFan(Traits(VoltLine(300, 2800)), clock)
    fan.analog_v = 10.0
    clock.now = 2.5
    assert fan.speed_rpm == 0
    assert fan.inputs()[Input.STATE] == State.SELF_CHECK
    clock.now = 3.0 + soft_start_s(0.98)
    assert fan.speed_rpm == pytest.approx(0.98 * 2800, rel=0.01)
    assert fan.inputs()[Input.STATE] == State.RUNNING


def test_it_follows_its_map_with_its_hysteresis() -> None:
    clock = Clock()
    fan = EcFan(Traits(VoltLine(300, 2800)), clock)
    for volts, rpm in ((1.0, 0), (1.3, 330), (1.0, 300), (0.7, 0), (5.0, 1431)):
        fan.analog_v = volts
        assert settled(fan, clock) == pytest.approx(rpm, abs=3)


def test_it_holds_a_flow_over_a_move_of_the_damper() -> None:
    clock = Clock()
    fan = exhaust()
    fan.clock = clock
    fan.__post_init__()
    fan.set(Holding.MODE, 1)
    fan.set(Holding.SET_POINT, 540)
    settled(fan, clock)
    assert fan.inputs()[Input.FLOW] == pytest.approx(540, abs=3)
    before = fan.speed_rpm
    fan.set(Simulated.DAMPER, 250)
    settled(fan, clock)
    assert fan.inputs()[Input.FLOW] == pytest.approx(540, abs=3)
    assert fan.speed_rpm > before
    # A dead sensor sends it to full speed, with its alarm.
    fan.faults = Faults(sensor_dead=True)
    settled(fan, clock)
    assert fan.inputs()[Input.ALARM] & (1 << Alarm.SENSOR)
    assert fan.speed_rpm == pytest.approx(2790, rel=0.01)


def test_a_held_rotor_locks_it_and_silence_wakes_the_watchdog() -> None:
    clock = Clock()
    fan = EcFan(Traits(VoltLine(300, 2800)), clock)
    fan.analog_v, fan.faults.rotor_held = 10.0, True
    settled(fan, clock)
    assert fan.inputs()[Input.STATE] == State.LOCKED
    other = EcFan(Traits(VoltLine(300, 2800)), clock)
    for register, value in (
        (Holding.SOURCE, 1),
        (Holding.COMMAND, 8000),
        (Holding.WATCHDOG, 5),
        (Holding.FALLBACK, 2000),
    ):
        assert other.set(register, value)
    other.heard()
    clock.now += 4
    assert not other.inputs()[Input.ALARM]
    settled(other, clock)
    assert other.inputs()[Input.ALARM] & (1 << Alarm.WATCHDOG)
    assert other.speed_rpm == pytest.approx(0.2 * 2800, rel=0.02)


# ---------------------------------------------------------------- over Modbus


def test_a_good_answer_has_its_time_and_source(bench: tuple[EcFan, Clock, ModbusFan]) -> None:
    _, _, device = bench
    found = device.take("speed_rpm")
    assert found.outcome is Outcome.VALUE
    assert found.value == pytest.approx(2790, abs=2)
    assert found.source == "exhaust, input register 0"
    assert found.at is not None
    assert device.take("line_current_a").value == pytest.approx(0.87, abs=0.01)
    assert device.take("control_v").text == "10.00 V"
    assert "running" in device.state()
    with pytest.raises(InputError, match="does not tell"):
        device.take("moon")


@pytest.mark.parametrize(
    ("faults", "outcome", "words"),
    [
        (Faults(lose_next=1), Outcome.LOST, "none within"),
        (Faults(late_s=2.2), Outcome.LATE, "another moment"),
        (Faults(rubbish=True), Outcome.ABSURD, "not believed"),
        (Faults(swapped=True), Outcome.ABSURD, "swapped"),
        (Faults(wrong_unit=True), Outcome.LOST, "no answer"),
    ],
)
def test_what_is_late_lost_or_rubbish_is_no_reading(
    bench: tuple[EcFan, Clock, ModbusFan], faults: Faults, outcome: Outcome, words: str
) -> None:
    fan, _, device = bench
    fan.faults = faults
    found = device.take("line_current_a" if outcome is not Outcome.ABSURD else "speed_rpm")
    assert found.outcome is outcome
    assert words in found.words


def test_a_speed_on_its_way_is_not_taken() -> None:
    with modbus_tcp(exhaust()) as port:
        device = ModbusFan("exhaust", 1, host="127.0.0.1", port=port)
        found = device.take("speed_rpm")
        while found.value == 0:  # its self-check
            found = device.take("speed_rpm")
        assert found.outcome is Outcome.MOVING
        assert "on its way" in found.words


def test_another_unit_and_nobody_there() -> None:
    with modbus_tcp(exhaust()) as port:
        assert ModbusFan("x", 9, host="127.0.0.1", port=port).take("dc_link_v").outcome is Outcome.REFUSED
    gone = ModbusFan("x", 1, host="127.0.0.1", port=port).take("dc_link_v")
    assert gone.outcome is Outcome.LOST
    assert "reached" in gone.words


def test_a_command_is_read_back_and_too_much_is_exception_3(bench: tuple[EcFan, Clock, ModbusFan]) -> None:
    fan, clock, device = bench
    assert device.command(Holding.COMMAND, 12_000) == "it answers exception 03"
    assert device.command(Holding.COMMAND, 5_000) == ""
    assert device.command(Holding.SOURCE, 1) == ""
    clock.now += 60
    assert fan.speed_rpm == pytest.approx(1395, abs=5)
    assert (
        ModbusFan("y", 1, host="127.0.0.1", port=1).order(Simulated.KNOB, 1)
        == "a real bench is worked by hand"
    )


def test_the_simulated_bench_loses_the_answer_after_the_order(bench: tuple[EcFan, Clock, ModbusFan]) -> None:
    _, _, device = bench
    assert device.order(Simulated.LOSE_NEXT, 1) == ""
    assert device.take("dc_link_v").outcome is Outcome.LOST
    assert device.take("dc_link_v").outcome is Outcome.VALUE
    assert device.order(Simulated.DAMPER, 5) != ""


def test_the_same_over_a_serial_line() -> None:
    with modbus_rtu(exhaust(), unit=3) as port:
        device = ModbusFan("serial", 3, serial=port)
        assert device.take("dc_link_v").value == 325
        assert device.command(Holding.RAMP_UP, 200) == ""
        assert ModbusFan("serial", 4, serial=port).take("dc_link_v").outcome in (
            Outcome.REFUSED,
            Outcome.LOST,
        )


# ---------------------------------------------------------------- lines of text


def test_a_line_has_a_check() -> None:
    assert crc(b"123456789") == 0x6F91  # published: CRC-16/MCRF4XX
    assert unframed(framed("R speed")) == "R speed"
    assert unframed(framed("R speed").replace(b"speed", b"spied")) is None
    assert unframed(b"no star") is None


@pytest.mark.parametrize(
    ("said", "outcome"),
    [
        ("1480 rpm", Outcome.VALUE), ("-5 rpm", Outcome.ABSURD), ("9e9 rpm", Outcome.ABSURD), ("nan rpm", Outcome.ABSURD),
        ("open rpm", Outcome.ABSURD), ("fast rpm", Outcome.ABSURD), ("1480", Outcome.ABSURD),
    ],
)  # fmt: skip
def test_a_fan_with_a_tachometer(said: str, outcome: Outcome) -> None:
    with line_tcp(lambda channel: said if channel == "speed" else None) as port:
        device = LineInstrument("rack", "fan", FAN_CHANNELS, host="127.0.0.1", port=port)
        assert device.take("speed_rpm").outcome is outcome


def test_a_logger_on_a_pseudo_terminal() -> None:
    with line_pty(lambda channel: "31.4 degC" if channel == "sink" else None) as port:
        device = LineInstrument("logger", "logger", LOGGER_CHANNELS, serial=port)
        found = device.take("sink_c")
        assert found.text == "31.4 °C"
        silent = device.take("ambient_c")
        assert silent.outcome is Outcome.LOST


# ---------------------------------------------------------------- names


def test_none_is_contacted_that_the_settings_do_not_allow() -> None:
    assert devices_of("", networks_of("")) == {}
    local = networks_of("192.168.7.0/24")
    assert list(devices_of("a=modbus-tcp://192.168.7.20/1; b=modbus-rtu:///dev/ttyUSB0?unit=2", local)) == [
        "a",
        "b",
    ]
    for text, words in (
        ("a=modbus-tcp://192.168.8.20/1", "may not be contacted"),
        ("a=modbus-tcp://127.0.0.1/1", "may not be contacted"),
        ("a=modbus-tcp://fan.example/1", "names are not looked up"),
        ("a=modbus-rtu:///etc/passwd", "no such kind of port"),
        ("a=modbus-tcp:///1", "no such kind"), ("a=http://192.168.7.20/", "no such kind"),
        ("a=modbus-tcp://192.168.7.2/0", "no such number"),
        ("modbus-tcp://192.168.7.20/1", "a name and an address"), ("a=modbus-tcp://192.168.7.20:99999/1", "range"),
        ("a=fan-line://192.168.7.20", "missing"),
        ("a=modbus-tcp://192.168.7.2/1;a=modbus-tcp://192.168.7.3/1", "one name"),
    ):  # fmt: skip
        with pytest.raises(InputError, match=words):
            devices_of(text, local)
    for text in ("8.8.8.0/24", "0.0.0.0/0", "moon"):
        with pytest.raises(InputError):
            networks_of(text)


def test_the_simulated_ones_are_named_as_real_ones_would_be() -> None:
    with started() as (named, networks):
        found = devices_of(named, networks_of(networks))
        assert list(found) == ["exhaust fan", "exhaust fan serial", "rack fan", "rack logger"]
        assert found["rack logger"].take("ambient_c").outcome is Outcome.VALUE
        assert found["rack fan"].take("speed_rpm").value == pytest.approx(1628, abs=2)
        assert found["exhaust fan serial"].take("dc_link_v").outcome is Outcome.VALUE
