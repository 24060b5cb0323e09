"""Bodies that are files, and answers that are files."""

from __future__ import annotations

import re
from typing import Any

from fastapi import Request, Response

MOST_BYTES = 8_000_000
"""The longest file [byte]"""
_FILES = re.compile(r"/api/.*/(import|captures|lead-captures)")

CSV_BODY: dict[str, Any] = {
    "requestBody": {"content": {"text/csv": {"schema": {"type": "string"}}}, "required": True}
}
JSON_BODY: dict[str, Any] = {
    "requestBody": {"content": {"application/json": {"schema": {"type": "object"}}}, "required": True}
}


def takes_file(path: str) -> bool:
    """Whether a route takes a file as its body; all others take short ones only."""
    return _FILES.fullmatch(path) is not None


class WrongBody(Exception):
    """The body is not of the kind this route takes."""

    def __init__(self, wanted: str) -> None:
        self.wanted = wanted
        super().__init__(wanted)


async def body_of(request: Request, media_type: str) -> bytes:
    """The body of a request that sends a file. Raises WrongBody; its length was looked at before."""
    if request.headers.get("content-type", "").partition(";")[0].strip().lower() != media_type:
        raise WrongBody(media_type)
    return await request.body()


def download(data: bytes, name: str, media_type: str, *, inline: bool = False) -> Response:
    """A file as an answer."""
    safe = re.sub(r"[^A-Za-z0-9._-]+", "-", name).strip("-") or "fenwit"
    place = "inline" if inline else "attachment"
    return Response(
        data,
        media_type=media_type,
        headers={"Content-Disposition": f'{place}; filename="{safe}"', "Cache-Control": "no-store"},
    )
