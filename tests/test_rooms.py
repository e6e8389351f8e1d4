"""The rooms of the core by themselves, on trees in memory: targets, drafts, stages, templates, ledger, residue, safety."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import memory
from onomaxis.brands.ledger import COLUMNS, Published, read_ledger, written
from onomaxis.brands.publishing import grown
from onomaxis.checks.families import FAMILIES
from onomaxis.checks.finding import SEVERITIES, Rule, all_rules
from onomaxis.checks.packaged import PACKAGE_RULES
from onomaxis.checks.registry import Check, check, every_check, every_rule
from onomaxis.errors import FaultError, InputError, RefusedError
from onomaxis.formats.source import remembered
from onomaxis.icons.safety import MAXIMUM_PIXELS, check_size, check_svg
from onomaxis.identity.schema import json_schema, nearest
from onomaxis.identity.table import cell_of, cell_said
from onomaxis.identity.templates import Patience, check_value, fill
from onomaxis.model import Edit, Facet, Move, Note
from onomaxis.projects.draft import Draft
from onomaxis.projects.kind import Kind
from onomaxis.projects.launch import LaunchWish
from onomaxis.projects.project import Flavor, Project
from onomaxis.rename.targets import targets_of
from onomaxis.surveys.residue import find_residue
from onomaxis.surveys.survey import read_projects, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Renaming, Wish
from onomaxis.writing.change import FileChange, applied, followed_by
from onomaxis.writing.changeset import Changeset
from onomaxis.writing.planned import changeset_of, places
from onomaxis.writing.proof import fault, prove_apps, prove_nothing_left

GROOVY = """apply plugin: 'com.android.application'
android {
    namespace 'org.x.app'
    defaultConfig {
        applicationId 'org.x.app'
        versionCode 7
        versionName '1.2'
    }
    flavorDimensions 'd'
    productFlavors {
        free { dimension 'd'; applicationIdSuffix '.free' }
        other { dimension 'd'; applicationId 'org.other' }
    }
}
"""
ANDROID = {
    "settings.gradle": "include ':app'\n",
    "app/build.gradle": GROOVY,
    "app/src/main/AndroidManifest.xml": '<manifest xmlns:android="http://schemas.android.com/apk/res/android">'
    '<application android:label="@string/app_name"/></manifest>\n',
    "app/src/main/res/values/strings.xml": '<resources>\n    <string name="app_name">Lend</string>\n</resources>\n',
    "app/src/main/java/org/x/app/Main.kt": "package org.x.app\n\n// org.x.app in a comment\nclass Main\n",
}
BARE = {**ANDROID, "app/build.gradle": GROOVY.split("    flavorDimensions")[0] + "}\n"}


# -- a tree in memory


# -- a wish, turned once into targets

# Wish; for each platform: the ID wished, identifiers old and new, values old and new.
WISHES = [
    (Wish(android_id="org.y"), [("org.y", {("org.x.app", "org.y")}, [])]),
    (Wish(android_id="org.x.app"), [("org.x.app", set(), [])]),
    (Wish(android_id="org.y", keep_code=True), [("org.y", {("org.x.app", "org.y")}, [])]),
    (Wish(code_package="q.r"), [("", {("org.x.app", "q.r")}, [])]),
    (Wish(name="Shed"), [("", set(), [("Lend", "Shed")])]),
    (Wish(name="Shed", version="3.0", build="9"), [("", set(), [("Lend", "Shed"), ("1.2", "3.0"), ("7", "9")])]),
    (Wish(flavor="other", android_id="org.z"), [("org.z", {("org.other", "org.z")}, [])]),
    (Wish(flavor="other", version="9"), [("", set(), [("1.2", "9")])]),
]  # One Android app: one target.


@pytest.mark.parametrize(("wish", "wanted"), WISHES)
def test_targets(wish: Wish, wanted: list[tuple[str, set[tuple[str, str]], list[tuple[str, str]]]]) -> None:
    """For each project that is meant: what becomes what, worked out once."""
    found = targets_of(take_survey(memory(ANDROID)), wish)
    said = [(target.aim.id, {(item.old, item.new) for item in target.renamings}, [(item.old, item.new) for item in target.values]) for target in found]
    assert said == wanted
    assert all(target.modules == {"app"} and target.umbrella is None for target in found)


# Wish, the error, what it says.
REFUSED = [
    (Wish(android_id="x"), InputError, "two or more"), (Wish(name=""), InputError, "empty"),
    (Wish(name="X", flavor="none"), InputError, "no flavor"), (Wish(name="X", app="none"), InputError, "no app"),
    (Wish(ios_id="org.y"), InputError, "no iOS app"), (Wish(build="0"), InputError, "version code"),
    (Wish(code_package="org.in.x"), InputError, "Kotlin"),
]  # fmt: skip


@pytest.mark.parametrize(("wish", "error", "said"), REFUSED)
def test_targets_that_there_are_not(wish: Wish, error: type[InputError], said: str) -> None:
    """What a wish may not ask for is said before anything is planned."""
    with pytest.raises(error, match=said):
        targets_of(take_survey(memory(ANDROID)), wish)


# -- drafts and stages


def test_drafts_are_joined() -> None:
    """Everything adds up in order; one file that two make holds what both put into it, or is refused."""
    strings = b'<resources>\n    <string name="%s">x</string>\n</resources>\n'
    one = Draft([Edit("a", 0, 1, b"x")], [Move("m", "n")], [("r.xml", strings % b"a"), ("f", b"1")], {"w": b"1"}, ["gone"], [], [Note("a", "b")])
    other = Draft([Edit("a", 2, 3, b"y")], [], [("r.xml", strings % b"b"), ("f", b"1")], {"w": b"2"}, [], [], [Note("c", "d")])
    whole = Draft()
    for draft in (one, other):
        whole.join(draft)
    assert [edit.start for edit in whole.edits] == [0, 2] and whole.written == {"w": b"2"} and whole.removed == ["gone"]
    assert dict(whole.created)["r.xml"].count(b"<string") == 2 and dict(whole.created)["r.xml"].endswith(b"</resources>\n")
    assert [str(note) for note in whole.notes] == ["a: b", "c: d"] and not whole.refusals
    whole.join(Draft(created=[("f", b"2")]))
    with pytest.raises(RefusedError, match="two changes make this new file") as raised:
        whole.refuse()
    assert raised.value.file == "f"
    assert places(one) == 1 and changeset_of(one).removed == ("gone",)


@given(st.lists(st.tuples(st.sampled_from("abcd"), st.binary(max_size=4)), max_size=12))
def test_changes_one_after_the_other_are_one(steps: list[tuple[str, bytes]]) -> None:
    """However often files are written and removed, the joined change leads to the same tree as the steps do."""
    first = tree = memory({"a": "1", "b": "2"})
    whole: tuple[FileChange, ...] = ()
    for path, data in steps:
        removed = (path,) if not data and tree.exists(path) else ()
        changes = Changeset(written=((path, data),) if data else (), removed=removed).resolve(tree)
        whole = followed_by(whole, changes)
        tree = applied(tree, changes)
    there = applied(first, whole)
    assert {path: there.read(path) for path in there.files} == {path: tree.read(path) for path in tree.files}


# -- combinations, and documents that are kept


def test_large_documents_are_not_kept() -> None:
    """What is small is read once; what is large is read anew, and its memory given back."""
    calls: list[int] = []

    @remembered(2, 4)
    def read(data: bytes, more: bool = False) -> int:
        calls.append(len(data))
        return len(data)

    assert [read(data) for data in (b"ab", b"ab", b"abcdef", b"abcdef")] == [2, 2, 6, 6] and calls == [2, 6, 6]
    assert read(b"ab", True) == 2 and calls[-1] == 2 and len(calls) == 4
    for data in (b"1", b"2", b"3"):
        read(data)
    assert len(calls) == 7 and read(b"ab") == 2 and len(calls) == 8


# -- the proof's own tools


def test_apps_compared() -> None:
    """Unchanged passes; another value, a lost app and a lost project do not, unless they are allowed."""
    before = read_projects(memory(ANDROID))
    prove_apps(before, read_projects(memory(dict(ANDROID))))
    for old, new, said in (
        ("'org.other'", "'org.else'", "the ID of android app other would be “org.else”"),
        ("free {", "gratis {", "android app free would no longer be built"),
    ):
        after = read_projects(memory({**ANDROID, "app/build.gradle": GROOVY.replace(old, new)}))
        with pytest.raises(FaultError, match=said):
            prove_apps(before, after)
        prove_apps(before, after, lambda project, app, seen: {"org.else", seen.old.text if seen.old else ""}, lambda project, app: True)
    with pytest.raises(FaultError, match="no longer be built"):
        prove_apps(before, [])
    with pytest.raises(FaultError, match="again") as raised:
        prove_nothing_left([FileChange("f", "f", b"a\nb\nc", b"a\nb\nd")])
    assert (raised.value.file, raised.value.line) == ("f", 3) and fault("f", 2, "x").exit_code == 4


# -- kinds, checks


def test_a_kind_says_only_what_it_knows() -> None:
    """Everything but finding has a default that changes nothing."""

    class Plain(Kind):
        name = "plain"

        def find(self, tree: Tree) -> list[Project]:
            return [Project("plain", "", "x", (), ())]

    kind, tree, flavor = Plain(), memory({}), Flavor("m", "f")
    project = kind.find(tree)[0]
    assert kind.index(project, {}) is project and kind.mentions(project, "", None, []) == []  # type: ignore[arg-type]
    for draft in (
        kind.prepare(project, tree, None),  # type: ignore[arg-type]
        kind.follow(project, tree, [], None),  # type: ignore[arg-type]
        kind.rename_project(project, tree, "n"),
        kind.own_facet(project, tree, flavor, Facet.DISPLAY_NAME, "n"),
        kind.add_flavor(project, tree, flavor, "", ""),
        kind.retire_flavor(project, tree, flavor),
    ):
        assert draft == Draft()
    assert kind.places(project, tree, "m") is None and not kind.facts(project, tree, flavor).keys
    launch = kind.launch(project, tree, flavor, LaunchWish())
    assert [note.text for note in launch.draft.notes] == ["no launch screen is read in a plain project"]


def test_checks_register_themselves() -> None:
    """Every rule stands once, in one family, with a severity and a source; a check is found where it is written."""
    rules, checks = every_rule(), every_check()
    assert {*rules, *PACKAGE_RULES} == set(all_rules().values()) and len(rules) > 60
    assert {rule.family for rule in all_rules().values()} == set(FAMILIES.values())
    for rule in all_rules().values():
        assert rule.severity in SEVERITIES and rule.title and rule.remedy and rule.source
    assert all(len({rule.family for rule in item.rules}) == 1 for item in checks)
    made = check(Rule("ID99", "note", "t", "r", "s", "f", "m"))(lambda context: iter(()))
    assert isinstance(made, Check) and made.family == "ids" and list(made(None)) == [] and made not in checks  # type: ignore[arg-type]


# -- identity file: templates, schema


@pytest.mark.parametrize(
    ("template", "known", "wanted"),
    [
        ("plain", {}, "plain"),
        ("{a}-{b}", {"a": "1", "b": "2"}, "1-2"),
        ("{{a}} {a}", {"a": "1"}, "{a} 1"),
        ("{a}", {}, None),
        ("{deep}", {"a": "1"}, "<1>"),
        ("{ring}", {}, None),
        ("{name-x}", {"name-x": "ü"}, "ü"),
        ("{}", {}, "{}"),
    ],
)
def test_templates(template: str, known: dict[str, str], wanted: str | None) -> None:
    """Values are filled in, braces stand for themselves when doubled, rings and gaps give nothing."""
    assert fill(template, known, {"deep": "<{a}>", "ring": "{wheel}", "wheel": "{ring}"}) == wanted


@pytest.mark.parametrize(
    ("kind", "right", "wrong"),
    [
        ("color", ["#7A3E2B", "#fff", "#FF7A3E2B"], ["7A3E2B", "#ggg", "red", ""]),
        ("url", ["https://x.org", "ftp://a/b"], ["x.org", "https://", "https://x .org", "//x", "http://[x"]),
        ("integer", ["0", "-3", "42"], ["", "1.0", "0x1", "１０a"]),
        ("number", ["0", "-3.5"], ["", "1.", ".5", "1e3"]),
        ("boolean", ["true", "false"], ["True", "1", ""]),
        ("dimension", ["16dp", "-1.5sp", "3mm"], ["16", "dp", "16 dp", "16em"]),
        ("text", ["", "anything"], []),
    ],
)
def test_types_of_values(kind: str, right: list[str], wrong: list[str]) -> None:
    """Each type takes what its platform takes, and says what is wrong with the rest."""
    assert all(check_value(kind, "", text) == "" for text in right)
    assert all(check_value(kind, "", text) for text in wrong)


def test_patterns_of_values() -> None:
    """A pattern must match the whole; what is none is refused."""
    assert check_value("text", "[a-z]+", "abc") == "" and "does not match" in check_value("text", "[a-z]+", "abc1")
    with pytest.raises(InputError, match="not a regular expression"):
        check_value("text", "(", "a")
    patience = Patience(0.2)  # all patterns of a file share their time
    with pytest.raises(InputError, match="takes too long"):
        for _ in range(100_000):
            check_value("text", "(a|b|ab)*c", "ab" * 12, patience)
    assert check_value("text", "[a-z]+", "abc", Patience()) == ""


def test_the_schema_and_its_words() -> None:
    """Every table that is referred to is defined; a typing error finds its word."""
    schema = json_schema()
    named = {part.split('"')[0] for part in str(schema).replace("'", '"').split('"#/$defs/')[1:]}
    assert named <= set(schema["$defs"]) and schema["additionalProperties"] is False
    assert nearest("flavour", ["flavor", "id"]) == "flavor" and nearest("zzz", ["flavor"]) == ""


FILE = """format = 1

[app]
id = "org.x.app"
name = "Lend"

[flavors.free]
id-suffix = ".gratis"

[flavors.other]
name = "Other"
id = "org.other"
"""


# -- the ledger

ROW = Published("2026-05-31", "android", "free", "org.x", "1.0", "7", "")


@given(st.text(st.characters(exclude_categories=["Cs"]), max_size=8) | st.from_regex(r"'{0,2}[=+@\t-].{0,4}", fullmatch=True))
def test_a_cell_is_never_a_formula(text: str) -> None:
    """What a spreadsheet would compute stands behind an apostrophe, and is read as it was."""
    cell = cell_of(text)
    assert cell_said(cell) == text and (not cell.startswith(("=", "+", "-", "@", "\t", "\r")) or re.fullmatch(r"[-+]?\d+([.,]\d+)*", cell))


@given(st.lists(st.builds(Published, st.dates().map(str), st.sampled_from(["android", "ios"]), st.text(st.characters(exclude_categories=["Cc", "Cs"]), max_size=8), st.text(st.characters(exclude_categories=["Cc", "Cs"]), max_size=8), st.just("1,\"0"), st.integers(0, 10**9).map(str), st.just(""), st.sampled_from(["", "sha256:" + "0a" * 32])), max_size=6))  # fmt: off
def test_a_ledger_is_read_as_it_was_written(rows: list[Published]) -> None:
    """Commas, quotes and any letters come back; rows added later stand after those that were there."""
    data = written(rows).encode()
    assert [row[:-1] for row in read_ledger("l", data)] == [row[:-1] for row in rows]
    more = read_ledger("l", grown(data.replace(b"\n", b"\r\n"), [ROW]))
    assert more[-1][:-1] == ROW[:-1] and len(more) == len(rows) + 1 and grown(None, [ROW]) == written([ROW]).encode()


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("2026-05-31,android,free,org.x,1.0,7,", "columns"),
        ("31.5.2026,android,free,org.x,1.0,7,,", "not a date"),
        ("2026-05-31,windows,free,org.x,1.0,7,,", "neither android nor ios"),
        ("2026-05-31,ios,free,org.x,1.0,x,,", "not a build number"),
        ("2026-05-31,ios,free,org.x,1.0,7,AB,", "fingerprint"),
    ],
)
def test_a_ledger_that_is_not_right(line: str, said: str) -> None:
    """The line is named, and what is wrong with it."""
    with pytest.raises(InputError, match=said) as raised:
        read_ledger("l.csv", f"{','.join(COLUMNS)}\n2026-05-31,android,,org.x,1.0,7,,\n{line}\n".encode())
    assert (raised.value.file, raised.value.line) == ("l.csv", 3)
    for data in (b"", b"a,b\n", b"\xff\xfe"):
        with pytest.raises(InputError):
            read_ledger("l.csv", data)


# -- residue


@pytest.mark.parametrize(
    ("path", "text", "reasons"),
    [
        ("a.kt", 'val a = "org.x.app"\n', ["nothing"]),
        ("a.kt", "// org.x.app\n", ["a comment"]),
        ("README.md", "org.x.app\n", ["a document"]),
        ("a.kt", 'val a = "my.org.x.app"\n', ["the end of a longer name"]),
        ("a.kt", "org.x.apple org_x_app\n", ["a symbol"]),
        ("a.pro", "-keep org/x/app/**\n", ["nothing"]),
        ("a.unknown", "org/x/app\n", ["a path"]),
        ("a.kt", "nothing here\n", []),
        ("a.txt", b"org.x.app \xff\n".decode("latin-1"), ["a document"]),
    ],
)
def test_what_still_stands_has_a_reason(path: str, text: str, reasons: list[str]) -> None:
    """Each sort of place is told apart; what is another word is none."""
    survey = take_survey(memory(BARE))
    renamings = [Renaming(Facet.APPLICATION_ID, "org.x.app", "q.r"), Renaming(Facet.CODE_PACKAGE, "org.x.app", "q.r")]
    found = find_residue(survey, {f"app/src/main/{path}": text.encode()}, renamings, ())
    assert len(found) >= len(reasons) and bool(found) == bool(reasons)
    for reason in reasons:
        assert reason == "nothing" or any(item.reason.startswith(reason) for item in found), found


# -- art that is not to be trusted

SVG = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">{}</svg>'
HOSTILE = [
    (SVG.format("<script>x</script>"), "not run"),
    (SVG.format("<foreignObject/>"), "not run"),
    (SVG.format('<image href="http://x/y.png"/>'), "not fetched"),
    (SVG.format('<image xlink:href="file:///etc/passwd"/>'), "not fetched"),
    (SVG.format('<rect fill="url(http://x#a)"/>'), "not fetched"),
    (SVG.format("<style>@import 'x.css';</style>"), "not fetched"),
    (SVG.format("<style>a{fill:url( 'http://x#a' )}</style>"), "not fetched"),
    (SVG.format('<g id="a"><use href="#a"/></g>'), "without end"),
    (SVG.format('<g id="a0"><rect/></g>' + "".join(f'<g id="a{n}">' + f'<use href="#a{n - 1}"/>' * 10 + "</g>" for n in range(1, 9))), "multiplies itself"),
    ('<!DOCTYPE svg [<!ENTITY a "b">]>' + SVG.format("&a;"), "entities"),
    ("<html/>", "not an SVG"),
    ("<svg", "svg|readable|well-formed|tag"),
]


@pytest.mark.parametrize(("text", "said"), HOSTILE)
def test_art_that_would_fetch_run_or_multiply(text: str, said: str) -> None:
    """It is refused before anything is drawn; the file is named."""
    with pytest.raises(InputError, match=said) as raised:
        check_svg("a.svg", text.encode())
    assert raised.value.file == "a.svg"


def test_art_that_is_harmless() -> None:
    """References within the file and pictures embedded in it are taken."""
    text = SVG.format('<defs><linearGradient id="g"/></defs><rect id="r" fill="url(#g)"/><use href="#r"/><image href="data:image/png;base64,AA"/>')
    assert check_svg("a.svg", text.encode()).name == "svg"
    check_size("a.png", 1, MAXIMUM_PIXELS)
    for width, height in ((0, 5), (5, 0), (MAXIMUM_PIXELS, 2), (-1, 5)):
        with pytest.raises(InputError, match="too many pixels"):
            check_size("a.png", width, height)
