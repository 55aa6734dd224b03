"""What keeps strangers out: only our own host and origin, bounded requests, a strict Content-Security-Policy."""

from __future__ import annotations

import os
import re
from urllib.parse import urlsplit

from starlette.datastructures import Headers
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

OURS = re.compile(r"(127\.0\.0\.1|localhost|\[::1\])(:[0-9]{1,5})?")
SHOWN_AT = os.environ.get("NOBLE_CLAY_SHOWN_AT", "").rstrip("/") or None
"""Where the read-only pages of pieces are reached from outside, "https://clay.example.org": by that name this server
answers for nothing else.
"""

FOR_ANYONE = re.compile(r"/(look/|api/look/|assets/|seal\.svg$|favicon)")
MB = 1_000_000
LIMITS = {"/bring-in": 600 * MB, "/pieces/open": 60 * MB, "/thumbnail": 1 * MB, "/pictures": 40 * MB}
"""Largest request body by the end of its path; any other: `LIMIT`."""
LIMIT = 20 * MB

POLICY = "; ".join(
    [
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self'",
        "img-src 'self' data: blob:",
        "font-src 'self'",
        "connect-src 'self'",
        "manifest-src 'self'",
        "base-uri 'none'",
        "form-action 'none'",
        "frame-ancestors 'none'",
    ]
)
WORKER = re.compile(r"/assets/shaping\.worker-[\w-]+\.js")
WORKER_POLICY = "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'"
"""For the one worker of the page that runs WebAssembly, to make coarser skins; the page itself may not."""

HEADERS = [
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
    (b"cross-origin-opener-policy", b"same-origin"),
    (b"cross-origin-resource-policy", b"same-origin"),
]


class Guards:
    """ASGI middleware that refuses foreign hosts, foreign origins and bodies beyond the limits."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        if scope["type"] == "websocket":
            if _refusal(headers) is not None or "origin" not in headers:
                await send({"type": "websocket.close", "code": 1008})
                return
            await self.app(scope, receive, send)
            return
        refusal = None if _for_anyone(scope, headers) else _refusal(headers)
        refusal = refusal or _too_large(scope, headers)
        if refusal is not None:
            await refusal(scope, receive, _with_headers(send, scope["path"]))
            return
        body = _Bounded(receive, _limit(scope["path"]), _with_headers(send, scope["path"]))
        try:
            await self.app(scope, body.receive, body.send)
        except BodyTooLarge:
            await body.refuse(scope)


def host_is_ours(host: str) -> bool:
    """Whether a Host header (name and maybe port) is a loopback name."""
    return OURS.fullmatch(host) is not None


def _for_anyone(scope: Scope, headers: Headers) -> bool:
    """Whether it asks, by the name for that, for what is shown to anyone who has a link."""
    shown = SHOWN_AT is not None and headers.get("host", "") == urlsplit(SHOWN_AT).netloc
    return shown and scope["method"] in ("GET", "HEAD") and FOR_ANYONE.match(scope["path"]) is not None


def _refusal(headers: Headers) -> JSONResponse | None:
    host = headers.get("host", "")
    if not host_is_ours(host):
        return _answer(403, "this address is not ours: open the page at 127.0.0.1")
    origin = headers.get("origin")
    if origin is not None and origin != f"http://{host}":
        return _answer(403, "this request comes from another page and is refused")
    if headers.get("sec-fetch-site") == "cross-site":
        return _answer(403, "this request comes from another site and is refused")
    return None


def _limit(path: str) -> int:
    return next((size for end, size in LIMITS.items() if path.endswith(end)), LIMIT)


def _too_large(scope: Scope, headers: Headers) -> JSONResponse | None:
    limit = _limit(scope["path"])
    declared = headers.get("content-length", "0")
    if not declared.isdigit() or int(declared) > limit:
        return _answer(413, _words(limit))
    return None


def _answer(status: int, message: str) -> JSONResponse:
    return JSONResponse({"message": message, "problems": []}, status, headers={"connection": "close"})


class BodyTooLarge(Exception):
    """A body without a declared length went beyond the limit."""


class _Bounded:
    """Takes a body in, up to the limit. What the application answers to one beyond it, is answered as 413."""

    def __init__(self, receive: Receive, limit: int, send: Send) -> None:
        self._receive, self._limit, self._send = receive, limit, send
        self._held = 0
        self._answered = False

    async def receive(self) -> Message:
        message = await self._receive()
        self._held += len(message.get("body", b""))
        if self._held > self._limit:
            raise BodyTooLarge
        return message

    async def send(self, message: Message) -> None:
        if self._held > self._limit and not self._answered:
            raise BodyTooLarge
        self._answered = True
        await self._send(message)

    async def refuse(self, scope: Scope) -> None:
        if not self._answered:
            await _answer(413, _words(self._limit))(scope, self._receive, self._send)


def _words(limit: int) -> str:
    return f"this is larger than the {limit // MB} MB that are accepted here"


def _with_headers(send: Send, path: str) -> Send:
    policy = WORKER_POLICY if WORKER.fullmatch(path) else POLICY
    said = (b"content-security-policy", policy.encode())

    async def with_headers(message: Message) -> None:
        if message["type"] == "http.response.start":
            own = list(message.get("headers", []))
            # A page that says its own policy has that one: of two, a browser keeps to both.
            policies = [] if any(name == said[0] for name, _ in own) else [said]
            message["headers"] = [*own, *policies, *HEADERS]
        await send(message)

    return with_headers
