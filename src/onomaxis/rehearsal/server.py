"""The console and the portal over HTTP on this machine alone: JSON in and out, for other tools to be pointed at.

docs/rehearsal.md lists what is asked and answered. Every answer says that it is simulated.
"""

from __future__ import annotations

import base64
import datetime
import json
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from threading import Lock
from typing import Any

from onomaxis.errors import InputError
from onomaxis.rehearsal.consoles import Offices, read_offices, write_offices
from onomaxis.rehearsal.portal import issue, register_id
from onomaxis.rehearsal.services import login, push, register, service_file

_MOST = 1024 * 1024
Body = dict[str, Any]
Answer = tuple[int, Body, Offices | None]


def _register(offices: Offices, body: Body, day: datetime.date) -> Answer:
    platform, app_id = _text(body, "platform"), _text(body, "id")
    console = register(offices.console, platform, app_id, _texts(body, "fingerprints"))
    app = console.apps[platform, app_id]
    return 201, {"app": {**app._asdict(), "fingerprints": list(app.fingerprints)}}, offices._replace(console=console)


def _file(offices: Offices, body: Body, day: datetime.date) -> Answer:
    name, data = service_file(offices.console, _text(body, "platform"), _text(body, "id"))
    return 200, {"name": name, "content": data.decode("utf-8")}, None


def _login(offices: Offices, body: Body, day: datetime.date) -> Answer:
    reason = login(offices.console, _text(body, "platform"), _text(body, "id"), _text(body, "fingerprint", ""))
    return 200, {"accepted": not reason, "reason": reason}, None


def _push(offices: Offices, body: Body, day: datetime.date) -> Answer:
    held = (_text(body, "sender", ""), _text(body, "app", ""))
    reason = push(offices.console, _text(body, "platform"), _text(body, "id"), *held)
    return 200, {"accepted": not reason, "reason": reason}, None


def _bundle(offices: Offices, body: Body, day: datetime.date) -> Answer:
    portal = register_id(offices.portal, _text(body, "id"), _texts(body, "capabilities"))
    known = list(portal.ids[_text(body, "id")])
    return 201, {"id": _text(body, "id"), "capabilities": known}, offices._replace(portal=portal)


def _profile(offices: Offices, body: Body, day: datetime.date) -> Answer:
    portal, data = issue(offices.portal, _text(body, "id"), day)
    return 201, {"profile": base64.b64encode(data).decode()}, offices._replace(portal=portal)


ROUTES: dict[str, Callable[[Offices, Body, datetime.date], Answer]] = {
    "/services/apps": _register,
    "/services/file": _file,
    "/services/login": _login,
    "/services/push": _push,
    "/portal/ids": _bundle,
    "/portal/profiles": _profile,
}


def _text(body: Body, key: str, default: str | None = None) -> str:
    value = body.get(key, default)
    if not isinstance(value, str):
        raise InputError(f"“{key}” is missing, or is not text")
    return value


def _texts(body: Body, key: str) -> list[str]:
    value = body.get(key, [])
    if not isinstance(value, list) or not all(isinstance(item, str) for item in value):
        raise InputError(f"“{key}” is not a list of texts")
    return value


_OWN = ("127.0.0.1", "localhost")


class _Handler(BaseHTTPRequestHandler):
    server: OfficeServer
    # A request that is sent by half holds nobody up for longer, in seconds.
    timeout = 10

    def parse_request(self) -> bool:
        """Read the head of a request, whatever its method; refuse what a page of elsewhere made a browser send."""
        if not super().parse_request():
            return False
        asked = [self.headers.get("Host", ""), *self.headers.get_all("Origin", [])]
        if all(origin.removeprefix("http://").partition(":")[0] in _OWN for origin in asked):
            return True
        self._say(403, {"error": "this is for programs on this machine"})
        return False

    def do_POST(self) -> None:
        """Answer what is asked with a JSON body."""
        try:
            size = int(self.headers.get("Content-Length") or 0)
            if not 0 <= size <= _MOST:
                return self._say(413, {"error": "the body is too large"})
            body = json.loads(self.rfile.read(size) or b"{}")
            if not isinstance(body, dict):
                return self._say(400, {"error": "the body is not a JSON object"})
        except TimeoutError:
            return self._say(408, {"error": "the body did not arrive"})
        except (ValueError, RecursionError):
            return self._say(400, {"error": "the body is not JSON"})
        route = ROUTES.get(self.path)
        if route is None:
            return self._say(404, {"error": f"there is no {self.path}", "known": list(ROUTES)})
        try:
            status, answer = self.server.answer(route, body)
        except InputError as error:
            return self._say(422, {"error": f"{error.message}. {error.remedy}".strip()})
        self._say(status, answer)

    def do_GET(self) -> None:
        """Say what can be asked."""
        self._say(200 if self.path == "/" else 404, {"known": list(ROUTES)})

    def send_error(self, code: int, message: str | None = None, explain: str | None = None) -> None:
        """Say in JSON what is wrong with a request that is none, or of a method that nothing answers."""
        self._say(code, {"error": message or explain or "this is not a request", "known": list(ROUTES)})

    def _say(self, status: int, answer: Body) -> None:
        data = json.dumps({"format": 1, "simulated": True, **answer}, ensure_ascii=False).encode("utf-8", "replace")
        self.close_connection = True
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        if self.command != "HEAD":
            self.wfile.write(data)

    def log_message(self, format: str, *args: Any) -> None:
        """Say nothing: the caller prints what it wants to."""


class OfficeServer(ThreadingHTTPServer):
    """The server; ``port`` 0 takes a free one. Its state is kept in *folder* after each change."""

    daemon_threads = True

    def handle_error(self, request: Any, client_address: Any) -> None:
        """Say nothing of who went away before the answer."""

    def __init__(self, folder: Path, port: int = 0, day: datetime.date | None = None) -> None:
        """Listen on this machine's own address. Raises InputError where the port is taken, or the state is none."""
        self._folder, self._day, self._lock = folder, day, Lock()
        self._offices = read_offices(folder)
        try:
            super().__init__(("127.0.0.1", port), _Handler)
        except OSError as error:
            raise InputError(
                f"port {port} cannot be used: {error.strerror}", remedy="Take another: --port 0."
            ) from None

    @property
    def address(self) -> str:
        """Where it is reached."""
        return f"http://127.0.0.1:{self.server_port}"

    def answer(self, route: Callable[[Offices, Body, datetime.date], Answer], body: Body) -> tuple[int, Body]:
        """Answer one question, one at a time."""
        with self._lock:
            status, answer, changed = route(self._offices, body, self._day or datetime.date.today())
            if changed is not None:
                write_offices(self._folder, changed)
                self._offices = changed
            return status, answer
