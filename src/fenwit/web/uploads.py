"""Bodies that are files, and answers that are files."""

from __future__ import annotations

import re
from typing import Any

from fastapi import Request, Response

from fenwit.core.errors import InputError

MOST_BYTES = 4_000_000

CSV_BODY: dict[str, Any] = {
    "requestBody": {"content": {"text/csv": {"schema": {"type": "string"}}}, "required": True}
}
JSON_BODY: dict[str, Any] = {
    "requestBody": {"content": {"application/json": {"schema": {"type": "object"}}}, "required": True}
}


async def body_of(request: Request) -> bytes:
    """The body of a request, read no further than a file may be long. Raises InputError."""
    found = bytearray()
    async for piece in request.stream():
        found += piece
        if len(found) > MOST_BYTES:
            raise InputError(
                "file",
                f"over {MOST_BYTES} bytes",
                f"up to {MOST_BYTES // 1_000_000} MB",
                f"the file is larger than {MOST_BYTES // 1_000_000} MB",
            )
    return bytes(found)


def download(data: bytes, name: str, media_type: str, *, inline: bool = False) -> Response:
    """A file as an answer."""
    safe = re.sub(r"[^A-Za-z0-9._-]+", "-", name).strip("-") or "fenwit"
    place = "inline" if inline else "attachment"
    return Response(
        data,
        media_type=media_type,
        headers={"Content-Disposition": f'{place}; filename="{safe}"', "Cache-Control": "no-store"},
    )
