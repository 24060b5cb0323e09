"""Designs as stored documents: tagged with their method and form, and read whatever version wrote them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fenwit.core.errors import InputError
from fenwit.core.job.state import Design
from fenwit.core.methods import REGULATIONS, of
from fenwit.core.methods.seam import Regulation
from fenwit.core.motor.kinds import Method

METHOD, FORM = "method", "form"


def method_of(document: Mapping[str, Any]) -> Method:
    """The method of a stored design: as it says, or told by its keys where it was written before it said so.

    Parameters
    ----------
    document : mapping
        The document [-]

    Returns
    -------
    Method
        One that is sized here [-]

    Raises
    ------
    InputError
        A document of no method that is known here.
    """
    said = document.get(METHOD)
    if said is None:
        found = [r.key for r in REGULATIONS.values() if r.told_by and r.told_by <= document.keys()]
        if len(found) != 1:
            raise InputError("regulator", sorted(document)[:8], "a design", "this is no design of any method")
        return found[0]
    if said not in {m.value for m in REGULATIONS}:
        allowed = ", ".join(m.value for m in REGULATIONS)
        raise InputError("regulator.method", said, allowed, "a design of a method that is not known here")
    return Method(said)


def body_of(document: Mapping[str, Any]) -> tuple[Regulation[Any, Any, Any], dict[str, Any]]:
    """The method of a stored design, and its fields as today's form has them.

    Parameters
    ----------
    document : mapping
        The document [-]

    Returns
    -------
    tuple of Regulation and dict
        The method, and the fields without their tags [-]

    Raises
    ------
    InputError
        No design, or one of a newer form.
    """
    regulation = of(method_of(document))
    form = document.get(FORM, 0)
    if not isinstance(form, int) or isinstance(form, bool) or not 0 <= form <= regulation.form:
        raise InputError(
            "regulator.form", form, f"up to {regulation.form}", "written by a newer Fenwit than this one"
        )
    body = {k: v for k, v in document.items() if k not in (METHOD, FORM)}
    for older in range(form, regulation.form):
        body = regulation.upgrades[older](body)
    return regulation, body


def tagged(design: Design, fields: Mapping[str, Any]) -> dict[str, Any]:
    """The fields of a design as a document that says what it is.

    Parameters
    ----------
    design : Design
        The design [-]
    fields : mapping
        Its fields, as the store writes a dataclass [-]

    Returns
    -------
    dict
        The document [-]
    """
    return {METHOD: design.method.value, FORM: of(design.method).form, **fields}
