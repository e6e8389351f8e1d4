"""The stand-ins of a console of services and of a developer portal: what they give, what they refuse, over HTTP too."""

from __future__ import annotations

import base64
import datetime
import http.client
import json
import plistlib
import socket
import subprocess
import sys
import threading
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest

import packaged
import shop
from conftest import inline
from onomaxis.errors import InputError
from onomaxis.packages.apple import read_profile
from onomaxis.packages.service_values import android_service
from onomaxis.projects.services import read_service
from onomaxis.rehearsal.consoles import Offices, read_offices, write_offices
from onomaxis.rehearsal.portal import CAPABILITIES, Portal, issue, register_id
from onomaxis.rehearsal.server import ROUTES, OfficeServer
from onomaxis.rehearsal.services import Console, login, push, register, service_file

DAY = datetime.date(2026, 5, 1)
SHA1 = ":".join(["AB"] * 20)


def console() -> Console:
    found = register(Console(), "android", "org.lendspan.alderbank", [SHA1])
    found = register(found, "android", "org.lendspan.mossgate")
    return register(found, "ios", "org.lendspan.alderbank")


def test_the_files_are_those_that_projects_hold() -> None:
    name, data = service_file(console(), "android", "org.lendspan.alderbank")
    file = read_service(name, data)
    assert [app.id for app in file.apps] == ["org.lendspan.alderbank", "org.lendspan.mossgate"] and not file.fault
    assert file.apps[0].certificates == (SHA1.replace(":", "").lower(),)
    assert set(android_service(data, "org.lendspan.alderbank")) == {
        "google_app_id",
        "gcm_defaultSenderId",
        "project_id",
        "google_api_key",
        "default_web_client_id",
    }
    name, data = service_file(console(), "ios", "org.lendspan.alderbank")
    assert read_service(name, data).knows("org.lendspan.alderbank") and read_service(name, data).reversed
    assert service_file(console(), "ios", "org.lendspan.alderbank") == (name, data)


REFUSED = {("windows", "org.x.y"): "platform", ("android", "lendspan"): "app ID", ("android", "org..x"): "app ID"}


@pytest.mark.parametrize(("given", "said"), REFUSED.items())
def test_what_cannot_be_registered(given: tuple[str, str], said: str) -> None:
    with pytest.raises(InputError, match=said):
        register(Console(), *given)
    with pytest.raises(InputError, match="fingerprint"):
        register(Console(), "android", "org.x.y", ["12:34"])
    with pytest.raises(InputError, match="not registered"):
        service_file(Console(), "ios", "org.x.y")


def test_logins_and_tokens() -> None:
    known = console()
    assert login(known, "android", "org.lendspan.alderbank", SHA1) == "" == login(known, "ios", "org.lendspan.alderbank")
    assert "certificate" in login(known, "android", "org.lendspan.alderbank", "AB")
    assert "certificate" in login(known, "android", "org.lendspan.mossgate")
    assert "not registered" in login(known, "ios", "org.lendspan.mossgate")
    mine = android_service(service_file(known, "android", "org.lendspan.alderbank")[1], "org.lendspan.alderbank")
    assert push(known, "android", "org.lendspan.alderbank", mine["gcm_defaultSenderId"], mine["google_app_id"]) == ""
    assert push(known, "android", "org.lendspan.old") == "push token refused: package not registered"
    assert "another app" in push(known, "android", "org.lendspan.mossgate", mine["gcm_defaultSenderId"], mine["google_app_id"])
    assert "project" in push(known, "android", "org.lendspan.alderbank", "1")


def test_profiles_are_those_that_packages_hold(tmp_path: Path) -> None:
    portal = register_id(Portal(), "org.lendspan.alderbank", ["push", "app-groups"])
    portal, data = issue(portal, "org.lendspan.alderbank", DAY)
    found = read_profile(data, "the profile")
    assert found[:4] == ("LEND234567.org.lendspan.alderbank", "LEND234567", "Rehearsal org.lendspan.alderbank", "2027-05-01T00:00:00Z")
    assert {CAPABILITIES["push"], CAPABILITIES["app-groups"]} <= set(found.entitlements)
    files = shop.ipa_files("alderbank")
    files["Payload/Lend.app/embedded.mobileprovision"] = data
    shown = inline("inspect", packaged.make_ipa(tmp_path, files), "--json").json["packages"][0]["profile"]
    assert shown["app_id"] == "LEND234567.org.lendspan.alderbank"
    (tmp_path / "p.cms").write_bytes(data)
    told = packaged.run("openssl", "cms", "-verify", "-noverify", "-inform", "DER", "-in", tmp_path / "p.cms")
    assert plistlib.loads(told.encode())["TeamIdentifier"] == ["LEND234567"]
    with pytest.raises(InputError, match="not registered"):
        issue(portal, "org.lendspan.else", DAY)
    with pytest.raises(InputError, match="bundle ID"):
        register_id(portal, "lend span")
    with pytest.raises(InputError, match="capability"):
        register_id(portal, "org.x", ["flight"])


def test_what_is_kept_comes_back(tmp_path: Path) -> None:
    portal, _ = issue(register_id(Portal(), "org.lendspan.a", ["push"]), "org.lendspan.a", DAY)
    kept = Offices(console(), portal)
    write_offices(tmp_path / "state", kept)
    found = read_offices(tmp_path / "state")
    assert (found.console.apps, found.console.project, found.portal) == (kept.console.apps, kept.console.project, kept.portal)
    assert (tmp_path / "state" / "offices.json").stat().st_mode & 0o077 == 0
    for text in ("", "[]", '{"apps": 1}', "[" * 100_000):
        (tmp_path / "state" / "offices.json").write_text(text)
        with pytest.raises(InputError, match="not a state"):
            read_offices(tmp_path / "state")


# -- over HTTP


@pytest.fixture
def server(tmp_path: Path) -> Iterator[OfficeServer]:
    with OfficeServer(tmp_path / "state", day=DAY) as found:
        thread = threading.Thread(target=found.serve_forever, daemon=True)
        thread.start()
        yield found
        found.shutdown()


def ask(server: OfficeServer, path: str, body: object, raw: bytes | None = None, host: str = "127.0.0.1:1") -> tuple[int, dict]:
    link = http.client.HTTPConnection("127.0.0.1", server.server_port, timeout=10)
    link.request("POST", path, raw if raw is not None else json.dumps(body), {"Content-Type": "application/json", "Host": host})
    answer = link.getresponse()
    found = json.loads(answer.read())
    assert found["format"] == 1 and found["simulated"] is True
    return answer.status, found


def test_the_whole_way_over_http(server: OfficeServer, tmp_path: Path) -> None:
    app = {"platform": "android", "id": "org.lendspan.alderbank"}
    assert ask(server, "/services/login", {**app, "fingerprint": SHA1})[1]["accepted"] is False
    assert ask(server, "/services/apps", {**app, "fingerprints": [SHA1]})[0] == 201
    assert ask(server, "/services/login", {**app, "fingerprint": SHA1})[1] == {"format": 1, "simulated": True, "accepted": True, "reason": ""}
    status, file = ask(server, "/services/file", app)
    assert status == 200 and read_service(file["name"], file["content"].encode()).knows("org.lendspan.alderbank")
    assert ask(server, "/services/push", {**app, "id": "org.lendspan.old"})[1]["reason"] == "push token refused: package not registered"
    assert ask(server, "/portal/ids", {"id": "org.lendspan.alderbank", "capabilities": ["push"]})[1]["capabilities"] == ["push"]
    status, found = ask(server, "/portal/profiles", {"id": "org.lendspan.alderbank"})
    assert status == 201 and read_profile(base64.b64decode(found["profile"]), "p").team == "LEND234567"
    assert read_offices(tmp_path / "state").console.apps.keys() == {("android", "org.lendspan.alderbank")}
    with urllib.request.urlopen(f"{server.address}/", timeout=10) as answer:
        assert json.loads(answer.read())["known"] == list(ROUTES)


def test_what_is_asked_wrongly_is_told(server: OfficeServer) -> None:
    for path, body, raw, status in (
        ("/services/apps", {}, None, 422),
        ("/services/apps", {"platform": "android", "id": "org.x.y", "fingerprints": "AB"}, None, 422),
        ("/services/file", {"platform": "android", "id": "org.x.y"}, None, 422),
        ("/nowhere", {}, None, 404),
        ("/services/apps", None, b"no json", 400),
        ("/services/apps", None, b"[1]", 400),
        ("/services/apps", None, b"[" * 100_000, 400),
        ("/portal/profiles", {"id": 7}, None, 422),
    ):
        found, answer = ask(server, path, body, raw)
        assert found == status and answer["error"], (path, body)
    for method, host, origin, status in (
        ("POST", "lendspan.example", "", 403), ("GET", "lendspan.example", "", 403), ("PUT", "lendspan.example", "", 403), ("POST", "localhost", "http://lendspan.example", 403),
        ("GET", "127.0.0.1", "https://127.0.0.1.example", 403), ("GET", "localhost:1", "null", 403), ("GET", "localhost", "http://localhost:8000", 200),
        ("GET", "127.0.0.1", "", 200), ("PUT", "127.0.0.1:80", "", 501), ("OPTIONS", "127.0.0.1", "http://127.0.0.1", 501),
    ):  # fmt: skip
        link = http.client.HTTPConnection("127.0.0.1", server.server_port, timeout=10)
        link.putrequest(method, "/", skip_host=True)
        for key, said in (("Host", host), ("Origin", origin)):
            if said:
                link.putheader(key, said)
        link.endheaders()
        answer = link.getresponse()
        assert answer.status == status and json.loads(answer.read())["simulated"] is True, (method, host, origin)
    link = http.client.HTTPConnection("127.0.0.1", server.server_port, timeout=10)
    link.putrequest("POST", "/services/apps")
    link.putheader("Content-Length", str(10**9))
    link.endheaders()
    assert link.getresponse().status == 413


def test_what_is_sent_by_half(server: OfficeServer, monkeypatch: pytest.MonkeyPatch, capfd: pytest.CaptureFixture[str]) -> None:
    """Who stops in the middle of a request, or goes away, holds nobody up and leaves no trace on the terminal."""
    monkeypatch.setattr(server.RequestHandlerClass, "timeout", 0.05)
    for sent in (b"POST /services/apps HTTP/1.1\r\nHost: localhost\r\nContent-Length: 100\r\n\r\n{", b"GARBAGE\r\n\r\n", b"GET / HTTP/1.1\r\nHost: loc"):
        with socket.create_connection(("127.0.0.1", server.server_port), timeout=10) as link:
            link.sendall(sent)
            answer = b"".join(iter(lambda: link.recv(1 << 16), b""))
            assert not answer or json.loads(answer.partition(b"\r\n\r\n")[2] or answer)["error"], sent
    for _ in range(3):
        socket.create_connection(("127.0.0.1", server.server_port), timeout=10).close()
    assert ask(server, "/services/login", {"platform": "android", "id": "org.x.y", "fingerprint": ""})[0] == 200
    assert capfd.readouterr() == ("", "")


@pytest.mark.processes
def test_the_command_prints_its_address_and_ends_when_told(tmp_path: Path) -> None:
    with subprocess.Popen(
        [sys.executable, "-m", "onomaxis", "standins", "--state", str(tmp_path)], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
    ) as running:
        assert running.stdout is not None
        address = running.stdout.readline().strip()
        with urllib.request.urlopen(f"{address}/", timeout=10) as answer:
            assert json.loads(answer.read())["simulated"] is True
        running.terminate()
        try:
            assert running.wait(10) == 0
        finally:
            running.kill()
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        assert inline("standins", "--port", taken.getsockname()[1], "--state", tmp_path).code == 2
