"""What stands before every route: whose pages may ask, how much they may send, and what an answer may do in a browser.

A page of another site can make a browser send requests here, and a name of its own can be made to lead to this very
machine. So the host that was asked for, the page that asks and the kind of body are looked at before anything is read
(SECURITY.md).
"""

from __future__ import annotations

import ipaddress
from collections.abc import Awaitable, Callable, Iterable, MutableMapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

from fenwit.web.problems import Problem
from fenwit.web.uploads import MOST_BYTES, takes_file

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]

MOST_BODY_BYTES = 1_000_000
"""The longest body that is no file [byte]"""
_READING = ("GET", "HEAD", "OPTIONS")
_BODIES = ("application/json", "text/csv")

APP_POLICY = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        # Positions of marks and menus are styles that the page's own scripts set.
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data:",
        # Small ones are built into the style sheet.
        "font-src 'self' data:",
        "connect-src 'self'",
        "form-action 'none'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
    )
)
FILE_POLICY = (
    "default-src 'none'; style-src 'unsafe-inline'; font-src 'self'; img-src data:; base-uri 'none'; "
    "form-action 'none'; frame-ancestors 'none'"
)
"""For what is made of a job: no script at all"""


@dataclass(frozen=True)
class Hosts:
    """The address that was bound, and names a setting allows; one without a port goes with the bound one or with none."""

    bound: str
    names: tuple[str, ...] = ()

    def allow(self, host: str) -> bool:
        """Whether a request may ask for this host."""
        asked = host.strip().lower()
        port = self.bound.rpartition(":")[2]
        return bool(asked) and (
            asked in (self.bound, *self.names) or asked in [f"{n}:{port}" for n in self.names]
        )


def is_loopback(address: str) -> bool:
    """Whether an address can be reached from this machine only."""
    try:
        return ipaddress.ip_address(address.strip("[]")).is_loopback
    except ValueError:
        return address == "localhost"


class Guard:
    """The middleware."""

    def __init__(self, app: App, hosts: Hosts) -> None:
        self.app, self.hosts = app, hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "websocket":
            await send({"type": "websocket.close", "code": 1008})
            return
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = _headers(scope["headers"])
        problem = self._refusal(scope, headers)
        if problem is not None:
            await _answer(problem, send)
            return
        body = _Limited(receive, _most(scope))
        answer = _Answered(send, scope["path"], body)
        try:
            await self.app(scope, body.receive, answer.send)
        except Exception:
            if not body.over or answer.begun:
                raise
        if body.over and not answer.begun:
            await _answer(_too_long(_most(scope)), send)

    def _refusal(self, scope: Scope, headers: dict[str, list[str]]) -> Problem | None:
        hosts = headers.get("host", [])
        if len(hosts) != 1 or not self.hosts.allow(hosts[0]):
            return _problem(421, "host", "Fenwit answers only under the address it was started with.")
        foreign = self._foreign(scope, headers)
        if foreign:
            return _problem(403, "foreign", foreign)
        if scope["method"] in _READING:
            return None
        length = headers.get("content-length", ["0"])[0]
        if not length.isdecimal():
            return _problem(400, "length", "The length of the body is no number.")
        if int(length[:15]) > _most(scope):
            return _too_long(_most(scope))
        kind = headers.get("content-type", [""])[0].partition(";")[0].strip().lower()
        if (int(length[:15]) or "transfer-encoding" in headers) and kind not in _BODIES:
            return _problem(415, "body", f"A body is sent as {' or '.join(_BODIES)}, and says so.")
        return None

    def _foreign(self, scope: Scope, headers: dict[str, list[str]]) -> str:
        """Why the page that asks may not; empty when it may."""
        reading = scope["method"] in _READING
        site = headers.get("sec-fetch-site", ["none"])[0]
        followed = reading and headers.get("sec-fetch-mode", [""])[0] == "navigate"
        if site not in ("same-origin", "none") and not followed and (not reading or _is_data(scope["path"])):
            return "Only Fenwit's own pages may ask this."
        if not reading and any(not self._own(origin) for origin in headers.get("origin", [])):
            return "Only Fenwit's own pages may change anything."
        return ""

    def _own(self, origin: str) -> bool:
        try:
            parts = urlsplit(origin)
        except ValueError:
            return False
        return parts.scheme in ("http", "https") and self.hosts.allow(parts.netloc)


class _Limited:
    """Counts what is received, whatever length was announced; past the limit the client counts as gone."""

    def __init__(self, receive: Receive, most: int) -> None:
        self._receive, self._most, self._count = receive, most, 0

    @property
    def over(self) -> bool:
        """Whether more came than is read."""
        return self._count > self._most

    async def receive(self) -> Message:
        if not self.over:
            message = await self._receive()
            self._count += len(message.get("body", b""))
            if not self.over:
                return message
        return {"type": "http.disconnect"}


class _Answered:
    """Adds to every answer what a browser may do with it."""

    def __init__(self, send: Send, path: str, body: _Limited) -> None:
        self._send, self._path, self._body, self.begun = send, path, body, False

    async def send(self, message: Message) -> None:
        if self._body.over and not self.begun:
            return  # whatever is made of half a body: the answer is that it was too long
        if message["type"] == "http.response.start":
            self.begun = True
            given = [(k, v) for k, v in message["headers"] if k.lower() not in _OURS]
            kept = {k.lower() for k, _ in given}
            extra = [(k, v) for k, v in _policy(self._path) if k not in kept]
            message["headers"] = [*given, *extra]
        await self._send(message)


_OURS = (b"content-security-policy", b"server")


def _policy(path: str) -> Iterable[tuple[bytes, bytes]]:
    data = _is_data(path)
    yield b"content-security-policy", (FILE_POLICY if data else APP_POLICY).encode()
    yield b"x-content-type-options", b"nosniff"
    yield b"referrer-policy", b"no-referrer"
    yield b"cross-origin-resource-policy", b"same-origin"
    yield b"cross-origin-opener-policy", b"same-origin"
    yield b"permissions-policy", b"camera=(), microphone=(), geolocation=()"
    if data:
        yield b"cache-control", b"no-store"


def _is_data(path: str) -> bool:
    return path.startswith("/api") or path == "/openapi.json"


def _most(scope: Scope) -> int:
    return MOST_BYTES if takes_file(scope["path"]) else MOST_BODY_BYTES


def _headers(raw: Iterable[tuple[bytes, bytes]]) -> dict[str, list[str]]:
    found: dict[str, list[str]] = {}
    for name, value in raw:
        found.setdefault(name.decode("latin-1").lower(), []).append(value.decode("latin-1"))
    return found


def _too_long(most: int) -> Problem:
    return _problem(413, "too-long", f"More than {most // 1_000_000} MB; nothing of it was read.")


def _problem(status: int, kind: str, detail: str) -> Problem:
    return Problem(type=kind, title="Not taken", status=status, detail=detail)


async def _answer(problem: Problem, send: Send) -> None:
    body = problem.model_dump_json().encode()
    headers = [
        (b"content-type", b"application/problem+json"),
        (b"content-length", str(len(body)).encode()),
        # What was not read cannot be told from a next request.
        (b"connection", b"close"),
        *_policy("/api"),
    ]
    await send({"type": "http.response.start", "status": problem.status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
