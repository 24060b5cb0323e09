"""Units are part of the signature: every documented parameter and return carries its unit in brackets."""

from __future__ import annotations

import importlib
import inspect
import pkgutil
import re
from collections.abc import Callable, Iterator

import pytest

import fenwit.core


def public_functions() -> Iterator[tuple[str, Callable[..., object]]]:
    for info in pkgutil.walk_packages(fenwit.core.__path__, "fenwit.core."):
        module = importlib.import_module(info.name)
        for name, found in vars(module).items():
            if inspect.isfunction(found) and found.__module__ == info.name and not name.startswith("_"):
                yield f"{info.name}.{name}", found


FUNCTIONS = dict(public_functions())


@pytest.mark.parametrize("name", FUNCTIONS)
def test_docstring_agrees_with_the_signature(name: str) -> None:
    function = FUNCTIONS[name]
    text = inspect.getdoc(function)
    assert text, f"{name} has no docstring"
    if "Parameters\n---" not in text:
        # One line is enough where the signature says it all.
        assert len(inspect.signature(function).parameters) <= 4
        return
    section = re.split(r"\n[A-Z][a-z]+\n-+\n", text)[1]
    entries = re.findall(r"^(\w+) : .*\n((?:    .*\n?)+)", section, re.MULTILINE)
    assert [entry for entry, _ in entries] == list(inspect.signature(function).parameters)
    for entry, description in entries:
        assert re.search(r"\[[^\]]+\]\s*$", description), f"{name}: {entry} names no unit"


def test_there_is_something_to_check() -> None:
    assert len(FUNCTIONS) > 30
