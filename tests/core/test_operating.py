"""Where motor and fan meet: the reference motors, and what must hold for any motor."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from fenwit.core.errors import InputError
from fenwit.core.load import FanLoad
from fenwit.core.motor.machine import SingleWindingMotor, TwoWindingMotor
from fenwit.core.operating import (
    OperatingPoint,
    Source,
    StepVerdict,
    judge_step,
    load_at_datum,
    scan,
    solve,
    speed_grid,
    tabulate,
)
from fenwit.core.regulator.series import capacitor_impedance
from tests.known.machines import MAINS, P4, P4_LOAD, P4_ROWS, S16, S16_LOAD, S16_ROWS, S16Row, with_capacitor

THREE_DIGITS = 2e-3


@pytest.mark.parametrize("row", S16_ROWS.values(), ids=S16_ROWS)
def test_sweep_fan_motor_gives_the_known_answers(row: S16Row) -> None:
    solution = solve(S16, S16_LOAD, [row.source])[0]
    assert solution.net_starting_torque_nm == pytest.approx(row.net_torque_nm, abs=6e-4)
    if row.speed_rpm is None:
        assert not solution.starts
        assert solution.points == ()
        return
    point = solution.points[0]
    assert len(solution.points) == 1
    assert point.stable
    assert point.speed_rpm == pytest.approx(row.speed_rpm, abs=0.06)
    assert point.motor_voltage_v == pytest.approx(row.motor_v, rel=THREE_DIGITS)
    assert point.line_current_a == pytest.approx(row.amps, rel=4e-3)
    assert point.input_power_w == pytest.approx(row.watts, abs=0.06)
    assert point.power_factor == pytest.approx(row.power_factor, abs=1e-3)


def test_losses_of_the_sweep_fan_motor_at_full_speed() -> None:
    point = solve(S16, S16_LOAD, [MAINS])[0].running
    assert point is not None
    assert point.shaft_power_w == pytest.approx(21.85, abs=0.02)
    assert point.rotor_loss_w == pytest.approx(5.60, abs=0.01)
    assert point.winding_loss_w == pytest.approx(45.59, abs=0.02)
    assert point.capacitor_voltage_v == pytest.approx(415, abs=0.5)


@pytest.mark.parametrize("row", P4_ROWS.values(), ids=P4_ROWS)
def test_shaded_pole_motor_gives_the_known_answers(row: tuple[Source, float, float, float | None]) -> None:
    source, speed, volts, amps = row
    point = solve(P4, P4_LOAD, [source])[0].running
    assert point is not None
    assert point.speed_rpm == pytest.approx(speed, abs=0.1)
    assert point.motor_voltage_v == pytest.approx(volts, rel=THREE_DIGITS)
    if amps is not None:
        assert point.line_current_a == pytest.approx(amps, rel=4e-3)
    assert point.main_current_a is None


def test_a_capacitor_that_resonates_is_barred_and_says_why() -> None:
    for microfarads in (3.9, 4.7):
        solution = solve(P4, P4_LOAD, [with_capacitor(microfarads)])[0]
        verdict, reasons = judge_step(solution, 241.5, 0.0)
        assert verdict is StepVerdict.BARRED
        assert "nothing is predicted" in reasons[0]
    assert judge_step(solve(P4, P4_LOAD, [with_capacitor(2.7)])[0], 241.5, 0.0)[0] is StepVerdict.OK


def test_friction_can_hold_a_fan_that_would_run_once_pushed() -> None:
    solution = solve(S16, S16_LOAD, [with_capacitor(1.0)])[0]
    assert solution.net_starting_torque_nm > 0
    assert not solution.starts  # break-away is 1.5 × running friction here
    assert solution.from_rest is None
    assert solution.from_full == 0
    verdict, reasons = judge_step(solution, 241.5, float(S16_LOAD.friction_nm))
    assert verdict is StepVerdict.DOES_NOT_START
    assert "given a push it would hold 43 rpm" in reasons[1] or "44 rpm" in reasons[1]


def matrix_solution(
    motor: TwoWindingMotor, speed_rpm: float, source: Source
) -> tuple[complex, complex, float]:
    """Independent: the textbook 2×2 system with the series impedance inside it, solved by LAPACK."""
    n_s = 120 * source.frequency_hz / motor.poles
    s = 1 - speed_rpm / n_s
    x_m, x_2, r_2, a = (
        motor.magnetising_reactance_ohm,
        motor.rotor_leakage_reactance_ohm,
        motor.rotor_resistance_ohm,
        motor.turns_ratio,
    )

    def field(slip: float) -> complex:
        rotor = r_2 / slip + 1j * x_2
        return 0.5 * (1j * x_m * rotor) / (1j * x_m + rotor)

    z_f, z_b = field(s), field(2 - s)
    z = source.impedance_ohm
    z_m = motor.main_resistance_ohm + 1j * motor.main_leakage_reactance_ohm
    z_a = motor.auxiliary_resistance_ohm + 1j * motor.auxiliary_leakage_reactance_ohm
    z_c = 1 / (2j * np.pi * source.frequency_hz * motor.run_capacitance_f)
    matrix = [
        [z_m + z_f + z_b + z, -1j * a * (z_f - z_b) + z],
        [1j * a * (z_f - z_b) + z, z_a + z_c + a**2 * (z_f + z_b) + z],
    ]
    i_m, i_a = np.linalg.solve(np.array(matrix), np.full(2, source.voltage_v, dtype=complex))
    forward, backward = abs(i_m - 1j * a * i_a) ** 2 * z_f.real, abs(i_m + 1j * a * i_a) ** 2 * z_b.real
    return i_m, i_a, float((forward - backward) / (2 * np.pi * n_s / 60))


@pytest.mark.parametrize("source", [row.source for row in S16_ROWS.values()], ids=S16_ROWS)
def test_scaling_from_one_volt_equals_the_full_matrix(source: Source) -> None:
    for point in solve(S16, S16_LOAD, [source])[0].points:
        i_m, i_a, torque = matrix_solution(S16, point.speed_rpm, source)
        assert point.line_current_a == pytest.approx(abs(i_m + i_a), rel=1e-9)
        assert point.main_current_a == pytest.approx(abs(i_m), rel=1e-9)
        assert point.auxiliary_current_a == pytest.approx(abs(i_a), rel=1e-9)
        assert point.torque_nm == pytest.approx(torque, rel=1e-9)


ohms = st.floats(20, 900)
two_winding = st.builds(
    TwoWindingMotor,
    rated_voltage_v=st.just(230.0),
    rated_frequency_hz=st.sampled_from([50.0, 60.0]),
    poles=st.sampled_from([4, 6, 8, 14, 16, 18]),
    main_resistance_ohm=ohms,
    main_leakage_reactance_ohm=ohms,
    magnetising_reactance_ohm=st.floats(200, 4000),
    rotor_resistance_ohm=ohms,
    rotor_leakage_reactance_ohm=ohms,
    turns_ratio=st.floats(0.6, 2.0),
    auxiliary_resistance_ohm=ohms,
    auxiliary_leakage_reactance_ohm=ohms,
    run_capacitance_f=st.floats(0.8e-6, 8e-6),
)
single_winding = st.builds(
    SingleWindingMotor,
    rated_voltage_v=st.just(230.0),
    rated_frequency_hz=st.just(50.0),
    poles=st.sampled_from([2, 4, 6]),
    stator_resistance_ohm=ohms,
    stator_leakage_reactance_ohm=ohms,
    magnetising_reactance_ohm=st.floats(200, 4000),
    rotor_resistance_ohm=ohms,
    rotor_leakage_reactance_ohm=ohms,
    core_loss_resistance_ohm=st.none() | st.floats(1e3, 1e5),
    torque_factor=st.floats(0.3, 0.9),
)
motors = two_winding | single_winding
series = st.builds(lambda r, x: complex(r, x), st.floats(0, 3000), st.floats(-6000, 3000))


def balance_of(point: OperatingPoint) -> float:
    return point.shaft_power_w + point.rotor_loss_w + point.winding_loss_w + point.series_loss_w


@settings(max_examples=150, deadline=None)
@given(
    motors,
    st.floats(0.5, 0.97),
    st.floats(0.0, 0.2),
    st.floats(1.0, 2.5),
    st.lists(series, min_size=1, max_size=4),
)
def test_power_balance_closes_for_any_motor_load_and_circuit(
    motor: TwoWindingMotor | SingleWindingMotor,
    speed_share: float,
    friction: float,
    exponent: float,
    impedances: list[complex],
) -> None:
    n_s = 120 * 50 / motor.poles
    try:
        load = load_at_datum(motor, speed_share * n_s, 230, 50, friction, exponent)
    except InputError:
        assume(False)
    for solution in solve(motor, load, [Source(230, 50, z) for z in impedances]):
        for point in solution.points:
            assert balance_of(point) == pytest.approx(point.input_power_w, rel=1e-9)
            # Torques really are equal there.
            asked = float(load.torque_nm(np.array(point.speed_rpm)))
            assert point.torque_nm == pytest.approx(asked, rel=1e-6, abs=1e-9)
        speeds = [p.speed_rpm for p in solution.points]
        assert speeds == sorted(speeds)
        # Stable and unstable points take turns along the speed axis.
        assert all(a.stable != b.stable for a, b in zip(solution.points, solution.points[1:], strict=False))


@settings(max_examples=60, deadline=None)
@given(motors, st.floats(0.6, 0.95))
def test_the_fan_meets_its_own_datum(motor: TwoWindingMotor | SingleWindingMotor, share: float) -> None:
    n_full = share * 120 * 50 / motor.poles
    try:
        load = load_at_datum(motor, n_full, 230, 50)
    except InputError:
        assume(False)
    points = solve(motor, load, [MAINS])[0].points
    assert min(abs(p.speed_rpm - n_full) for p in points) < 1e-6 * n_full


def test_more_resistance_only_slows_the_sweep_fan() -> None:
    speeds = [
        s.points[0].speed_rpm
        for s in solve(S16, S16_LOAD, [Source(230, 50, r + 0j) for r in range(0, 1500, 100)])
    ]
    assert all(a > b for a, b in itertools.pairwise(speeds))


def test_constant_torque_load_has_no_steady_speed_below_breakdown() -> None:
    """Fan loads alone are held by voltage control; a hoist-like load falls off."""
    stiff = TwoWindingMotor(230, 50, 4, 20, 30, 400, 15, 25, 1.2, 30, 40, 6e-6)
    n_full = 1440.0
    fan = load_at_datum(stiff, n_full, 230, 50, 0.02, 2.0)
    hoist = load_at_datum(stiff, n_full, 230, 50, 0.02, 0.0)
    low = Source(90, 50)
    fan_points = [p for p in solve(stiff, fan, [low])[0].points if p.stable]
    hoist_points = [p for p in solve(stiff, hoist, [low])[0].points if p.stable]
    assert fan_points
    assert not hoist_points


def test_a_fold_is_found_with_both_its_steady_speeds() -> None:
    """A low-resistance rotor on a fan has a stretch of volts with two steady speeds and one unstable between."""
    stiff = TwoWindingMotor(230, 50, 4, 20, 30, 400, 8, 25, 1.2, 30, 40, 6e-6)
    load = load_at_datum(stiff, 1455.0, 230, 50, 0.02, 2.0)
    counts = [len(s.points) for s in solve(stiff, load, [Source(v, 50) for v in np.linspace(60, 230, 60)])]
    assert 3 in counts
    folded = next(
        s for s in solve(stiff, load, [Source(v, 50) for v in np.linspace(60, 230, 60)]) if len(s.points) == 3
    )
    assert [p.stable for p in folded.points] == [True, False, True]
    assert folded.from_full == 2
    if folded.starts:
        assert folded.from_rest == 0
        verdict, remarks = judge_step(folded, 241.5, float(load.friction_nm))
        assert verdict is StepVerdict.OK
        assert "two speeds hold" in remarks[-1]


def test_a_scan_reads_what_solve_computes() -> None:
    values = np.geomspace(1.2e-6, 20e-6, 40)
    found = scan(tabulate(S16, S16_LOAD, 50), 230.0, capacitor_impedance(values, 50))
    exact = [solve(S16, S16_LOAD, [with_capacitor(c * 1e6)])[0].running for c in values]
    for i, point in enumerate(exact):
        assert point is not None
        assert found.speed_rpm[i] == pytest.approx(point.speed_rpm, abs=0.02)
        assert found.motor_voltage_v[i] == pytest.approx(point.motor_voltage_v, rel=1e-3)


def test_array_parameters_equal_scalars_one_by_one() -> None:
    resistances = np.array([240.0, 260.0, 280.0])
    grid = speed_grid(375.0)
    together = S16.with_values(main_resistance_ohm=resistances[:, None]).respond(1 - grid / 375, 50)
    for i, r in enumerate(resistances):
        alone = S16.with_values(main_resistance_ohm=float(r)).respond(1 - grid / 375, 50)
        np.testing.assert_allclose(together.torque_nm[i], alone.torque_nm, rtol=1e-12)
        np.testing.assert_allclose(together.admittance_s[i], alone.admittance_s, rtol=1e-12)


def test_nothing_is_driven_at_synchronous_speed() -> None:
    response = P4.respond(np.array([0.0]), 50)
    assert response.torque_nm[0] == 0
    assert np.isfinite(response.admittance_s[0])


@pytest.mark.parametrize(
    ("field", "value", "reason"),
    [
        ("poles", 15, "pairs"),
        ("poles", 0, "above zero"),
        ("main_resistance_ohm", -260, "above zero"),
        ("main_resistance_ohm", 260_000, "slip of a thousand"),
        ("run_capacitance_f", 0, "above zero"),
        ("run_capacitance_f", float("nan"), "finite"),
        ("turns_ratio", None, "number"),
        ("rated_voltage_v", "230", "number"),
        ("magnetising_reactance_ohm", True, "number"),
    ],
)
def test_an_unreal_motor_is_refused_by_field(field: str, value: object, reason: str) -> None:
    with pytest.raises(InputError, match=reason) as error:
        S16.with_values(**{field: value})  # type: ignore[arg-type]
    assert error.value.field == field


def test_a_fan_cannot_outrun_its_field() -> None:
    with pytest.raises(InputError, match="poles right"):
        solve(S16, FanLoad(390, 0.6, 0.03), [MAINS])
    with pytest.raises(InputError, match="differ"):
        solve(S16, S16_LOAD, [MAINS, Source(230, 60)])
    assert solve(S16, S16_LOAD, []) == ()
