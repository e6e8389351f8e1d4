"""The stand-in of a store: right packages are taken, each rule of the documents refuses in its own words."""

from __future__ import annotations

import hashlib
import json
import plistlib
from collections.abc import Callable, Mapping
from pathlib import Path

import pytest
from hypothesis import strategies as st

import packaged
import shop
from conftest import Result, commit_all, inline, snapshot
from onomaxis.brands.ledger import COLUMNS, read_ledger
from onomaxis.errors import InputError
from onomaxis.rehearsal.answers import SOURCES
from packaged import needs_aapt, needs_signer, picture

pytestmark = pytest.mark.processes
ROOT = "Payload/Lend.app/"
TEAM = "LEND234567"
DAY = "2026-11-26"


@pytest.fixture(scope="module")
def project(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return shop.write(tmp_path_factory.mktemp("shop"), shop.project())


@pytest.fixture(scope="module")
def store(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return packaged.keystore(tmp_path_factory.mktemp("keys"))


def ipa(folder: Path, flavor: str = "alderbank", files: Mapping[str, bytes | None] | None = None, name: str = "app.ipa", **changes: object) -> Path:
    made = shop.ipa_files(flavor)
    table = plistlib.loads(made[f"{ROOT}Info.plist"]) | {"DTPlatformVersion": "26.0", **changes}
    made[f"{ROOT}Info.plist"] = plistlib.dumps({key: value for key, value in table.items() if value is not None})
    if "CFBundleVersion" in changes or "CFBundleShortVersionString" in changes:
        widget = plistlib.loads(made[f"{ROOT}PlugIns/Widget.appex/Info.plist"])
        widget |= {key: changes[key] for key in ("CFBundleVersion", "CFBundleShortVersionString") if changes.get(key)}
        made[f"{ROOT}PlugIns/Widget.appex/Info.plist"] = plistlib.dumps(widget)
    for key, data in (files or {}).items():
        made.pop(f"{ROOT}{key}", None)
        made |= {f"{ROOT}{key}": data} if data is not None else {}
    return packaged.make_ipa(folder, made, name)


def rehearse(folder: Path, *words: object) -> Result:
    return inline("rehearse", *words, "--state", folder / "state", "--on", DAY, "--json")


def answers(folder: Path, *words: object) -> list[tuple[bool, list[str]]]:
    done = rehearse(folder, *words)
    document = done.json
    assert list(document) == ["format", "simulated", "answers"] and document["simulated"] is True
    for item in document["answers"]:
        assert list(item)[:8] == ["package", "store", "id", "flavor", "version", "build", "accepted", "reasons"]
        assert item["accepted"] == (not item["reasons"])
        assert all(list(one) == ["code", "message", "source", "entry"] and one["code"] in SOURCES and one["source"] for one in item["reasons"])
    taken = all(item["accepted"] for item in document["answers"])
    assert done.code in ((0,) if taken else (1, 2)), done
    return [(item["accepted"], [one["code"] for one in item["reasons"]]) for item in document["answers"]]


Change = Callable[[Path], Path]
RIGHTS = {"com.apple.developer.associated-domains": ["applinks:alderbank.lendspan.example"]}
APPLE: dict[str, tuple[Change, list[str]]] = {
    "right": (lambda folder: ipa(folder), []),
    "debuggable": (lambda folder: ipa(folder, files={"Lend": None, "Runner": packaged.executable({**RIGHTS, "get-task-allow": True})}), ["debuggable"]),
    "old SDK": (lambda folder: ipa(folder, DTPlatformVersion="18.4"), ["level"]),
    "alpha": (lambda folder: ipa(folder, files={"AppIcon60x60@2x.png": picture(120, "RGBA")}), ["icon-alpha"]),
    "no telephone's icon": (lambda folder: ipa(folder, files={"AppIcon60x60@2x.png": None}), ["icon-missing"]),
    "no tablet's icon": (lambda folder: ipa(folder, UIDeviceFamily=[1, 2]), ["icon-missing"]),
    "long name": (lambda folder: ipa(folder, CFBundleDisplayName="A" * 31), ["name-length"]),
    "extension's ID": (lambda folder: ipa(folder, files={"PlugIns/Widget.appex/Info.plist": plistlib.dumps({"CFBundleIdentifier": "org.else.widget", "CFBundleShortVersionString": "2.4.0", "CFBundleVersion": "7"})}), ["extension-id"]),
    "extension's version": (lambda folder: ipa(folder, files={"PlugIns/Widget.appex/Info.plist": plistlib.dumps({"CFBundleIdentifier": "org.lendspan.alderbank.widget", "CFBundleShortVersionString": "2.4.0", "CFBundleVersion": "6"})}), ["extension-version"]),
    "empty usage text": (lambda folder: ipa(folder, NSCameraUsageDescription=" "), ["usage-description"]),
    "usage text missing": (lambda folder: ipa(folder, files={"Runner": packaged.executable(RIGHTS) + b"\0_OBJC_CLASS_$_CLLocationManager\0"}), ["usage-description"]),
    "signed for development": (lambda folder: ipa(folder, files={"Runner": packaged.executable(RIGHTS, signature(folder, "Apple Development: Ada (LEND234567)"))}), ["certificate-debug"]),
    "no build": (lambda folder: ipa(folder, CFBundleVersion=None, files={"PlugIns/Widget.appex/Info.plist": None, "PlugIns/Widget.appex/Widget": None}), ["form"]),
    "a build that is none": (lambda folder: ipa(folder, CFBundleVersion="7b"), ["form"]),
}  # fmt: skip


def signature(folder: Path, owner: str) -> bytes:
    key, cert = packaged.signer(folder, owner)
    (folder / "code").write_bytes(b"the code directory")
    packaged.run("openssl", "cms", "-sign", "-binary", "-outform", "DER", "-in", folder / "code", "-signer", cert, "-inkey", key, "-out", folder / "code.cms")
    return (folder / "code.cms").read_bytes()


@pytest.mark.parametrize("name", APPLE)
def test_the_app_store_refuses_with_its_rule(tmp_path: Path, project: Path, name: str) -> None:
    make, codes = APPLE[name]
    assert answers(tmp_path, make(tmp_path), "--against", project) == [(not codes, codes)]


PLAY: dict[str, tuple[str, dict[str, str | bytes], list[str]]] = {
    "right": (shop.manifest("alderbank"), {}, []),
    "old level": (shop.manifest("alderbank").replace('targetSdkVersion="35"', 'targetSdkVersion="34"'), {}, ["level"]),
    "debuggable": (shop.manifest("alderbank").replace("<application ", '<application android:debuggable="true" '), {}, ["debuggable"]),
    "for tests": (shop.manifest("alderbank").replace("<application ", '<application android:testOnly="true" '), {}, ["debuggable"]),
    "no icon": (shop.manifest("alderbank").replace(' android:icon="@mipmap/ic_launcher"', ""), {}, ["icon-missing"]),
    "long name": (shop.manifest("alderbank"), {"values/brand.xml": packaged.strings(app_name="A" * 31, login_id="1").replace("</resources>", '<color name="ground">#102030</color></resources>')}, ["name-length"]),
}  # fmt: skip


@needs_aapt
@needs_signer
@pytest.mark.parametrize("name", PLAY)
def test_google_play_refuses_with_its_rule(tmp_path: Path, project: Path, store: Path, name: str) -> None:
    text, resources, codes = PLAY[name]
    bundle = packaged.make_bundle(tmp_path, text, {**shop.resources("alderbank"), **resources})
    packaged.run("jarsigner", "-keystore", store, "-storepass", packaged.PASSWORD, bundle, "upload")
    assert answers(tmp_path, bundle, "--against", project) == [(not codes, codes)]


@needs_aapt
@needs_signer
def test_signers_are_those_of_the_first_upload(tmp_path: Path, project: Path, store: Path) -> None:
    def apk(code: str, key: Path, name: str) -> Path:
        text = shop.manifest("alderbank").replace('versionCode="7"', f'versionCode="{code}"')
        return packaged.sign(packaged.make_apk(tmp_path, text, shop.resources("alderbank"), name=name), key)

    other, debug = packaged.keystore(tmp_path, "other", "Somebody"), packaged.keystore(tmp_path, "debug", "Android Debug")
    assert answers(tmp_path, apk("7", store, "a.apk")) == [(True, [])]
    assert answers(tmp_path, apk("8", other, "b.apk")) == [(False, ["certificate-differs"])]
    assert answers(tmp_path, apk("8", debug, "c.apk")) == [(False, ["certificate-differs", "certificate-debug"])]
    assert answers(tmp_path, packaged.make_apk(tmp_path, name="d.apk", text=shop.manifest("mossgate"), resources=shop.resources("mossgate"))) == [
        (False, ["form"])
    ]
    done = inline("rehearse", apk("8", store, "e.apk"), "--state", tmp_path / "state", "--on", DAY)
    assert done.code == 0 and "simulation" in done.out and "bundles" in done.out and "an update" in done.out


def teamed(folder: Path, team: str, build: str, name: str) -> Path:
    profile = packaged.profile(folder, Name="Store", TeamIdentifier=[team], Entitlements={"application-identifier": f"{team}.org.lendspan.alderbank"})
    return ipa(folder, files={"embedded.mobileprovision": profile}, name=name, CFBundleVersion=build)


def test_teams_are_those_of_the_first_upload(tmp_path: Path) -> None:
    assert answers(tmp_path, teamed(tmp_path, TEAM, "7", "a.ipa"), teamed(tmp_path, "ELSE234567", "8", "b.ipa"), teamed(tmp_path, TEAM, "8", "c.ipa")) == [
        (True, []),
        (False, ["team-differs"]),
        (True, []),
    ]


def test_build_numbers_are_used_once_and_only_rise(tmp_path: Path) -> None:
    def built(version: str, build: str) -> Path:
        return ipa(tmp_path, name=f"{version}-{build}.ipa", CFBundleShortVersionString=version, CFBundleVersion=build)

    assert answers(tmp_path, built("1.0", "7"), built("1.0", "7.0"), built("1.0", "6"), built("1.0", "8"), built("1.1", "1")) == [
        (True, []),
        (False, ["build-used"]),
        (False, ["build-lower"]),
        (True, []),
        (True, []),
    ]
    assert answers(tmp_path, built("1.0", "8")) == [(False, ["build-used"])]
    shown = inline("rehearse", "--show", "--state", tmp_path / "state", "--json").json["state"]
    assert [(row["store"], row["id"], row["version"], row["build"]) for row in shown] == [
        ("appstore", "org.lendspan.alderbank", *pair) for pair in (("1.0", "7"), ("1.0", "8"), ("1.1", "1"))
    ]
    assert inline("rehearse", "--close", "1.1", "--state", tmp_path / "state", "--json").code == 0
    assert answers(tmp_path, built("1.1", "2"), built("1.0", "9"), built("1.2", "1")) == [(False, ["train-closed"]), (False, ["train-closed"]), (True, [])]
    done = inline("rehearse", "--close", "9.9", "--state", tmp_path / "state")
    assert done.code == 2 and "1.2" in done.err


def test_packages_go_to_the_store_that_takes_them(tmp_path: Path) -> None:
    assert answers(tmp_path, ipa(tmp_path), "--store", "play")[0][1][0] == "form"
    shop.write(tmp_path, shop.ipa_files("alderbank", "Lend.app/"))  # type: ignore[arg-type]
    assert answers(tmp_path, tmp_path / "Lend.app")[0][1][0] == "form"


def test_a_flavor_that_is_named_must_be_the_packages(tmp_path: Path, project: Path) -> None:
    found = rehearse(tmp_path, ipa(tmp_path), "--against", project, "--flavor", "mossgate").json["answers"][0]
    assert (found["accepted"], found["flavor"], [item["code"] for item in found["reasons"]]) == (False, "mossgate", ["flavor-differs"])
    found = rehearse(tmp_path, ipa(tmp_path), "--against", project, "--flavor", "alderbank").json["answers"][0]
    assert (found["accepted"], found["flavor"]) == (True, "alderbank")
    assert rehearse(tmp_path, ipa(tmp_path), "--against", project, "--flavor", "nobody").code == 2


def test_what_cannot_be_read_wins_and_the_others_are_judged(tmp_path: Path, project: Path) -> None:
    (tmp_path / "none.ipa").write_bytes(b"not a package")
    done = rehearse(tmp_path, tmp_path / "none.ipa", ipa(tmp_path), "--against", project)
    assert done.code == 2 and [item["accepted"] for item in done.json["answers"]] == [False, True]
    icon = "AppIcon60x60@2x.png"  # read only when it is judged
    entries = shop.ipa_files("alderbank") | {f"{ROOT}{icon}": picture(120, "RGBA")}
    sound = packaged.archive(entries, 0)
    (tmp_path / "damaged.ipa").write_bytes(sound.replace(entries[f"{ROOT}{icon}"], entries[f"{ROOT}{icon}"][:-1] + b"!"))
    done = rehearse(tmp_path, tmp_path / "damaged.ipa", ipa(tmp_path, CFBundleVersion="9"))
    assert done.code == 2 and [item["accepted"] for item in done.json["answers"]] == [False, True]
    assert icon in str(done.json["answers"][0]["reasons"]), done.json
    assert inline("rehearse").code == 2
    assert inline("rehearse", ipa(tmp_path), "--ledger", cwd=tmp_path).code == 2


# -- the ledger


def test_what_was_accepted_goes_into_the_ledger_once(tmp_path: Path) -> None:
    project = shop.write(tmp_path / "project", shop.project())
    commit_all(project)
    first, refused = ipa(tmp_path), ipa(tmp_path, "mossgate", name="moss.ipa", NSCameraUsageDescription="")
    assert answers(tmp_path, first, refused, "--against", project, "--ledger") == [(True, []), (False, ["usage-description"])]
    [row] = read_ledger("ledger", (project / "onomaxis.ledger.csv").read_bytes())
    assert row[:-1] == (DAY, "ios", "alderbank", "org.lendspan.alderbank", "2.4.0", "7", "", f"sha256:{hashlib.sha256(first.read_bytes()).hexdigest()}")
    assert answers(tmp_path, first, "--against", project, "--ledger") == [(False, ["build-used"])]
    assert len(read_ledger("ledger", (project / "onomaxis.ledger.csv").read_bytes())) == 1
    fresh = inline("rehearse", first, "--against", project, "--state", tmp_path / "other", "--on", DAY, "--json").json["answers"][0]
    assert [item["code"] for item in fresh["reasons"]] == ["build-used"] and "onomaxis.ledger.csv:2" in fresh["reasons"][0]["message"]
    assert inline("undo", project).code == 0 and not (project / "onomaxis.ledger.csv").exists()


def test_a_ledger_of_ones_own_is_not_written_over(tmp_path: Path) -> None:
    """Rows that are not committed keep a package from being accepted; a dry run shows the row and keeps nothing."""
    project = shop.write(tmp_path / "project", shop.project())
    commit_all(project)
    line = ("rehearse", ipa(tmp_path), "--against", project, "--state", tmp_path / "stores", "--on", DAY, "--ledger")
    shown = inline(*line, "--dry-run")
    assert shown.code == 0 and f"+{DAY},ios,alderbank" in shown.out and not (tmp_path / "stores").exists()
    (project / "onomaxis.ledger.csv").write_text(",".join(COLUMNS) + "\n2026-01-02,ios,mossgate,org.lendspan.mossgate,2.0,5,,\n")
    before = snapshot(project)
    done = inline(*line)
    assert done.code == 3 and "uncommitted" in done.err and snapshot(project) == before and not (tmp_path / "stores").exists()
    assert inline(*line, "--allow-dirty", "--yes").code == 0 and len(read_ledger("ledger", (project / "onomaxis.ledger.csv").read_bytes())) == 2
    held = snapshot(tmp_path / "stores")
    assert inline("rehearse", "--close", "2.4.0", "--state", tmp_path / "stores", "--dry-run").code == 0 and snapshot(tmp_path / "stores") == held


def test_the_project_is_this_folder_where_none_is_named(tmp_path: Path) -> None:
    project = shop.write(tmp_path / "project", shop.project())
    found = inline("rehearse", ipa(tmp_path), "--on", DAY, "--json", cwd=project, env={"XDG_STATE_HOME": str(tmp_path / "mine")}).json["answers"][0]
    assert found["flavor"] == "alderbank" and list((tmp_path / "mine").rglob("appstore.json"))


def test_the_ledger_takes_what_a_package_says(tmp_path: Path) -> None:
    project = shop.write(tmp_path / "project", shop.project())
    commit_all(project)
    package, other = ipa(tmp_path), ipa(tmp_path, "mossgate", name="moss.ipa")
    done = inline("ledger", "add", project, "--from", package, "--from", other, "--date", DAY)
    assert done.code == 0, done.err
    rows = read_ledger("l", (project / "onomaxis.ledger.csv").read_bytes())
    assert [(row.platform, row.flavor, row.id, row.build) for row in rows] == [
        ("ios", flavor, f"org.lendspan.{flavor}", "7") for flavor in ("alderbank", "mossgate")
    ]
    assert rows[0].digest == f"sha256:{hashlib.sha256(package.read_bytes()).hexdigest()}"
    done = inline("ledger", "add", project, "--from", package)
    assert done.code == 3 and "onomaxis.ledger.csv:2" in done.err
    assert inline("ledger", "list", project).code == 0
    assert inline("ledger", "add", project, "--from", package, "--flavor", "mossgate").code == 2
    foreign = ipa(tmp_path, name="foreign.ipa", CFBundleIdentifier="org.else")
    assert inline("ledger", "add", project, "--from", foreign).code == 2


OLD = "date,platform,flavor,id,version,build,fingerprint"


def test_a_digest_has_a_form() -> None:
    with pytest.raises(InputError, match="digest"):
        read_ledger("l", f"{','.join(COLUMNS)}\n2026-01-02,ios,,org.x,1.0,7,,md5:1\n".encode())


# -- what the stand-in holds

WORDS = st.text(max_size=12)


@pytest.mark.parametrize("text", ["", "[]", '{"format": 2, "apps": []}', '{"format": 1}', '{"format": 1, "apps": [{"id": 7}]}', "[" * 100_000])
def test_a_state_that_is_none_is_refused_in_words(tmp_path: Path, text: str) -> None:
    (tmp_path / "state").mkdir()
    (tmp_path / "state" / "play.json").write_text(text)
    done = inline("rehearse", "--show", "--state", tmp_path / "state")
    assert done.code == 2 and "play.json:1" in done.err


def test_a_state_that_cannot_be_written_is_told(tmp_path: Path) -> None:
    (tmp_path / "state").write_text("a file")
    done = inline("rehearse", ipa(tmp_path), "--state", tmp_path / "state", "--on", DAY)
    assert done.code == 2 and "state" in done.err


def test_days_decide_which_level_holds(tmp_path: Path) -> None:
    package = ipa(tmp_path, DTPlatformVersion="18.4")
    for day, taken in (("2025-05-01", True), ("2026-04-27", True), ("2026-04-28", False)):
        done = inline("rehearse", package, "--state", tmp_path / day, "--on", day, "--json")
        assert done.json["answers"][0]["accepted"] == taken, day
    assert inline("rehearse", package, "--state", tmp_path / "x", "--on", "today").code == 2
    assert json.loads(done.out)["answers"][0]["reasons"][0]["message"].endswith("since 2026-04-28")


@needs_aapt
@needs_signer
def test_a_package_that_is_too_large(tmp_path: Path, store: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """An APK and a bundle's base count as they are packed, an app as it is unpacked."""
    bundle = packaged.make_bundle(tmp_path, shop.manifest("alderbank"), shop.resources("alderbank"))
    packaged.run("jarsigner", "-keystore", store, "-storepass", packaged.PASSWORD, bundle, "upload")
    apk = packaged.sign(packaged.make_apk(tmp_path, shop.manifest("mossgate"), shop.resources("mossgate")), store)
    assert answers(tmp_path, bundle, apk, ipa(tmp_path)) == [(True, [])] * 3
    for name in ("_MOST_APK", "_MOST_BASE", "_MOST_APP"):
        monkeypatch.setattr(f"onomaxis.rehearsal.store.{name}", 1000)
    assert [codes for _, codes in answers(tmp_path / "again", bundle, apk, ipa(tmp_path))] == [["size"]] * 3
