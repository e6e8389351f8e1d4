"""A shop of templates: one tree that becomes one of thirty customers after the other, all of them in a table."""

from __future__ import annotations

import csv
from pathlib import Path

import brands
import right
from conftest import commit_all, files, onomaxis

COLUMNS = ("flavor", "id", "name", "values.login", "values.server", "services.google-android", "services.google-ios", "icon.art", "build")
IDENTITY = """format = 1
brands = "brands.csv"

[app]
id = "org.lendspan.app"
name = "Lendspan"
version = "1.2"
build = 7
icon = { art = "template/art.svg" }
services = { google-android = "template/google-services.json", google-ios = "template/GoogleService-Info.plist" }

[values.login]
pattern = "[a-z']+ ?[a-z]*[0-9]*"
places = [{ resource = "string/login" }]

[values.server]
type = "url"
places = [{ build-field = "SERVER", platform = "android" }, { setting = "SERVER", platform = "ios" }, { pointer = "/server/url", file = "config.json" }]

[app.values]
login = "main's login"
server = "https://main.lendspan.org"
"""


def shop(folder: Path, customers: int = 30) -> Path:
    contents = dict(brands.project(flavored=False))
    manifest = next(path for path in contents if path.endswith("AndroidManifest.xml"))
    contents[manifest] = contents[manifest].replace('android:label="@string/app_name"', 'android:label="@string/app_name" android:icon="@mipmap/ic_launcher"')
    rows: list[tuple[str, ...]] = [COLUMNS]
    for number in range(-1, customers):
        home, id_ = (f"brands/shop{number:02}", f"org.lendspan.shop{number:02}") if number >= 0 else ("template", "org.lendspan.app")
        contents[f"{home}/google-services.json"] = right.service_json(id_)
        contents[f"{home}/GoogleService-Info.plist"] = right.service_plist(id_)
        contents[f"{home}/art.svg"] = (
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path fill="#{0x30405F + number * 4711:06x}" d="M0 0h9v9H0z"/><circle cx="4" cy="4" r="2" fill="#fff"/></svg>'
        )
        if number >= 0:
            name = home.rpartition("/")[2]
            rows.append((name, id_, f"Shop {number:02}", f"login{number:02}", f"https://{name}.lendspan.org", *(f"{home}/{file}" for file in ("google-services.json", "GoogleService-Info.plist", "art.svg")), ""))  # fmt: skip
    contents["brands.csv"] = "".join(",".join(row) + "\n" for row in rows)
    contents["onomaxis.toml"] = IDENTITY
    root = files(folder, contents)
    assert onomaxis("stamp", root).code == 0  # icons and service files of the template itself
    commit_all(root)
    return root


def edited(root: Path, *cells: tuple[str, str, str]) -> None:
    with (root / "brands.csv").open(encoding="utf-8", newline="") as file:
        rows = list(csv.reader(file))
    for flavor, column, text in cells:
        next(row for row in rows if row[0] == flavor)[COLUMNS.index(column)] = text
    (root / "brands.csv").write_text("".join(",".join(row) + "\n" for row in rows), encoding="utf-8")


def findings(root: Path, *words: str) -> list[dict]:
    return [item for item in onomaxis("check", root, "--json", *words).json["findings"] if item["severity"] != "note"]


def tracked(root: Path) -> dict[str, bytes]:
    return {
        str(path.relative_to(root)): path.read_bytes() for path in sorted(root.rglob("*")) if path.is_file() and not {".git", ".onomaxis"} & set(path.parts)
    }


def test_one_customer_after_the_other_and_back(tmp_path: Path) -> None:
    root = shop(tmp_path / "x")
    quiet = {(item["code"], item["message"]) for item in findings(root)}
    before = tracked(root)
    for name in ("shop03", "shop29", "shop03"):
        done = onomaxis("stamp", root, "--flavor", name, "--allow-dirty", "--json")
        assert done.code == 0
        assert not [item for item in done.json["residue"] if item["file"].startswith(("app/", "ios/"))]
        survey = onomaxis("survey", root, "--json").json
        assert survey["brand"] == name and {app["id"] for app in survey["apps"]} == {f"org.lendspan.{name}"}
        assert {(item["code"], item["message"]) for item in findings(root)} <= quiet
        listed = {row["flavor"]: row for row in onomaxis("flavor", "list", root, "--json").json["flavors"]}
        assert [flavor for flavor, row in listed.items() if row["is_tree"]] == [name] and len(listed) == 31
        assert all(row["android"]["id"] == f"org.lendspan.{flavor or 'app'}" and not row["holes"] for flavor, row in listed.items())
        assert onomaxis("adopt", root, "--again", "--allow-dirty").err.startswith("Nothing to change")
        assert onomaxis("stamp", root, "--flavor", name, "--allow-dirty").err.startswith("Nothing to change")
    refused = onomaxis("stamp", root, "--allow-dirty", yes=False)
    assert refused.code == 3 and "this tree is shop03, and would become the app without a flavor" in refused.err
    assert onomaxis("stamp", root, "--allow-dirty").code == 0
    assert tracked(root) == before


def test_what_one_brand_is_asked_for_is_done_to_it_alone(tmp_path: Path) -> None:
    root = shop(tmp_path / "x", 4)
    assert onomaxis("stamp", root, "--flavor", "shop01").code == 0
    commit_all(root)
    for words in (
        ["rename", "--name", "X"],
        ["renumber", "--build", "+1"],
        ["icons", "--art", "brands/shop02/art.svg"],
        ["survey"],
        ["proof", "--out", tmp_path / "p.png"],
        ["ledger", "add"],
    ):
        command, *rest = words
        line = [command, *(rest[:1] if command == "ledger" else []), root, *(rest[1:] if command == "ledger" else rest)]
        other = onomaxis(*line, "--flavor", "shop02")
        assert other.code == 3 and "this tree is shop01, not shop02" in other.err, line
        nobody = onomaxis(*line, "--flavor", "shopp01")
        assert nobody.code == 2 and "Did you mean “shop01”?" in nobody.err, line
    assert onomaxis("rename", root, "--flavor", "SHOP01", "--name", "The Shop", "--id", "org.lendspan.shop").code == 0
    assert onomaxis("renumber", root, "--build", "9", "--allow-dirty").code == 0
    table = (root / "brands.csv").read_text(encoding="utf-8").splitlines()
    assert table[2].startswith("shop01,org.lendspan.shop,The Shop,") and table[2].endswith(",9") and table[1].endswith("art.svg,")
    assert (root / "onomaxis.toml").read_text(encoding="utf-8") == IDENTITY
    assert onomaxis("ledger", "add", root, "--date", "2026-11-01", "--allow-dirty").code == 0
    assert [item["code"] for item in findings(root, "--publish") if item["code"].startswith("VERSION")] == ["VERSION06"] * 2
    commit_all(root)
    assert onomaxis("stamp", root, "--flavor", "shop02").code == 0  # published shop01 is not gone: the tree can become it again
    assert [item["code"] for item in findings(root) if item["code"].startswith("VERSION")] == []
    assert onomaxis("renumber", root, "--build", "next", "--allow-dirty").code == 0  # its own, not shop01's 10
    assert onomaxis("survey", root, "--json").json["apps"][0]["build"] == "8"
    shown = {row["facet"]: row["value"] for row in onomaxis("flavor", "show", "shop02", root, "--json").json["values"]}
    assert shown["id"] == "org.lendspan.shop02" and shown["build"] == "8"


def test_what_is_left_of_others_is_named(tmp_path: Path) -> None:
    root = shop(tmp_path / "x", 4)
    files(
        root, {"docs/help.md": "Write to https://shop02.lendspan.org or Shop 02 (not Shop 021, org.lendspan.shop02x).\n", "brands/shop02/own.txt": "Shop 02\n"}
    )
    edited(root, ("shop01", "icon.art", ""))
    identity = (root / "onomaxis.toml").read_text(encoding="utf-8").replace('icon = { art = "template/art.svg" }\n', "")
    (root / "onomaxis.toml").write_text(identity, encoding="utf-8")
    commit_all(root)
    done = onomaxis("stamp", root, "--flavor", "shop03", "--json", "--allow-dirty").json
    mine = {(item["line"], item["reason"]) for item in done["residue"] if item["file"] == "docs/help.md"}
    assert mine == {(1, "spells the “server” of shop02"), (1, "spells the name of shop02")}
    assert not [item for item in done["residue"] if item["file"].startswith("brands")]
    notes = onomaxis("stamp", root, "--flavor", "shop01", "--json", "--allow-dirty").json["notes"]
    assert [note for note in notes if "shop01 gives no icon.art: shop03's stays on iOS" in note]


PLANTED = (
    ("shop01", "id", "org.lendspan.shop-01", "ID04", "brands.csv"),
    ("shop02", "id", "org.lendspan.shop05", "ID01", "brands.csv"),
    ("shop03", "name", "The very long name of a shop in Alderbank", "NAME03", "brands.csv"),
    ("shop04", "values.login", "12 34!", "VALUE07", "brands.csv"),
    ("shop05", "values.server", "nowhere", "VALUE07", "brands.csv"),
    ("shop06", "services.google-android", "brands/shop06/nothing.json", "SERVICE12", "brands.csv"),
    ("shop07", "services.google-ios", "brands/shop08/GoogleService-Info.plist", "SERVICE01", "brands/shop08/GoogleService-Info.plist"),
    ("shop09", "icon.art", "brands/shop09/nothing.svg", "ICON18", "brands.csv"),
    ("shop11", "services.google-android", "", "SERVICE01", "template/google-services.json"),
    ("shop12", "id", "", "VALUE08", "brands.csv"),
    ("shop14", "name", "Shop 13", "FLAVOR06", "brands.csv"),
    ("shop15", "build", "seven", "VERSION04", "brands.csv"),
)


def test_every_planted_fault_is_named_in_one_run(tmp_path: Path) -> None:
    root = shop(tmp_path / "x")
    before = {(item["code"], item["flavor"]) for item in findings(root)}
    for column in ("values.login", "values.server", "icon.art"):  # nothing of these is inherited from now on
        edited(root, ("shop20", column, ""))
    text = IDENTITY.partition("[app.values]")[0].replace('icon = { art = "template/art.svg" }\n', "")
    (root / "onomaxis.toml").write_text(text, encoding="utf-8")
    edited(root, *((flavor, column, cell) for flavor, column, cell, _, _ in PLANTED))
    found = findings(root)
    lines = {row.partition(",")[0]: number for number, row in enumerate((root / "brands.csv").read_text(encoding="utf-8").splitlines(), 1)}
    for flavor, _, _, code, file in PLANTED:
        mine = [item for item in found if item["code"] == code and flavor in (item["flavor"], *item["message"].replace(",", " ").split())]
        spots = [spot for item in mine for spot in item["at"]]
        assert any(spot["file"] == file for spot in spots), (flavor, code)
        assert file != "brands.csv" or any(spot["line"] == lines[flavor] for spot in spots), (flavor, code)
    assert [item["message"] for item in found if item["code"] == "VALUE08" and item["flavor"] == "shop20"] == ["shop20 gives no icon.art, “login”, “server”"]
    blamed = {item["flavor"] for item in found if (item["code"], item["flavor"]) not in before}
    assert blamed <= {"shop05", "shop20", "shop08", *(flavor for flavor, *_ in PLANTED)}
    assert {item["flavor"] for item in findings(root, "--flavor", "shop09")} <= {"shop09", ""}
    refused = onomaxis("stamp", root, "--flavor", "shop20", "--allow-dirty")
    assert refused.code == 2 and f"brands.csv:{lines['shop04']}" in refused.err and f"brands.csv:{lines['shop05']}" in refused.err
