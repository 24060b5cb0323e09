"""Frozen dataclasses of the core as stored documents, and back."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from typing import Any, TypeVar

from pydantic import TypeAdapter

from fenwit.core.job.state import Design
from fenwit.core.methods import documents

T = TypeVar("T")


@lru_cache(maxsize=32)
def _made(kind: Any) -> TypeAdapter[Any]:
    return TypeAdapter(kind)


def _adapter(kind: Any) -> TypeAdapter[Any]:
    return _made(kind)


def dump(value: object) -> dict[str, Any]:
    """A dataclass as a JSON document."""
    found: dict[str, Any] = _adapter(type(value)).dump_python(value, mode="json")
    return found


def load(kind: type[T], document: Any) -> T:
    """A JSON document as a dataclass; raises ValueError where it does not fit."""
    found: T = _adapter(kind).validate_python(document)
    return found


def dump_design(design: Design) -> dict[str, Any]:
    """A design as a document that says what it is."""
    return documents.tagged(design, dump(design))


def load_design(document: Mapping[str, Any]) -> Design:
    """A stored design, whatever version wrote it; raises ValueError where it does not fit, or InputError."""
    regulation, body = documents.body_of(document)
    found: Design = load(regulation.design, body)
    return found
