"""A new flavor as its neighbours: in texts of many languages, judged by those who run them; in whole projects, there and back."""

from __future__ import annotations

import ast
import json
import os
import plistlib
import pty
import random
import subprocess
import sys
import tomllib
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path

import hypothesis.strategies as st
import pytest
from hypothesis import given

import right
import shop
from conftest import THOROUGH, commit_all, examples, files, judge, onomaxis, snapshot
from onomaxis.brands.flavors import chosen_subjects, plan_flavor
from onomaxis.brands.missing_flavors import missing_flavors
from onomaxis.brands.neighbours import own_paths, without_neighbour
from onomaxis.brands.new_flavor import FlavorWish, called_as, listed_siblings
from onomaxis.brands.rejoined import plan_missing
from onomaxis.brands.retirement import plan_retirement
from onomaxis.brands.subjects import load_identity, subjects_of
from onomaxis.checks.inspection import look_over
from onomaxis.identity.schema import OWED
from onomaxis.projects.draft import Draft
from onomaxis.projects.neighbours.called import Called
from onomaxis.projects.neighbours.suggestions import suggestions
from onomaxis.projects.neighbours.texts import applied_cuts, lacking, with_flavor, without_flavor
from onomaxis.projects.neighbours.twins import plain_key
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree
from onomaxis.writing.change import applied
from onomaxis.writing.planned import changeset_of
from test_same_bytes import PROJECTS
from test_spoils import FAMILIES, tree

NAMES = ("alderbank", "mossgate", "pennywick", "elmstead", "ashcombe", "birchley", "rowanhill")
Brand = dict[str, object]
Text = Callable[[list[Brand]], str]
Judge = Callable[[str], object]


def brands(dice: random.Random) -> list[Brand]:
    """Return brands with a text that each has for itself, a choice that some share, a switch."""
    names = dice.sample(NAMES, dice.randint(4, 6))
    themes = ["light", "dark"] * 3
    return [
        {"name": name, "shown": f"{name.title()} Tools", "id": f"org.lendspan.{name}", "shop": f"https://s{number}.example", "theme": themes[number], "chat": bool(dice.getrandbits(1))}
        for number, name in enumerate(names)
    ]  # fmt: skip


def called(brand: Brand) -> Called:
    return Called(str(brand["name"]), {"android": str(brand["id"]), "ios": str(brand["id"])}, str(brand["shown"]))


NEW: Brand = {"name": "oakhollow", "shown": "Oak Hollow", "id": "org.lendspan.oakhollow", "shop": OWED}


def rows(form: str, every: list[Brand], between: str = "\n", last: str = "") -> str:
    done = [form.format(**{**b, "Name": str(b["name"]).title(), "NAME": str(b["name"]).upper(), "switch": str(b["chat"]).lower()}) for b in every]
    return between.join(done) + last


def node(text: str) -> object:
    done = subprocess.run([judge("node"), "-e", f"{text}\nconsole.log(JSON.stringify(told))"], capture_output=True, text=True, check=True)
    return json.loads(done.stdout)


def bash(text: str) -> object:
    done = subprocess.run([judge("bash"), "-c", text], capture_output=True, text=True, check=True)
    return done.stdout.splitlines()


def python(text: str) -> object:
    space: dict[str, object] = {}
    exec(compile(ast.parse(text), "x", "exec"), space)
    return space["told"]


def of_toml(text: str) -> object:
    return tomllib.loads(text)


def of_plist(text: str) -> object:
    return plistlib.loads(text.encode())


FULL = ("name", "shown", "id", "shop", "theme", "chat")
# file, how it is written, who reads it, what it says of one brand
STYLES: dict[str, tuple[str, Text, Judge, Callable[[Brand], object]]] = {
    "objects": (
        "brands.json",
        lambda every: json.dumps({"a": 1, "brands": [{k: b[k] for k in FULL} for b in every], "z": 2}, indent=2),
        lambda text: json.loads(text)["brands"],
        lambda b: {k: b[k] for k in FULL},
    ),
    "a map": (
        "brands.json",
        lambda every: json.dumps({str(b["name"]): {"shop": b["shop"], "chat": b["chat"]} for b in every}, indent="\t"),
        lambda text: list(json.loads(text).items()),
        lambda b: (b["name"], {"shop": b["shop"], "chat": b["chat"]}),
    ),
    "entries of a line": (
        "brands.json",
        lambda every: "{" + rows('"{name}": "{id}"', every, ", ") + "}",
        lambda text: list(json.loads(text).items()),
        lambda b: (b["name"], b["id"]),
    ),
    "values in a line": (
        "tool/brands.py",
        lambda every: "told = list({" + rows("'{name}': ('{shop}', '{theme}')", every, ", ") + "}.items())\n",
        python,
        lambda b: (b["name"], (b["shop"], b["theme"])),
    ),
    "dictionary": (
        "tool/brands.py",
        lambda every: "BRANDS = {\n" + rows("    '{name}': ('{shown}', '{shop}', '{theme}'),", every) + "\n}\ntold = list(BRANDS.items())\n",
        python,
        lambda b: (b["name"], (b["shown"], b["shop"], b["theme"])),
    ),
    "a chain of conditions": (
        "tool/brands.py",
        lambda every: (
            f"def shop(b):\n    if b == '{every[0]['name']}':\n        return '{every[0]['shop']}'\n"
            + rows("    elif b == '{name}':\n        return '{shop}'\n", every[1:], "")
            + "    else:\n        return ''\n\n"
            + "NAMES = ["
            + rows("'{name}'", every, ", ")
            + "]\ntold = [(n, shop(n)) for n in NAMES]\n"
        ),
        python,
        lambda b: (b["name"], b["shop"]),
    ),
    "wrapped lists": (
        "tool/brands.py",
        lambda every: "told = [\n    " + rows("'{name}'", every[:2], ", ") + ",\n    " + rows("'{name}'", every[2:], ", ") + ",\n]\n",
        python,
        lambda b: b["name"],
    ),
    "table": (
        "app.config.js",
        lambda every: (
            "const brands = {\n"
            + rows("  {name}: {{\n    id: '{id}',\n    shop: \"{shop}\",\n    chat: {switch},\n  }},\n", every, "")
            + "};\nconst told = Object.entries(brands);\n"
        ),
        node,
        lambda b: [b["name"], {"id": b["id"], "shop": b["shop"], "chat": b["chat"]}],
    ),
    "switch": (
        "src/brand.ts.js",
        lambda every: (
            "function shop(b) {\n  switch (b) {\n"
            + rows("    case '{name}': return '{shop}'\n", every, "")
            + "  }\n}\nconst told = ["
            + rows("'{name}'", every, ", ")
            + "].map((b) => [b, shop(b)]);\n"
        ),
        node,
        lambda b: [b["name"], b["shop"]],
    ),
    "one case for all": (
        "src/brand.js",
        lambda every: (
            "function known(b) {\n  switch (b) {\n"
            + rows("    case '{name}':\n", every, "")
            + "      return true\n  }\n  return false\n}\nconst told = ["
            + rows("'{name}'", every, ", ")
            + "].map((b) => [b, known(b)]);\n"
        ),
        node,
        lambda b: [b["name"], True],
    ),
    "script": (
        "tool/build.sh",
        lambda every: (
            "for b in "
            + rows("{name}", every, " ")
            + '; do\n  case "$b" in\n'
            + rows("    {name})\n      SHOP='{shop}'\n      ;;\n", every, "")
            + '  esac\n  echo "$b $SHOP"\ndone\n'
        ),
        bash,
        lambda b: f"{b['name']} {b['shop']}",
    ),
    "sections": (
        "brands.toml",
        lambda every: "top = 1\n\n" + rows('[brands.{name}]\nshop = "{shop}"\ntheme = "{theme}"\n', every),
        lambda text: list(of_toml(text)["brands"].items()),  # type: ignore[index]
        lambda b: (b["name"], {"shop": b["shop"], "theme": b["theme"]}),
    ),
    "keys of a list": (
        "Brands.plist",
        lambda every: (
            '<?xml version="1.0" encoding="UTF-8"?>\n<plist version="1.0">\n<dict>\n'
            + rows(
                "\t<key>{name}</key>\n\t<dict>\n\t\t<key>shop</key>\n\t\t<string>{shop}</string>\n\t\t<key>chat</key>\n\t\t<{switch}/>\n\t</dict>\n", every, ""
            )
            + "</dict>\n</plist>\n"
        ),
        lambda text: list(of_plist(text).items()),  # type: ignore[attr-defined]
        lambda b: (b["name"], {"shop": b["shop"], "chat": b["chat"]}),
    ),
}


@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize("style", STYLES)
def test_a_text_says_of_the_new_one_what_it_says_of_its_neighbours(style: str, seed: int) -> None:
    """Who reads the text finds all as before and the new one behind; taken out again the bytes are the old ones."""
    dice = random.Random(f"{style} {seed}")
    every = brands(dice)
    path, write, read, said = STYLES[style]
    text = write(every)
    if dice.getrandbits(1):
        text = text.replace("\n", "\r\n") if style != "script" else text
    like = dice.choice(every)
    there = [called(b) for b in every]
    cuts = with_flavor(text, path, there, [str(like["name"])], called(NEW), {})
    later = applied_cuts(text, cuts)
    found = list(read(later))  # type: ignore[call-overload]
    assert found[:-1] == list(read(text)) == [said(b) for b in every]  # type: ignore[call-overload]
    model = [b for b in every if said({**NEW, "theme": b["theme"], "chat": b["chat"]}) == found[-1]]
    assert like in model or style == "a chain of conditions", (found[-1], later)
    assert not with_flavor(later, path, there, [], called(NEW), {})
    assert applied_cuts(later, without_flavor(later, path, [*there, called(NEW)], "oakhollow")) == text
    gone = dice.choice(every[1:] if style == "a chain of conditions" else every)
    left = applied_cuts(text, without_flavor(text, path, there, str(gone["name"])))
    assert list(read(left)) == [said(b) for b in every if b is not gone]  # type: ignore[call-overload]


# Texts that name all siblings, and in which nobody can tell for sure what a new one's entry would be: they stay as they
# are. Which lines a patch adds, or changes, for a person to judge.
LEFT = {
    "a.py": ("a = make('alderbank')\nregister(a)\nb = make('mossgate')\nregister(b)\nc = make('pennywick')\nregister(c)\n", ""),
    "b.dart": ("// alderbank, then mossgate and pennywick\n", "// alderbank, then mossgate and pennywick and oakhollow"),
    "c.sh": ("# alderbank\nmake one\n# mossgate\nmake two\n# pennywick\nmake three\n", "# oakhollow"),
    "d.kt": ('val m = pairs("alderbank" to "mossgate", "pennywick" to "alderbank", "mossgate" to "pennywick")\n', ""),
    "e.xml": ('<a>\n<b name="alderbank">\n<c/>\n</b>\n<b name="mossgate">\n<c/>\n</b>\n<b name="pennywick">\n<c/>\n</b>\n</a>\n', ""),
    "f.json": ('{"one": "alderbank", "two": {"x": "mossgate"}, "three": ["pennywick"]}', ""),
    "g.dart": (
        "switch (f) {\n  case 'alderbank':\n    final x = a(b);\n    return x.with(y);\n  case 'mossgate':\n    if (c) {\n      return d;\n    }\n    return e;\n  case 'pennywick':\n    log(f);\n    throw f;\n}\n",
        "  case 'oakhollow':",
    ),
    "h.kt": (
        'val north = f == "alderbank" || f == "mossgate" && late || f == "pennywick"\n',
        'val north = f == "alderbank" || f == "mossgate" && late || f == "pennywick" || f == "oakhollow"',
    ),
    "i.swift": (
        "if f == .alderbank { a() }; if f == .mossgate { b(1) }; if f == .pennywick { c() }\n",
        "if f == .alderbank { a() }; if f == .mossgate { b(1) }; if f == .oakhollow { b(1) }; if f == .pennywick { c() }",
    ),
}


@pytest.mark.parametrize("path", LEFT)
def test_what_is_not_plain_is_left_and_proposed(path: str) -> None:
    there, (text, wanted) = [Called(name, {}, "") for name in NAMES[:3]], LEFT[path]
    assert with_flavor(text, path, there, [], called(NEW), {}) == []
    found = list(suggestions(text, path, there, ["alderbank"], called(NEW), {}))
    later = applied_cuts(text, sorted(cut for item in found for cut in item.cuts))
    assert "\n".join(line for line in later.splitlines() if line not in text.splitlines()) == wanted
    assert list(suggestions(later, path, there, [], called(NEW), {})) == [] or not wanted


def test_words_that_mean_much_else_are_left_where_a_value_is_owed() -> None:
    """A server is called ``dev`` as a flavor is: one more of it is not a guess; a list of names alone is plain."""
    there = [Called("dev", {}, ""), Called("prod", {}, "")]
    text = "services:\n  dev:\n    image: a\n  prod:\n    image: b\nstages: [dev, prod]\n"
    later = applied_cuts(text, with_flavor(text, "compose.yml", there, [], Called("qa", {}, ""), {}))
    assert later == text.replace("[dev, prod]", "[dev, prod, qa]")
    left = applied_cuts(text, without_flavor(text, "compose.yml", there, "dev"))
    assert left == text.replace("[dev, prod]", "[prod]")


def test_files_that_may_be_another_s_stay_when_a_flavor_goes(tmp_path: Path) -> None:
    """A server's settings and pictures called ``dev`` are named, and stay; what says the name alone goes."""
    script = "android { namespace 'org.x'; defaultConfig { applicationId 'org.x' }\n flavorDimensions 's'\n productFlavors {\n"
    script += "".join(f"  {name} {{ dimension 's'; applicationIdSuffix '.{name}' }}\n" for name in ("dev", "prod", "qa")) + " }\n}\n"
    own = {f"server/{name}.json": f'{{"host": "{n}.example"}}\n' for n, name in enumerate(("dev", "prod", "qa"))}
    own |= {f"art/{name}.png": b"\x89PNG\0" + name.encode() for name in ("dev", "prod", "qa")}
    own |= {f"tool/run-{name}.sh": f"gradle assemble{name.title()}\n" for name in ("dev", "prod", "qa")}
    app = {"settings.gradle": "include ':app'\n", "app/build.gradle": f"plugins {{ id 'com.android.application' }}\n{script}"}
    root = files(tmp_path, {**app, **own, "app/src/main/AndroidManifest.xml": "<manifest/>\n"})
    done = onomaxis("flavor", "retire", "dev", root, "--json")
    assert done.code == 0 and done.json["removed"] == ["tool/run-dev.sh"], done.err
    assert {note.partition(": ")[0] for note in done.json["notes"]} >= {"server/dev.json", "art/dev.png"}


PIECES = [
    *NAMES[:3],
    "Alderbank",
    "MOSSGATE",
    "org.lendspan.pennywick",
    "Mossgate Tools",
    *", |:=;#'\"\\(){}[]-",
    "\n",
    "\n  ",
    "\r\n",
    "//",
    "1.5",
    "x",
    "<a>",
    "</a>",
]
PIECES += ["case", "end", "do", "esac", "fi", "true", "é", "\t"]
ENDINGS = ["a.json", "a.dart", "a.yaml", "a.sh", "a.toml", "a.plist", "a.rb", "res/values/a.xml", ".env", "a.properties"]


@examples(300)
@given(st.lists(st.sampled_from(PIECES), max_size=60).map("".join), st.sampled_from(ENDINGS))
def test_any_text_is_left_or_gets_one_more_and_back(text: str, path: str) -> None:
    """Nothing that stands in a tree ends the comparison; what it adds it takes out again, and its edits never meet."""
    there = [Called(name, {"android": f"org.lendspan.{name}"}, f"{name.title()} Tools") for name in NAMES[:3]]
    cuts = with_flavor(text, path, there, ["mossgate"], called(NEW), {})
    assert all(one.end <= other.start for one, other in pairwise(cuts))
    later = applied_cuts(text, cuts)
    if cuts:
        assert applied_cuts(later, without_flavor(later, path, [*there, called(NEW)], "oakhollow")) == text
    for name in NAMES[:3]:
        gone = without_flavor(text, path, there, name)
        assert all(one.end <= other.start for one, other in pairwise(gone))
    proposed = sorted(cut for item in suggestions(text, path, there, ["mossgate"], called(NEW), {}) for cut in item.cuts)
    assert all(one.end <= other.start for one, other in pairwise(proposed))


LINES = [
    # a sibling's line among three, what the new one's becomes, what is given
    ("a.kt", '    fun {name}() = "{shop}" // own', '    fun oakhollow() = "TO_BE_GIVEN"', {}),
    ("a.kt", '    put("{name}", "shop-url", "{shop}")', '    put("oakhollow", "shop-url", "https://o.example")', {"SHOP_URL": "https://o.example"}),
    (
        "a.gradle",
        "    {name} {{ buildConfigField 'String', 'SHOP', '\"{shop}\"' }}",
        "    oakhollow { buildConfigField 'String', 'SHOP', '\"TO_BE_GIVEN\"' }",
        {},
    ),
    ("ci.yml", "  {NAME}_KEY: {shop}", "  OAKHOLLOW_KEY: TO_BE_GIVEN", {}),
    ("a.dart", "  {name}Debug('{shown}', chat: {switch}),", "  oakhollowDebug('Oak Hollow', chat: true),", {}),
    ("res/values/all.xml", '  <item name="{name}">{shown}</item>', '  <item name="oakhollow">Oak Hollow</item>', {}),
]


@pytest.mark.parametrize(("path", "form", "wanted", "given"), LINES)
def test_one_line_each(path: str, form: str, wanted: str, given: dict[str, str]) -> None:
    every = [
        {"name": n, "shown": f"{n.title()} Tools", "id": f"org.lendspan.{n}", "shop": f"https://{k}.example", "chat": True}
        for k, n in enumerate("alderbank mossgate pennywick".split())
    ]
    text = rows(form, every, "\n", "\n")
    later = applied_cuts(text, with_flavor(text, path, [called(b) for b in every], ["mossgate"], called(NEW), given))
    assert later.startswith(text) and later[len(text) :].startswith(wanted)


def test_numbers_in_turn_go_on() -> None:
    text = "enum B {\n  alderbank(0),\n  mossgate(1),\n  pennywick(2);\n}\n"
    later = applied_cuts(text, with_flavor(text, "b.dart", [Called(n, {}, "") for n in NAMES[:3]], ["mossgate"], called(NEW), {}))
    assert later == "enum B {\n  alderbank(0),\n  mossgate(1),\n  pennywick(2),\n  oakhollow(3);\n}\n"


def test_values_that_hold_the_name_or_not_are_one_list() -> None:
    """Half of the cases have a value made of the name, half one of their own: a new one, and one that lacks, is seen in all."""
    names = NAMES[:6]
    lines = [f'    {n.upper()}("https://{n if number > 2 else n[:1]}.example"),\n' for number, n in enumerate(names)]
    text = f"enum class Brand(val shop: String) {{\n{''.join(lines)}}}\n"
    flavors = [Called(n, {}, "") for n in names]
    later = applied_cuts(text, with_flavor(text, "B.kt", flavors, [names[4]], called(NEW), {}))
    assert later == text.replace("}\n", '    OAKHOLLOW("https://oakhollow.example"),\n}\n')
    for name, line in zip(names, lines, strict=True):
        assert {item.flavor for item in lacking(text.replace(line, ""), "B.kt", flavors)} == {name}
    assert not list(lacking(text, "B.kt", flavors))


# -- whole projects

KEY = "AIza" + "9" * 35
SERVICES = (
    ("google-services.json", right.service_json("org.lendspan.oakhollow").encode()),
    ("GoogleService-Info.plist", right.service_plist("org.lendspan.oakhollow").encode()),
)


@pytest.mark.parametrize("like", ["", "mossgate"])
@pytest.mark.parametrize("kind", ["native", "flutter", "react-native"])
def test_right_projects_get_a_right_neighbour(kind: str, like: str) -> None:
    """Checking finds nothing but what is owed; that given, nothing at all; retired, every byte is as it was."""
    old = tree(right.RIGHT[kind]())
    wish = FlavorWish("oakhollow", shown="Oak Hollow", like=like)
    plan = plan_flavor(old, wish)
    found = look_over(applied(old, plan.changes), FAMILIES, publish=True)[0]
    assert {item.key for item in plan.owed} == {"mapsKey"}
    assert {(item.rule.code, item.flavor) for item in found} == {("SERVICE02", "oakhollow"), ("FLAVOR14", "oakhollow")}
    whole = plan_flavor(old, wish._replace(given={"maps_key": KEY}, services=SERVICES))
    later = applied(old, whole.changes)
    assert look_over(later, FAMILIES, publish=True)[0] == () and not whole.owed
    back = applied(later, plan_retirement(later, "oakhollow").changes)
    assert {path: back.read(path) for path in back.files} == {path: old.read(path) for path in old.files}


@pytest.mark.parametrize("kind", ["native", "flutter", "react-native"])
def test_two_branches_that_each_add_one_are_merged(kind: str) -> None:
    """From one side's files, the other's new ones and both tables: each file is as if the one were added after the other."""
    old = tree(right.RIGHT[kind]()).overlay({FILE: b"format = 1\n"}, ())
    oak, elm = (FlavorWish(name, id=f"org.lendspan.{name}", shown=name.title()) for name in ("oakhollow", "elmstead"))
    ours, theirs = (applied(old, plan_flavor(old, wish).changes) for wish in (oak, elm))
    said, table = ((found.read(FILE) or b"").decode() for found in (ours, theirs))
    new = {path: theirs.read(path) or b"" for path in theirs.files if path not in old.known}
    merged = ours.overlay(new | {FILE: (said + table[table.index("\n[flavors.elmstead]") :]).encode()}, ())
    assert "elmstead" in missing_in(merged)
    planned = plan_missing(merged)
    later, wanted = applied(merged, planned.changes), applied(ours, plan_flavor(ours, elm).changes)
    assert {item.key for item in planned.owed} == {"mapsKey"} and missing_in(later) == [] and plan_missing(later).empty
    assert {path for path in {*later.files, *wanted.files} if later.read(path) != wanted.read(path)} == set()


FILE = "onomaxis.toml"


def missing_in(found: Tree) -> list[str]:
    file = load_identity(found)
    return [name for name, _ in missing_flavors(found, file, subjects_of(file, read_projects(found)))] if file else []


CONFIG = '{{\n  "name": "{0}",\n  "shop": "https://{1}.shop.example",\n  "tenant": "{2}"\n}}\n'
WORKFLOW = "jobs:\n  build:\n    strategy:\n      matrix:\n        brand: [alderbank, mossgate, pennywick]\n"
ENUM = "enum class Brand(val shop: String) {\n" + "".join(f'    {n.upper()}("https://{n[:1]}.example"),\n' for n in NAMES[:3]) + "}\n"


def agency(folder: Path) -> Path:
    """An agency's project: brands in two native halves, in folders of their own, in lists, in code."""
    contents = shop.project()
    for name, shown in shop.BRANDS.items():
        contents[f"brands/{name}/config.json"] = CONFIG.format(shown, name, name[:3])
        contents[f"brands/{name}/logo.png"] = b"\x89PNG" + name.encode()
        contents[f"store/{name}/en-US/title.txt"] = f"{shown}\n"
        contents[f"ios/ExportOptions-{name}.plist"] = right.plist({"method": "app-store", "provisioningProfiles": {f"org.lendspan.{name}": f"{shown} Store"}})
    contents |= {
        ".github/workflows/ci.yaml": WORKFLOW,
        "android/app/src/main/java/org/lendspan/app/Brand.kt": ENUM,
        "other/notes.md": "alderbank, mossgate, pennywick\n",
    }
    told = str(contents["onomaxis.toml"]).splitlines(keepends=True)
    contents["onomaxis.toml"] = "".join(line for line in told if not line.startswith("names"))  # iOS has one name for all languages
    root = files(folder, contents)
    commit_all(root)
    return root


def test_an_agency_adds_a_brand_by_its_briefing(tmp_path: Path) -> None:
    """One command and one file: structure, lists, code, values and the identity file; what is left is owed by the person."""
    root = agency(tmp_path / "app")
    before = snapshot(root)
    briefing = tmp_path / "oak.toml"
    briefing.write_text(
        '[flavors.oakhollow]\nname = "Oak Hollow"\n'
        '[flavors.oakhollow.values]\nlogin-id = "440000000004"\ntenant = "oak"\nOAKHOLLOW = "https://o.example"\nground = "#404050"\n'
        '[flavors.oakhollow.services]\nhosts = ["oakhollow.lendspan.example"]\n'
    )
    done = onomaxis("flavor", "add", "oakhollow", root, "--like", "mossgate", "--from", briefing, "--json")
    assert done.code == 0, done.err
    assert done.json["owed"] == [] and (root / "brands/oakhollow/config.json").read_text() == CONFIG.format("Oak Hollow", "oakhollow", "oak")
    assert "[alderbank, mossgate, pennywick, oakhollow]" in (root / ".github/workflows/ci.yaml").read_text()
    assert '    OAKHOLLOW("https://o.example"),\n}' in (root / "android/app/src/main/java/org/lendspan/app/Brand.kt").read_text()
    assert plistlib.loads((root / "ios/ExportOptions-oakhollow.plist").read_bytes())["provisioningProfiles"] == {"org.lendspan.oakhollow": "Oak Hollow Store"}
    assert (root / "other/notes.md").read_text() == "alderbank, mossgate, pennywick\n"
    text = (root / "ios/Lend.xcodeproj/project.pbxproj").read_text()
    assert text.count("LOGIN = 440000000004;") == 2 == text.count("HOST = oakhollow.lendspan.example;")
    assert 'login-id = "440000000004"' in (root / "onomaxis.toml").read_text()
    apps = {(app["platform"], app["flavor"]): (app["id"], app["name"]) for app in onomaxis("survey", root, "--json").json["apps"]}
    assert apps["android", "oakhollow"] == ("org.lendspan.oakhollow", "Oak Hollow") == apps["ios", "oakhollow"]
    assert "FLAVOR14" not in {item["code"] for item in onomaxis("check", root, "--json").json["findings"]}
    lacking = {note.split(": ")[0] for note in done.json["notes"] if "has none yet" in note}
    assert lacking == {"android/app/src/alderbank", "brands/alderbank", "ios/Lend/Assets.xcassets/AppIcon-alderbank.appiconset"}
    onomaxis("renumber", root, "--build", "8", "--allow-dirty")  # not the last change any more
    onomaxis("renumber", root, "--build", "7", "--allow-dirty")
    assert onomaxis("flavor", "retire", "oakhollow", root, "--allow-dirty").code == 0
    assert snapshot(root) == before


def test_what_is_not_given_is_owed_until_it_is(tmp_path: Path) -> None:
    """The values are listed, check tells them in one finding with their places, a person at a terminal is asked for them."""
    root = agency(tmp_path / "app")
    done = onomaxis("flavor", "add", "oakhollow", root, "--name", "Oak Hollow", "--value", "tenant=oak", "--value", "login=77", "--json")
    assert (root / "ios/Lend.xcodeproj/project.pbxproj").read_text().count("LOGIN = 77;") == 2
    keys = {item["key"] for item in done.json["owed"] if item["at"].partition(":")[0] != "onomaxis.toml"}
    assert keys == {"login_id", "ground", "OAKHOLLOW"} and not any(item["neighbours"] for item in done.json["owed"])
    found = [item for item in onomaxis("check", root, "--json", "--only", "flavors").json["findings"] if item["code"] == "FLAVOR14"]
    assert [item["flavor"] for item in found] == ["oakhollow"] and "3 values are to be given (OAKHOLLOW, ground, login_id)" in found[0]["message"]
    assert {place["file"] for place in found[0]["at"]} == {item["at"].rpartition(":")[0] or item["at"] for item in done.json["owed"]}


BRIEFINGS = [
    ("oak.json", '{"name": "Oak Hollow", "values": {"tenant": "oak"}}', ""),
    ("oak.json", '{"flavors": {"oakhollow": {"name": "Oak Hollow", "values": {"tenant": "oak"}}}}', ""),
    ("oak.csv", "flavor,name,values.tenant\nelm,Elm,e\noakhollow,Oak Hollow,oak\n", ""),
    ("oak.toml", '[flavors.elm]\nname = "Elm"\n', "oak.toml: the briefing does not describe oakhollow"),
    ("oak.toml", '[flavors.oakhollow]\nnmae = "Elm"\n', "oak.toml:2"),
    ("oak.json", '{"name": }', "oak.json:1: the briefing is not JSON"),
    ("oak.json", "[]", "the briefing is not an object"),
    ("gone.toml", None, "the briefing cannot be read"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "text", "said"), BRIEFINGS)
def test_briefings(tmp_path: Path, name: str, text: str | None, said: str) -> None:
    """A table of TOML, of JSON, a row: one says what another does; what is wrong is named with its line, and nothing is changed."""
    contents = {path: data for path, data in shop.project().items() if path != "onomaxis.toml"}
    for flavor, shown in shop.BRANDS.items():
        contents[f"brands/{flavor}/config.json"] = CONFIG.format(shown, flavor, flavor[:3])
    root = files(tmp_path / "app", contents)
    before = snapshot(root)
    if text is not None:
        (tmp_path / name).write_text(text)
    done = onomaxis("flavor", "add", "oakhollow", root, "--from", tmp_path / name)
    if said:
        assert done.code == 2 and said in done.err and snapshot(root) == before, done.err
    else:
        assert done.code == 0 and (root / "brands/oakhollow/config.json").read_text() == CONFIG.format("Oak Hollow", "oakhollow", "oak"), done.err


# What is left for a new brand's owner: service files, pictures, values that are owed.
OPEN = {"SERVICE02", "FLAVOR14", "FLAVOR07", "ICON12", "ICON14", "ICON16", "NAME08", "VERSION08"}


@pytest.mark.parametrize("project", ["lockers", "dressed-type-camel", "dressed-Brand Stage", "flavored-both-8", "flavored-flutter-6", "flavored-android-17"])
def test_checking_misses_nothing_of_a_new_brand(project: str) -> None:
    """Brands beside environments on both platforms: every configuration, scheme, name and value is there, and goes again."""
    old = Tree.of({path: data if isinstance(data, bytes) else data.encode() for path, data in PROJECTS[project]().items()})
    before = {(item.rule.code, item.message) for item in look_over(old)[0]}
    plan = plan_flavor(old, FlavorWish("oakhollow", id="org.lendspan.oakhollow", shown="Oak Hollow"))
    later = applied(old, plan.changes)
    found = {(item.rule.code, item.message) for item in look_over(later)[0]} - before
    assert {code for code, _ in found} - OPEN <= {code for code, _ in before}, (plan.notes, found)  # what neighbours have amiss
    back = applied(later, plan_retirement(later, "oakhollow").changes)
    assert {path: back.read(path) for path in back.known} == {path: old.read(path) for path in old.known}


@pytest.mark.parametrize("flavor", ["mossgate", *(["alderbank", "pennywick"] if THOROUGH else [])])
def test_checking_misses_nothing_that_a_brand_loses(tmp_path: Path, flavor: str) -> None:
    """Each file and each place that speaks of it as of its siblings, and each line of its blocks, taken out alone: a finding names it."""
    tree = Tree.open(agency(tmp_path / "app"))
    projects, meant = chosen_subjects(tree, load_identity(tree))
    every = [*listed_siblings(tree, meant, flavor), called_as(meant, flavor)]
    allowed = own_paths(projects, [subject.project for subject in meant])
    before = {(item.rule.code, item.flavor, item.message) for item in look_over(tree)[0]}
    out = without_neighbour(tree, every, flavor, allowed)
    planted = [tree.overlay({}, [path]) for path in out.removed if "mipmap-x" not in path]
    planted += [applied(tree, changeset_of(Draft(edits=[edit])).resolve(tree)) for edit in out.edits]
    script = (tree.read("android/app/build.gradle.kts") or b"").decode().splitlines(keepends=True)
    start = next(number for number, line in enumerate(script) if f'create("{flavor}")' in line)
    for number in range(start + 2, script.index("        }\n", start)):  # behind the dimension, which one alone does not need
        planted.append(tree.overlay({"android/app/build.gradle.kts": "".join(script[:number] + script[number + 1 :]).encode()}, ()))
    assert len(planted) > 17
    for number, later in enumerate(planted):
        found = {(item.rule.code, item.flavor, item.message) for item in look_over(later, ["flavors"])[0]}
        found = found - before or {(item.rule.code, item.flavor, item.message) for item in look_over(later)[0]} - before
        assert any(name == flavor for _, name, _ in found), (number, found)


def test_every_environment_of_a_new_brand() -> None:
    """Where iOS has brands in combinations alone, the new one is in all of them, each after the neighbour's of its environment."""
    old = Tree.of({path: data if isinstance(data, bytes) else data.encode() for path, data in PROJECTS["lockers"]().items()})
    later = applied(old, plan_flavor(old, FlavorWish("oakhollow", shown="Oak Hollow")).changes)
    apps = [app for project in read_projects(later) if project.platform == "ios" for app in project.apps if "oakhollow" in app.variant]
    told = {app.configuration: (app.id.text, app.name.text) for app in apps if app.id and app.name}
    assert told == {
        "Release-oakhollowStaging": ("org.lendspan.lockers.oakhollow.staging", "Oak Hollow"),
        "Release-oakhollowProduction": ("org.lendspan.lockers.oakhollow", "Oak Hollow"),
    }
    schemes = {path.rpartition("/")[2]: (later.read(path) or b"").decode() for path in later.files if path.endswith(".xcscheme") and "oakhollow" in path}
    assert {name: text.partition('<ArchiveAction buildConfiguration = "')[2].partition('"')[0] for name, text in schemes.items()} == {
        f"oakhollow{stage}.xcscheme": f"Release-oakhollow{stage}" for stage in ("Production", "Staging")
    }


@pytest.mark.processes
def test_a_person_at_a_terminal_is_asked(tmp_path: Path) -> None:
    """Each value once, in turn; an empty answer leaves it open; then the question that every command asks."""
    root = agency(tmp_path / "app")
    command = ["flavor", "add", "oakhollow", root, "--name", "Oak Hollow"]
    once: dict[str, str] = {}
    for item in onomaxis(*command, "--json", "--dry-run").json["owed"]:
        once.setdefault(plain_key(item["key"]), item["key"])
    owed = list(once.values())
    lines = [{"ground": "", "login_id": "440000000004"}.get(key, f"own-{key}") for key in owed]
    master, slave = pty.openpty()
    words = [sys.executable, "-m", "onomaxis", *map(str, command)]
    with subprocess.Popen(words, stdin=slave, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as running:
        os.write(master, "".join(f"{line}\n" for line in (*lines, "y")).encode())
        _, said = running.communicate(timeout=300)
    assert running.returncode == 0 and all(f"  {key} (".encode() in said for key in owed), said.decode()
    text = (root / "android/app/src/oakhollow/res/values/brand.xml").read_text()
    assert "440000000004" in text and f'<color name="ground">{OWED}</color>' in text
    assert json.loads((root / "brands/oakhollow/config.json").read_text())["tenant"] == "own-tenant"


def test_a_file_that_cannot_say_the_name_stays_as_it_is(tmp_path: Path) -> None:
    """Its encoding lacks a letter: it is named, and all else is done."""
    root = agency(tmp_path / "app")
    old = root / "tool/names.py"
    old.parent.mkdir()
    old.write_bytes("A = ('alderbank', 'Alderbank Tools')\nB = ('mossgate', 'Mossgate Shed')  # é\nC = ('pennywick', 'Pennywick Lends')\n".encode("latin-1"))
    commit_all(root)
    before = old.read_bytes()
    done = onomaxis("flavor", "add", "oakhollow", root, "--name", "Dęby", "--json")
    assert done.code == 0 and old.read_bytes() == before, done.err


def test_what_cannot_be_followed_is_said(tmp_path: Path) -> None:
    """A neighbour that nobody knows is refused with those that there are; a value that nobody has is named."""
    root = agency(tmp_path / "app")
    done = onomaxis("flavor", "add", "oakhollow", root, "--like", "mosgate")
    assert done.code == 2 and "Did you mean “mossgate”?" in done.err
    done = onomaxis("flavor", "add", "oakhollow", root, "--value", "tenant=1", "--value", "moon=1", "--json")
    assert [note for note in done.json["notes"] if "was not written" in note] == ["no flavor beside oakhollow has a value called moon: it was not written"]
    assert onomaxis("flavor", "add", "elm", root, "--value", "moon").code == 2
