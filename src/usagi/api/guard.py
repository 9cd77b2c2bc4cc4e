"""Who may ask: this machine under its own names, pages of this server only, with bodies of a sane size.

Any page on the web can send requests to a loopback address, and a name on the web can be made to point at one. So
the host that is named and the origin that asks are looked at before anything is read.
"""

from __future__ import annotations

from typing import Final
from urllib.parse import urlsplit

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from usagi.api.problems import problem
from usagi.media.decode import MOST_BYTES

HOSTS: Final = frozenset({"127.0.0.1", "localhost", "::1"})
MOST_BODY: Final = 20_000_000
MOST_UPLOAD: Final = MOST_BYTES + 1_000_000  # the file and what stands around it in the form
MOST_DOCUMENT: Final = 51_000_000
POLICY: Final = "; ".join(
    (
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",  # the parts of the dialogs measure and lock with styles of their own
        "img-src 'self' data:",
        "font-src 'self'",
        "connect-src 'self'",
        "media-src 'self' blob:",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)
HEADERS: Final = (
    (b"content-security-policy", POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
    (b"cross-origin-resource-policy", b"same-origin"),
    (b"cross-origin-opener-policy", b"same-origin"),
)


class Guard:
    """ASGI middleware around the whole application."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = {name.decode("latin-1").lower(): value.decode("latin-1") for name, value in scope["headers"]}

        async def send_with_policy(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] = [*message.get("headers", []), *HEADERS]
            await send(message)

        refusal = _stranger(scope, headers)
        most = _most(scope["path"])
        length = headers.get("content-length", "")
        if refusal is None and length.isdigit() and int(length) > most:
            refusal = _too_large(most)
        if refusal is not None:
            code, sentence = refusal
            await problem(code, sentence)(scope, receive, send_with_policy)
            return
        got, over, refused = 0, False, False

        async def counted() -> Message:
            nonlocal got, over
            message = await receive()
            got += len(message.get("body", b""))
            over = over or got > most
            return {"type": "http.disconnect"} if over else message

        async def unless_over(message: Message) -> None:
            nonlocal refused
            if not over:
                await send_with_policy(message)
            elif not refused:  # whatever was to be answered to half a body
                refused = True
                await problem(*_too_large(most))(scope, receive, send_with_policy)

        await self.app(scope, counted, unless_over)


def _stranger(scope: Scope, headers: dict[str, str]) -> tuple[str, str] | None:
    """Why a request is not for this server, or comes from a page that is not its own."""
    try:
        host = urlsplit(f"//{headers.get('host', '')}").hostname
        origin = urlsplit(headers["origin"]) if "origin" in headers else None
        from_here = origin is None or (
            origin.scheme == scope["scheme"] and origin.hostname in HOSTS and origin.netloc == headers.get("host")
        )
    except ValueError:
        host, from_here = None, False
    if host not in HOSTS:
        return "host-unknown", "This server answers only on its own machine, as 127.0.0.1 or localhost."
    elsewhere = headers.get("sec-fetch-site", "none") not in ("none", "same-origin")
    if not from_here or (elsewhere and scope["path"].startswith("/api/")):
        return "origin-refused", "Only the page of this server may ask it for something."
    return None


def _most(path: str) -> int:
    return {"/api/recordings": MOST_UPLOAD, "/api/documents": MOST_DOCUMENT}.get(path, MOST_BODY)


def _too_large(most: int) -> tuple[str, str]:
    return "too-large", f"That is too much at once: at most {most // 1_000_000} MB are taken here."
