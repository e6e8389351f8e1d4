"""The proof before the write: plans that are wrong, made so by hand, are refused with file and line, and nothing is written."""

from __future__ import annotations

import importlib
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest

import onomaxis.rename.rename as renaming
from brands import project
from conftest import files, onomaxis, snapshot
from hybrids import spelled
from onomaxis.demo import ART
from onomaxis.errors import FaultError, RefusedError
from onomaxis.icons.output import Output
from onomaxis.model import Edit
from onomaxis.projects.android.kind import AndroidKind
from onomaxis.projects.draft import Draft
from onomaxis.projects.project import Flavor, Project
from onomaxis.rename.plan import Plan
from onomaxis.rename.proof import prove_stable
from onomaxis.surveys.survey import take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.change import FileChange, applied
from onomaxis.writing.changeset import _prove_rest, apply_edits
from onomaxis.writing.planned import Stages
from onomaxis.writing.proof import prove_files

GROOVY = """apply plugin: 'com.android.application'
android {
    namespace 'org.x.app'
    defaultConfig {
        applicationId 'org.x.app'
        versionCode 7
        versionName '1.2'
    }
    flavorDimensions 'b'
    productFlavors {
        free { applicationIdSuffix '.free' }
        other { applicationId 'org.other' }
    }
}
"""
CONTENTS = {
    "settings.gradle": "include ':app'\n",
    "app/build.gradle": GROOVY,
    "app/src/main/AndroidManifest.xml": '<manifest xmlns:android="http://schemas.android.com/apk/res/android"><application android:label="@string/app_name"/></manifest>\n',
    "app/src/main/res/values/strings.xml": '<resources>\n    <string name="app_name">Lend</string>\n</resources>\n',
    "app/src/main/java/org/x/app/Main.kt": 'package org.x.app\n\nval id = "org.x.app"\n',
}
WORDS = ["--id", "org.y.shed", "--name", "Shed", "--version", "3.0", "--build", "9"]


def spoiled(path: str, old: bytes, new: bytes) -> Callable[[Plan], Plan]:
    """Return what makes a plan write something else into one file."""

    def spoil(plan: Plan) -> Plan:
        changes = tuple(
            change._replace(after=(change.after or b"").replace(old, new)) if (change.target or "").endswith(path) else change for change in plan.changes
        )
        assert changes != plan.changes
        return replace(plan, changes=changes)

    return spoil


def without(path: str) -> Callable[[Plan], Plan]:
    """Return what makes a plan forget one file's edits."""

    def spoil(plan: Plan) -> Plan:
        return replace(plan, changes=tuple(c if not (c.target or "").endswith(path) else c._replace(after=c.before) for c in plan.changes))

    return spoil


OBJECT = b"0123456789ABCDEF01234567"
WRONG = {
    "another ID": (spoiled("build.gradle", b"applicationId 'org.y.shed'", b"applicationId 'org.y.shelf'"), "the ID of"),
    "a flavor's own ID": (spoiled("build.gradle", b"org.other", b"org.y.shed"), "the ID of android app other"),
    "another version": (spoiled("build.gradle", b"'3.0'", b"'3.00'"), "the version"),
    "another build number": (spoiled("build.gradle", b"versionCode 9", b"versionCode 99"), "the build number"),
    "another name": (spoiled("strings.xml", b"Shed", b"Shad"), "name"),
    "a forgotten file": (without("Main.kt"), "would still stand here"),
    "a forgotten name": (without("strings.xml"), "name"),
    "a lost flavor": (spoiled("build.gradle", b"free {", b"gratis {"), "no longer be built"),
    "a broken script": (spoiled("build.gradle", b"versionCode 9", b"versionCode 9 }"), "brackets"),
    "broken XML": (spoiled("strings.xml", b">Shed<", b">Shed&<"), "no longer be read"),
    "another encoding": (spoiled("strings.xml", b">Shed<", b">Sh\xe9d<"), "no longer be read"),
}


@pytest.mark.parametrize("name", WRONG)
def test_a_wrong_plan_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, name: str) -> None:
    """Whatever went wrong in planning: code 4, a file with its line, and an untouched tree."""
    spoil, said = WRONG[name]
    root = files(tmp_path / "t", CONTENTS)
    before = snapshot(root)
    real, calls = renaming.plan_values, []

    def plan(survey: object, wish: object) -> Plan:
        calls.append(1)
        return spoil(real(survey, wish)) if len(calls) == 1 else real(survey, wish)

    monkeypatch.setattr(renaming, "plan_values", plan)
    done = onomaxis("rename", root, *WORDS, "--json")
    assert done.code == 4 and snapshot(root) == before, done.out
    assert said in done.json["error"]["message"], done.out
    assert done.json["error"]["file"] and done.json["error"]["line"]
    monkeypatch.undo()
    assert onomaxis("rename", root, *WORDS, "--quiet").code == 0


def test_another_app_is_not_touched(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A plan for one app that would change another's version is refused."""
    contents = {**spelled("flutter", "org.x.shed", "Shed", "1.2", "7"), **{f"second/{path}": text for path, text in CONTENTS.items()}}
    root = files(tmp_path / "t", contents)
    real = renaming.plan_values

    def plan(survey: object, wish: object) -> Plan:
        found = real(survey, wish)
        other = "second/app/build.gradle"
        data = (root / other).read_bytes()
        return replace(found, changes=(*found.changes, FileChange(other, other, data, data.replace(b"1.2", b"6.6"))))

    monkeypatch.setattr(renaming, "plan_values", plan)
    done = onomaxis("rename", root, "--app", "org.x.shed", "--name", "Barn", "--json")
    assert done.code == 4 and "the version of android app" in done.json["error"]["message"]
    assert done.json["error"]["file"] == "second/app/build.gradle" and done.json["error"]["line"] == 7


# What a plan to rename does beside: one more change of a file; what is said of it.
BESIDE = [
    ("capacitor.config.ts", b"org.y.shed", b"org.y.shelf", "which no app would be"), ("capacitor.config.ts", b"appId: 'org.y.shed'", b"id: 'org.y.shed'", "could no longer be determined"),
    ("capacitor.config.ts", b"'Shed'", b"'Shelf'", "which no app would be"), ("android/app/google-services.json", b"org.x.app", b"org.y.shed", "was not asked for"),
    ("android/app/src/main/res/raw/a.png", b"PNG", b"GNP", "was not asked for"),
]  # fmt: skip


@pytest.mark.parametrize(("path", "old", "new", "said"), BESIDE)
def test_what_a_rename_does_beside_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, path: str, old: bytes, new: bytes, said: str) -> None:
    """A framework's file that would say what no app says, a picture, a service file: refused, nothing changed."""
    more = {"android/app/google-services.json": '{"package_name": "org.x.app"}\n', "android/app/src/main/res/raw/a.png": b"\x89PNG"}
    root = files(tmp_path / "t", {**spelled("capacitor", "org.x.app", "Lend", "1.2", "7"), **more})
    before, real = snapshot(root), renaming.plan_values

    def plan(survey: object, wish: object) -> Plan:
        found = real(survey, wish)
        changes = {change.source: change for change in found.changes}
        data = changes[path].after if path in changes else (root / path).read_bytes()
        assert data and old in data
        changes[path] = FileChange(path, path, (root / path).read_bytes(), data.replace(old, new))
        return replace(found, changes=tuple(changes.values()))

    monkeypatch.setattr(renaming, "plan_values", plan)
    done = onomaxis("rename", root, "--id", "org.y.shed", "--name", "Shed", "--json")
    assert done.code == 4 and said in done.json["error"]["message"], done.out
    assert done.json["error"]["file"] == path and snapshot(root) == before
    monkeypatch.undo()
    assert onomaxis("rename", root, "--id", "org.y.shed", "--name", "Shed").code == 0


def test_files_are_read_again() -> None:
    """What parsed must parse, in every format; what did not parse before is left to its owner."""
    pairs = [
        ("a.json", b'{"a": "b"}', b'{"a": "b"'),
        ("a.json", b'{"a": "b"}', b'{a: "b"}'),
        ("app.json", b"{a: 'b'}", b"{a: 'b}"),
        ("a.plist", b"<plist><dict/></plist>", b"<plist><dict></plist>"),
        ("a.yaml", b"a: b\n", b"a: [b\n"),
        ("a.toml", b"a = 1\n", b"a = \n"),
        ("a.pbxproj", b"{a = b;}", b"{a = ;}"),
        ("a.strings", b'"a" = "b";', b'"a" = "b;'),
        ("a.kt", b"fun a() {}", b"fun a() {"),
        ("a.swift", b'let a = "b"\n}', b'let a = "b\n}}'),
        ("a.kt", b"val a = listOf(f { 1 })", b"val a = listOf(f { 1 )}"),
        ("a.groovy", b"a = [\n  'b'\n]", b"a = [\n  'b']\n]"),
        (
            "b.pbxproj",
            b"{objects = {A = {b = %s;}; %s = {};};}" % (OBJECT, OBJECT),
            b"{objects = {A = {b = %s;}; %s = {};\n %s = {};};}" % (OBJECT, OBJECT, OBJECT),
        ),
        ("b.pbxproj", b"{objects = {A = {b = %s;}; %s = {};};}" % (OBJECT, OBJECT), b"{objects = {A = {b = %s;};\n};}" % OBJECT),
        ("a.ts", b"type Brand = { name: string }\nconst a = { name: 'b' }", b"type Brand = { name: string,\n oak: 1 }\nconst a = { name: 'b' }"),
        ("a.tsx", b"interface Brand<T> extends A {\n a: {} }", b"interface Brand<T> extends A {\n a: {}, b: 1\n}"),
        ("a.xml", "<a>ü</a>".encode(), "<a>ü</a>".encode("latin-1")),
    ]
    for path, good, bad in pairs:
        prove_files([FileChange(path, path, good, good + b"\n")])
        with pytest.raises(FaultError):
            prove_files([FileChange(path, path, good, bad)])
        prove_files([FileChange(path, path, bad, bad + b"\n")])  # it was so already


def test_the_last_letter_of_an_encoding_may_go() -> None:
    """A file whose only letter beyond ASCII stood in the text that was replaced has not changed its encoding."""
    prove_files([FileChange("a.properties", "a.properties", "a=Zo\xeb\n".encode("latin-1"), b"a=Barn\n")])
    with pytest.raises(FaultError, match="encoding would change"):
        prove_files([FileChange("a.properties", "a.properties", "a=Zo\xeb\n".encode("latin-1"), "a=B\xe4rn\n".encode())])


def test_bytes_outside_the_edits() -> None:
    """A result that differs anywhere but in its edits is refused, by another reckoning than the one that makes it."""
    edits = [Edit("f", 2, 4, b"xyz"), Edit("f", 6, 6, b"!")]
    assert apply_edits("f", b"0123456789", edits) == b"01xyz45!6789"
    for wrong in (b"01xyz45!678", b"01xyz45!67890", b"11xyz45!6789", b"01xyz46!6789", b"01xyZ45!6789", b"01xyz45!6788"):
        with pytest.raises(FaultError):
            _prove_rest("f", b"0123456789", wrong, edits)
    with pytest.raises(FaultError):
        apply_edits("f", b"0123", [Edit("f", 2, 9, b"x")])
    with pytest.raises(RefusedError):
        apply_edits("f", b"0123", [Edit("f", 0, 2, b"x"), Edit("f", 1, 3, b"y")])


FLAVORED = (
    GROOVY.split("    flavorDimensions")[0]
    + """    flavorDimensions 'b', 'c'
    productFlavors {
        free { dimension 'b'; applicationIdSuffix '.free'; versionNameSuffix '-f' }
        paid { dimension 'b'; applicationId 'org.paid'; versionCode 99 }
        dev { dimension 'c'; applicationIdSuffix '.dev' }
        prod { dimension 'c' }
    }
}
"""
)
OWN = {
    "app/src/free/res/values/strings.xml": '<resources><string name="app_name">Lend Free</string></resources>\n',
    "app/src/main/res/values-de/strings.xml": '<resources><string name="app_name">Leih</string></resources>\n',
    "app/src/free/java/org/x/app/Free.kt": "package org.x.app\n\nclass Free\n",
}
RIGHT = [
    ["--id", "org.x.app.sub"],
    ["--id", "org.x"],
    ["--id", "org.xx.app"],
    ["--id", "a.b.c.d"],
    ["--id", "q.r", "--keep-code"],
    ["--code-package", "q.r.s"],
    ["--flavor", "free", "--name", "FF"],
    ["--flavor", "paid", "--id", "com.paid"],
    ["--flavor", "paid", "--build", "1234"],
    ["--name", "Zed"],
    ["--name", "Zed", "--locale-name", "de=Zett"],
    ["--locale-name", "fr=Zut"],
    ["--version", "5.5"],
    ["--build", "55"],
    ["--id", "q.r", "--name", "Zed", "--version", "2.0", "--build", "8", "--prose", "--services", "rewrite"],
]


@pytest.mark.parametrize("words", RIGHT, ids=" ".join)
@pytest.mark.parametrize("stated", [True, False], ids=["an ID of its own", "from the namespace"])
def test_right_plans_pass(tmp_path: Path, words: list[str], stated: bool) -> None:
    """Flavors in two dimensions, suffixes, IDs of their own: the proof does not object, and a second run is empty."""
    script = FLAVORED if stated else FLAVORED.replace("        applicationId 'org.x.app'\n", "", 1)
    root = files(tmp_path / "t", {**CONTENTS, **OWN, "app/build.gradle": script})
    before = snapshot(root)
    done = onomaxis("rename", root, *words, "--json")
    assert done.code == 0, done.out
    assert onomaxis("rename", root, *words, "--json").json["files"] == []
    assert onomaxis("undo", root, "--quiet").code == 0 and snapshot(root) == before


# -- the other commands: a stage that goes wrong by hand


IDENTITY = """format = 1

[app]
id = "org.lendspan.app"
name = "Lendspan"
version = "1.3"
build = "8"

[flavors.alderbank]
id-suffix = ".alderbank"
name = "Alderbank Tools"
"""
SCRIPT = "app/build.gradle.kts"
LAUNCHERS = {
    "app/src/main/AndroidManifest.xml": CONTENTS["app/src/main/AndroidManifest.xml"].replace(
        'label="@string/app_name"', 'label="@string/app_name" android:icon="@mipmap/ic_launcher"'
    ),
    **{f"app/src/main/res/mipmap-{density}/ic_launcher.png": b"\x89PNG" for density in ("mdpi", "hdpi")},
}


def changed(path: str, old: str, new: str) -> Callable[[Stages], None]:
    """Return what edits one file of the tree that a command leads to, beside what it means to do."""

    def spoil(stages: Stages) -> None:
        data = stages.tree.read(path) or b""
        assert old.encode() in data, (path, old)
        stages.add([FileChange(path, path, data, data.replace(old.encode(), new.encode(), 1))])

    return spoil


# Command line, where the stage is spoiled, how, and what is said of it.
SPOILED = [
    ("stamp", "onomaxis.brands.stamp._services", changed(SCRIPT, '"org.lendspan.mossgate"', '"org.lendspan.moss"'), "the ID of android app mossgate"),
    (
        "stamp --flavor alderbank",
        "onomaxis.brands.stamp._services",
        changed(SCRIPT, 'versionName = "1.2"', 'versionName = "1.9"'),
        "the version of android app mossgate",
    ),
    ("stamp", "onomaxis.brands.stamp._services", changed("app/src/main/res/values/strings.xml", ">Lendspan<", ">Lendspa<"), "the name"),
    ("stamp", "onomaxis.brands.stamp._services", changed("ios/App/Info.plist", "</dict>", "</dic>"), "no longer be read"),
    ("stamp", "onomaxis.brands.stamp._services", changed(SCRIPT, 'create("mossgate")', 'create("moss")'), "no longer be built"),
    (
        "flavor add oakhollow",
        "onomaxis.brands.flavors.put_services",
        changed(SCRIPT, '"org.lendspan.mossgate"', '"org.lendspan.moss"'),
        "the ID of android app mossgate",
    ),
    ("flavor add oakhollow", "onomaxis.brands.flavors.put_services", changed(SCRIPT, "versionCode = 7", "versionCode = 70"), "the build number"),
    ("flavor add oakhollow", "onomaxis.brands.flavors.put_services", changed(SCRIPT, 'create("mossgate")', 'create("moss")'), "no longer be built"),
    ("flavor add oakhollow", "onomaxis.brands.flavors.put_services", changed(SCRIPT, "versionCode = 7", "versionCode = 7 }"), "brackets"),
    ("stamp --flavor alderbank", "onomaxis.brands.stamp._services", changed(SCRIPT, "https://moss", "https://moos"), "server of mossgate would read otherwise"),
    *(
        (words, stage, changed(f"app/src/{path}", "mossgate", "alderbank"), said)
        for words, stage in (("stamp --flavor alderbank", "onomaxis.brands.stamp._services"), ("flavor add oakhollow", "onomaxis.brands.flavors.put_services"))
        for path, said in (("mossgate/google-services.json", "mossgate's would change"), ("mossgate/res/raw/logo.png", "mossgate's would change"))
    ),
]
SERVER = '[values.server]\nplaces = [{ build-field = "SERVER" }]\n[flavors.mossgate]\nid = "org.lendspan.mossgate"\n[flavors.mossgate.values]\nserver = "https://moss"\n[flavors.alderbank.values]\nserver = "https://alder"\n'


def shop() -> dict[str, str | bytes]:
    """A project with a value, a service file and a picture of one flavor's own."""
    found = project()
    own = 'dimension = "brand"\n            buildConfigField("String", "SERVER", "\\"https://'
    script = (
        found[SCRIPT]
        .replace('dimension = "brand"', own + 'alder\\"")', 1)
        .replace('dimension = "brand"\n            applicationId =', own + 'moss\\"")\n            applicationId =')
    )
    more = {f"app/src/mossgate/{name}": f"mossgate {name}" for name in ("google-services.json", "res/raw/logo.png")}
    return {**found, SCRIPT: script, **more, "onomaxis.toml": IDENTITY + SERVER}


@pytest.mark.parametrize(("words", "stage", "spoil", "said"), SPOILED)
def test_a_wrong_stage_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, words: str, stage: str, spoil: Callable[[Stages], None], said: str) -> None:
    """Stamping and adding flavors are read again as renaming is: another app, flavor or facet that differs ends it."""
    root = files(tmp_path / "t", shop())
    before = snapshot(root)
    module, _, name = stage.rpartition(".")
    real = getattr(importlib.import_module(module), name)
    line = [*words.split(), root, "--json"] if words.startswith("flavor") else [words.split()[0], root, *words.split()[1:], "--json"]

    def after(stages: Stages, *rest: object, **named: object) -> None:
        real(stages, *rest, **named)
        spoil(stages)

    monkeypatch.setattr(stage, after)
    done = onomaxis(*line)
    assert done.code == 4 and said in done.json["error"]["message"], done.out
    assert done.json["error"]["file"] and done.json["error"]["line"] and snapshot(root) == before
    monkeypatch.undo()
    done = onomaxis(*line)
    assert done.code == 0, done.out


def test_a_flavor_that_takes_another_with_it(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A retirement that would cut another flavor out as well is refused, at the project that would ship it no more."""
    root = files(tmp_path / "t", project())
    before = snapshot(root)
    real = AndroidKind.retire_flavor

    def both(kind: AndroidKind, found: Project, tree: Tree, flavor: Flavor) -> Draft:
        draft = real(kind, found, tree, flavor)
        draft.join(real(kind, found, tree, flavor._replace(name="mossgate")))
        return draft

    monkeypatch.setattr(AndroidKind, "retire_flavor", both)
    done = onomaxis("flavor", "retire", "alderbank", root, "--json")
    assert done.code == 4 and "android app mossgate would no longer be built" in done.json["error"]["message"]
    assert snapshot(root) == before


def test_a_flavor_whose_name_holds_the_retired_one(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Retiring “bank” does not let “alderbank” go with it unseen."""
    script = project()[SCRIPT].replace('create("mossgate")', 'create("bank")')
    root = files(
        tmp_path / "t",
        {"settings.gradle.kts": project()["settings.gradle.kts"], SCRIPT: script, **{p: c for p, c in project().items() if p.startswith("app/src")}},
    )
    before = snapshot(root)
    real = AndroidKind.retire_flavor

    def both(kind: AndroidKind, found: Project, tree: Tree, flavor: Flavor) -> Draft:
        draft = real(kind, found, tree, flavor)
        draft.join(real(kind, found, tree, flavor._replace(name="alderbank")))
        return draft

    monkeypatch.setattr(AndroidKind, "retire_flavor", both)
    done = onomaxis("flavor", "retire", "bank", root, "--json")
    assert done.code == 4 and "alderbank would no longer be built" in done.json["error"]["message"], done.out
    assert snapshot(root) == before
    monkeypatch.undo()
    assert onomaxis("flavor", "retire", "bank", root, "--json").code == 0


def _lost(out: Output) -> None:
    path = next(iter(out.written))
    del out.written[path]


def _renamed(out: Output) -> None:
    out.edits.clear()


def _strayed(out: Output) -> None:
    out.written["app/src/main/res/values/strings.xml"] = b'<resources><string name="app_name">Icons</string></resources>'


@pytest.mark.parametrize(
    ("spoil", "said"), [(_lost, "a picture of the set would be missing"), (_renamed, "would not be called badge"), (_strayed, "the name of")]
)
@pytest.mark.pictures
def test_icons_are_read_again(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, spoil: Callable[[Output], None], said: str) -> None:
    """A picture that is missing, a reference that names the old icon, another name for the app: refused, code 4."""
    root = files(tmp_path / "t", {**CONTENTS, **LAUNCHERS})
    before = snapshot(root)
    real = Output.draw

    def draw(out: Output, *rest: object) -> None:
        real(out, *rest)
        spoil(out)

    line = ["icons", root, "--art", str(ART / "ladder.svg"), "--icon-name", "badge", "--json"]
    monkeypatch.setattr(Output, "draw", draw)
    done = onomaxis(*line)
    assert done.code == 4 and said in done.json["error"]["message"], done.out
    assert done.json["error"]["file"] and snapshot(root) == before
    monkeypatch.undo()
    done = onomaxis(*line)
    assert done.code == 0 and onomaxis(*line).json["changed"] == [], done.out


def test_a_technical_rename_is_planned_twice(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A second plan from the result of a technical rename is made for the new names, and must be empty."""
    contents = spelled("react-native", "org.x.shed", "Shed", "1.2", "7")
    root = files(tmp_path / "t", contents)
    real, calls = renaming.plan_technical, []

    def plan(tree: Tree, found: Plan, name: str) -> Plan:
        calls.append(name)
        made = real(tree, found, name)
        if len(calls) == 2:
            path = next(path for path in tree.files if path.endswith("AndroidManifest.xml"))
            data = tree.read(path) or b""
            return replace(made, changes=(*made.changes, FileChange(path, path, data, data + b"\n")))
        return made

    monkeypatch.setattr(renaming, "plan_technical", plan)
    done = onomaxis("rename", root, "--project-name", "Barn", "--json")
    assert done.code == 4 and "would change this file again" in done.json["error"]["message"] and len(calls) == 2, done.out
    monkeypatch.undo()
    assert onomaxis("rename", root, "--project-name", "Barn", "--json").code == 0


def test_a_second_plan_must_be_empty() -> None:
    """What the same wish would change once more is a fault, with file and line; a plan that cannot be made says nothing."""
    tree = Tree.of({path: text.encode() for path, text in spelled("flutter", "org.x.shed", "Shed", "1.2", "7").items()})
    survey = take_survey(tree)
    plan = renaming.plan_rename(survey, Wish(name="Barn"))
    later = applied(tree, plan.changes)
    prove_stable(survey, later, plan, lambda survey, targets: plan._replace(changes=()) if hasattr(plan, "_replace") else replace(plan, changes=()))
    with pytest.raises(FaultError, match="again") as raised:
        prove_stable(survey, later, plan, lambda survey, targets: plan)
    assert raised.value.file and raised.value.line

    def refused(survey: object, targets: object) -> Plan:
        raise RefusedError("no")

    prove_stable(survey, later, plan, refused)
