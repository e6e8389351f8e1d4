"""Fingerprints of keystores, the ledger of what was published, build numbers counted on, reports for other programs."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
from pathlib import Path

import jsonschema
import pytest

from brands import project
from conftest import files, judge, onomaxis, snapshot
from onomaxis.demo import KEYSTORE, PASSWORD
from test_brand import NAME, stamped
from test_checks import HEAD, LEDGER, PRINT, clean, google_android

DNAME = {"release": "CN=Lendspan", "upload": "CN=Möwe, O=Shed", "androiddebugkey": "CN=Android Debug, O=Android, C=US"}


@pytest.mark.parametrize("kind", ["PKCS12", "JKS"])
@pytest.mark.processes
def test_fingerprints_are_those_of_the_platforms_own_tool(tmp_path: Path, kind: str) -> None:
    """Every alias has the digests that keytool prints; service and association files are compared with them."""
    keytool, store = judge("keytool"), tmp_path / "x.keystore"
    aliases = list(DNAME)[:1] if kind == "PKCS12" else list(DNAME)
    for alias in aliases:
        subprocess.run(
            [
                keytool,
                "-genkeypair",
                "-keystore",
                store,
                "-storetype",
                kind,
                "-storepass",
                "geheim",
                "-keypass",
                "geheim",
                "-alias",
                alias,
                "-keyalg",
                "EC",
                "-dname",
                DNAME[alias],
            ],
            check=True,
            capture_output=True,
        )
    said = subprocess.run([keytool, "-list", "-v", "-keystore", store, "-storepass", "geheim"], capture_output=True, text=True, check=True).stdout
    found = {alias: (sha1, sha256) for alias, sha1, sha256 in re.findall(r"Alias name: (\S+)(?s:.*?)SHA1: (\S+)\s+SHA256: (\S+)", said)}
    root = files(tmp_path / "app", clean())
    first = found[aliases[0]]
    client = json.loads(google_android("org.lendspan.mossgate"))
    client["client"][0]["oauth_client"] = [{"client_type": 1, "android_info": {"certificate_hash": first[0].replace(":", "").lower()}}]
    (root / "app/src/mossgate/google-services.json").write_text(json.dumps(client))
    links = root / "web/.well-known/assetlinks.json"
    links.write_text(links.read_text().replace(PRINT, first[1], 1))
    done = onomaxis("fingerprint", store, root, "--password-env", "SECRET", "--json", env={"SECRET": "geheim"}).json
    assert {c["alias"]: (c["sha1"], c["sha256"]) for c in done["certificates"]} == found
    assert {c["alias"]: c["kind"] for c in done["certificates"]} == {a: "debug" if "debug" in a else "release" for a in aliases}
    named = {(place["file"], place["app"]): place["aliases"] for place in done["places"] if place["aliases"]}
    assert named == {
        ("app/src/mossgate/google-services.json", "org.lendspan.mossgate"): [aliases[0]],
        ("web/.well-known/assetlinks.json", "org.lendspan.app"): [aliases[0]],
    }
    secret = tmp_path / "secret"
    secret.write_text("geheim\n")
    shown = onomaxis("fingerprint", store, root, "--password-file", secret)
    assert shown.code == 0 and "geheim" not in shown.out + shown.err and first[1] in shown.out
    for words, code, text in (
        (["--password-env", "WRONG"], 2, "does not open"),
        (["--password-env", "NOT_SET"], 2, "no variable NOT_SET"),
        ([], 2, "no terminal"),
        (["--password-env", "SECRET", "--alias", "nobody"], 2, "There are: "),
    ):
        done = onomaxis("fingerprint", store, root, *words, env={"SECRET": "geheim", "WRONG": "falsch"})
        assert (done.code, done.out) == (code, "") and text in done.err, done.err
    for number, cut in enumerate((3, 40, -30)):
        broken = tmp_path / f"broken{number}"
        broken.write_bytes(store.read_bytes()[:cut])
        assert onomaxis("fingerprint", broken, root, "--password-env", "SECRET", env={"SECRET": "geheim"}).code == 2


def test_the_ledger(tmp_path: Path) -> None:
    """A build is kept once; a number comes back or goes down, an ID moves: refused; the next number is free everywhere."""
    root = files(tmp_path / "x", project())
    words = ("ledger", "add", root, "--date", "2026-05-31", "--quiet")
    assert onomaxis(*words, "--fingerprint", PRINT).code == 0
    first = (root / LEDGER).read_bytes()
    assert first.decode().startswith(HEAD.rstrip() + f",digest\n2026-05-31,android,alderbank,org.lendspan.app.alderbank,1.2,7,{PRINT},\n")
    assert len(onomaxis("ledger", "list", root, "--json").json["published"]) == 5
    before = snapshot(root)
    done = onomaxis(*words)
    assert done.code == 3 and "build 7 was published before" in done.err and f"{LEDGER}:2" in done.err and snapshot(root) == before
    assert onomaxis("renumber", root, "--build", "next", "--quiet").code == 0
    assert {app["build"] for app in onomaxis("survey", root, "--json").json["apps"]} == {"8"}
    assert onomaxis(*words, "--flavor", "mossgate", "--platform", "ios").code == 0
    assert (root / LEDGER).read_bytes() == first + b"2026-05-31,ios,mossgate,org.lendspan.mossgate,1.2,8,,\n"
    assert onomaxis("renumber", root, "--build", "next", "--quiet", "--allow-dirty").code == 0
    script = root / "app/build.gradle.kts"
    script.write_text(script.read_text().replace('"org.lendspan.mossgate"', '"org.lendspan.moss"').replace("versionCode = 9", "versionCode = 6"))
    assert "build 6 is lower than the published 7" in onomaxis(*words, "--flavor", "alderbank").err
    script.write_text(script.read_text().replace("versionCode = 6", "versionCode = 9"))
    assert "was published as org.lendspan.mossgate" in onomaxis(*words, "--flavor", "mossgate", "--platform", "android").err
    for number, (row, said) in enumerate(
        (
            ("x,android,,org.x.y,1,1,", "not a date"),
            ("2026-01-01,web,,org.x.y,1,1,", "neither android nor ios"),
            ("2026-01-01,ios,,a.b,1,x,", "not a build number"),
            ("2026-01-01,ios,,a.b,1,1,AB", "not a SHA-256"),
            ("2026-01-01,ios", "2 columns"),
        )
    ):
        (root / LEDGER).write_text(HEAD + "2026-01-01,ios,,a.b,1,1,\n" * number + row + "\n")
        done = onomaxis("check", root)
        assert done.code == 2 and said in done.err and f"{LEDGER}:{number + 2}: " in done.err


@pytest.mark.journeys
def test_reports_for_other_programs(branded: Path) -> None:
    """SARIF is read by a reader of somebody else's; every rule stands in it; JSON says the same; filters and allowances hold."""
    from sarif_pydantic import Sarif

    root = branded
    done = onomaxis("check", root, "--as", "sarif")
    assert done.code == 1
    run = Sarif.model_validate_json(done.out).runs[0]
    found = onomaxis("check", root, "--json").json["findings"]
    assert [r.rule_id for r in run.results] == [f["code"] for f in found] and len(found) > 12
    assert [r.locations[0].physical_location.artifact_location.uri for r in run.results] == [f["at"][0]["file"] for f in found]
    rules = [rule.id for rule in run.tool.driver.rules]
    assert len(rules) == len(set(rules)) and {f["code"] for f in found} <= set(rules) and len(rules) > 60
    for result in run.results:
        assert rules[result.rule_index] == result.rule_id and (root / result.locations[0].physical_location.artifact_location.uri).exists()
    for family, start in (("ids", "ID"), ("services", "SERVICE"), ("icons", "ICON")):
        codes = {f["code"] for f in onomaxis("check", root, "--only", family, "--json").json["findings"]}
        assert codes <= {f["code"] for f in found} | {"ALLOW01"} and all(c.startswith((start, "ALLOW")) for c in codes)
    one = onomaxis("check", root, "--flavor", "pennywick", "--json").json["findings"]
    assert 0 < len(one) < len(found) and not any("mossgate" in f["message"].lower() for f in one)


@pytest.mark.journeys
def test_the_schema_for_editors(branded: Path) -> None:
    """The JSON Schema is one, accepts what adopt writes and the demo's own file, and refuses a key that is none."""
    import tomllib

    schema = json.loads(onomaxis("adopt", "--schema").out)
    validator = jsonschema.Draft202012Validator(schema)
    validator.check_schema(schema)
    root = branded
    for path in (root / NAME, root / "counter" / NAME):
        data = tomllib.loads(path.read_text())
        validator.validate(data)
        data["app"]["nmae"] = "x"
        assert not validator.is_valid(data)


@pytest.mark.journeys
def test_the_white_label_demo(branded: Path) -> None:
    """Faults are found, stamping mends all of them at once and nothing again, undo gives the faults back."""
    root = branded
    before = snapshot(root)
    assert onomaxis("check", root).code == 1 and onomaxis("check", root / "counter").code == 1
    stamped(root)
    stamped(root / "counter")
    done = onomaxis("check", root, "--json", "--publish")
    assert (done.code, done.json["findings"]) == (0, [])
    assert onomaxis("check", root / "counter").code == 0
    text = (root / NAME).read_text()
    (root / NAME).write_text(text.replace('rule = "FLAVOR01"', 'rule = "NAME02"'))
    found = onomaxis("check", root, "--json").json["findings"]
    assert {(f["code"], f["message"]) for f in found} == {("FLAVOR01", "iOS has no flavor lendspan"), ("ALLOW01", found[-1]["message"])}
    (root / NAME).write_text(text)
    assert stamped(root)["files"] == [] and stamped(root / "counter")["files"] == []
    rows = {row["flavor"]: row for row in onomaxis("flavor", "list", root, "--json").json["flavors"]}
    for flavor in ("alderbank", "mossgate", "pennywick"):
        assert rows[flavor]["android"]["own_icon"] and rows[flavor]["ios"]["own_icon"] and not rows[flavor]["holes"]
        assert rows[flavor]["android"]["name"] == rows[flavor]["ios"]["name"]
    assert rows["community"]["ios"] == {"id": None, "name": None, "version": None, "build": None, "own_icon": False, "clash": False}  # iOS has no tiers
    key = onomaxis("fingerprint", root / KEYSTORE, root, "--password-env", "P", "--json", env={"P": PASSWORD}).json
    assert sum("release" in place["aliases"] for place in key["places"]) == 4
    for folder in (root / "counter", root):
        assert onomaxis("undo", folder, "--yes").code == 0
        shutil.rmtree(folder / ".onomaxis")
    assert snapshot(root) == before


def test_a_binary_service_file_is_read_as_any_other(tmp_path: Path) -> None:
    import plistlib

    from onomaxis.projects.services import read_service

    table = {"BUNDLE_ID": "org.lendspan", "GCM_SENDER_ID": "12", "REVERSED_CLIENT_ID": "r", "IS_ADS_ENABLED": False}
    found, plain = (read_service("GoogleService-Info.plist", plistlib.dumps(table, fmt=form)) for form in (plistlib.FMT_BINARY, plistlib.FMT_XML))
    assert [app.id for app in found.apps] == ["org.lendspan"] and (found.project, found.reversed, found.fault) == (plain.project, plain.reversed, plain.fault)
    assert read_service("GoogleService-Info.plist", plistlib.dumps({"A": "b"}, fmt=plistlib.FMT_BINARY)).fault
    assert "damaged" in read_service("GoogleService-Info.plist", b"bplist00" + b"\xff" * 40).fault


def test_a_number_that_is_reserved_is_nobody_else_s(tmp_path: Path) -> None:
    """The next number is above it, another reservation of it is refused, and what it was kept for takes its row's place."""
    root = files(tmp_path / "x", project())
    add = ("ledger", "add", root, "--date", "2026-05-31", "--quiet", "--flavor", "mossgate", "--platform", "android")
    assert onomaxis(*add, "--reserve").code == 0
    kept = (root / LEDGER).read_bytes()
    assert kept.endswith(b"2026-05-31,android,mossgate,org.lendspan.mossgate,1.2,7,,reserved\n")
    assert [row["digest"] for row in onomaxis("ledger", "list", root, "--json").json["published"]] == ["reserved"]
    assert "reserved" in onomaxis("ledger", "list", root).out
    assert not [item for item in onomaxis("check", root, "--json").json["findings"] if item["code"] in ("VERSION06", "VERSION10")]
    done = onomaxis(*add, "--reserve")
    assert done.code == 3 and "is reserved already" in done.err and f"{LEDGER}:2" in done.err
    assert onomaxis(*add, "--reserve", "--from", root / "x.apk").code == 2
    assert onomaxis(*add).code == 0
    assert (root / LEDGER).read_bytes() == kept.replace(b"reserved", b"")
    (root / LEDGER).write_bytes(kept + kept.splitlines(keepends=True)[1])  # two branches took it
    assert "was reserved as 1.2, twice" in onomaxis("check", root, "--json").out
    assert onomaxis("renumber", root, "--build", "next", "--quiet").code == 0
    assert {app["build"] for app in onomaxis("survey", root, "--json").json["apps"]} == {"8"}
