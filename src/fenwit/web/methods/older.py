"""Bodies of the older shape: edits of the last version may still wait in people's browsers. Goes with the next one."""

from __future__ import annotations

from typing import Any

from fenwit.core.motor.kinds import Method

_TOP = ("after_revision", "who", "name")


def new_design(body: Any) -> Any:
    """A bank that stood flat in the body, as a design of its method."""
    return _nested(body, Method.SERIES_CAPACITOR)


def new_control(body: Any) -> Any:
    """A phase-angle control that stood flat in the body of its own address, as a design of its method."""
    return _nested(body, Method.PHASE_ANGLE)


def _nested(body: Any, method: Method) -> Any:
    if not isinstance(body, dict) or "design" in body:
        return body
    flat = {k: v for k, v in body.items() if k not in _TOP}
    return {k: v for k, v in body.items() if k in _TOP} | {"design": _tagged(flat, method)}


def tried(body: Any) -> Any:
    """A bank or a control that was tried by its own key."""
    if not isinstance(body, dict):
        return body
    found = dict(body)
    for key, method in (("control", Method.PHASE_ANGLE), ("bank", Method.SERIES_CAPACITOR)):
        flat = found.pop(key, None)
        if isinstance(flat, dict):
            found["design"] = _tagged(flat, method)
    return found


def _tagged(flat: dict[str, Any], method: Method) -> dict[str, Any]:
    design = {"method": method.value, **flat}
    if "starts_full" in design:
        design["kick"] = design.pop("starts_full")
    return design
