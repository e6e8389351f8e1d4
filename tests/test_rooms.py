"""The rooms of the core by themselves, on trees in memory: targets, drafts, stages, templates, ledger, residue, safety."""

from __future__ import annotations

import io

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from conftest import memory
from hybrids import KINDS, spelled
from onomaxis.brands.ledger import COLUMNS, Published, build_number, mine, read_ledger, written
from onomaxis.brands.publishing import grown
from onomaxis.brands.subjects import differences, subjects
from onomaxis.checks.families import FAMILIES
from onomaxis.checks.finding import SEVERITIES, Rule
from onomaxis.checks.registry import Check, all_rules, check, every_check, every_rule
from onomaxis.errors import FaultError, InputError, RefusedError
from onomaxis.formats.source import remembered
from onomaxis.icons.encode import encoded_bytes, joined
from onomaxis.icons.headers import kind_of_bytes
from onomaxis.icons.safety import MAXIMUM_PIXELS, check_size, check_svg
from onomaxis.identity.file import read_identity
from onomaxis.identity.schema import NAME, json_schema, nearest
from onomaxis.identity.templates import check_value, fill, needed
from onomaxis.model import Edit, Facet, Line, Move, Note, made_of
from onomaxis.projects.draft import Draft
from onomaxis.projects.kind import Kind
from onomaxis.projects.launch import LaunchWish
from onomaxis.projects.occurrences import is_script_file, language_of
from onomaxis.projects.project import Flavor, Project
from onomaxis.rename.choice import platforms
from onomaxis.rename.plan import plan_values
from onomaxis.rename.targets import targets_of
from onomaxis.surveys.identity import identity_of
from onomaxis.surveys.residue import find_residue
from onomaxis.surveys.survey import read_projects, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Renaming, Wish
from onomaxis.writing.change import FileChange, applied, followed_by
from onomaxis.writing.changeset import Changeset
from onomaxis.writing.planned import Stages, changeset_of, places, with_notes
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


def test_a_tree_in_memory() -> None:
    """It lists, reads, searches and overlays as one on disk does; nothing is on disk."""
    tree = memory({"a/b.txt": "org.x", "c.txt": "org.y", "ä/ü.txt": "org.x".encode("utf-16")})
    assert tree.files == ("a/b.txt", "c.txt", "ä/ü.txt") and tree.exists("c.txt") and not tree.exists("d.txt")
    assert tree.read("c.txt") == b"org.y" and tree.read("d.txt") is None and not tree.root.exists()
    assert list(tree.below("a")) == ["a/b.txt"] and list(tree.named("b.txt")) == ["a/b.txt"]
    assert {path for path, _ in tree.holding({"org.x"})} == {"a/b.txt", "ä/ü.txt"}
    later = tree.overlay({"c.txt": b"new", "d.txt": b"d"}, ["a/b.txt"])
    assert later.files == ("c.txt", "d.txt", "ä/ü.txt") and later.read("c.txt") == b"new" and tree.read("c.txt") == b"org.y"


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_is_read_in_memory(kind: str) -> None:
    """No kind needs a disk: the same apps are found in the bytes alone."""
    survey = take_survey(memory(spelled(kind, "org.x.shed", "Shed", "1.2", "7")))
    assert {app.id.text for app in survey.apps if app.id} == {"org.x.shed"}
    assert {app.name.text for app in survey.apps if app.name} == {"Shed"}


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


@pytest.mark.parametrize(
    ("wish", "wanted"),
    [
        (Wish(), ()),
        (Wish(name="X"), ("android", "ios")),
        (Wish(android_id="a.b"), ("android",)),
        (Wish(ios_id="a.b"), ("ios",)),
        (Wish(team="ABCDE12345"), ("ios",)),
        (Wish(unify=True), ("ios",)),
        (Wish(code_package="a.b"), ("android",)),
        (Wish(project_name="X"), ("android", "ios")),
        (Wish(locale_names=(("de", "X"),)), ("android", "ios")),
    ],
)
def test_platforms_that_a_wish_speaks_of(wish: Wish, wanted: tuple[str, ...]) -> None:
    """Names and versions are everybody's; an ID is its platform's."""
    assert platforms(wish) == wanted


def test_a_plan_counts_what_it_does() -> None:
    """Places, files, moves and residue in memory; the plan of the result is empty."""
    survey = take_survey(memory(BARE))
    plan = plan_values(survey, Wish(android_id="org.y.shed", name="Shed"))
    assert (plan.edits, plan.empty, len([change for change in plan.changes if change.moved])) == (4, False, 1)
    assert [str(line) for line in plan.summary] == [
        "application ID: org.x.app → org.y.shed",
        "code package: org.x.app → org.y.shed",
        "display name: Lend → Shed",
    ]
    later = take_survey(applied(survey.tree, plan.changes))
    assert plan_values(later, Wish(android_id="org.y.shed", name="Shed")).empty
    assert later.apps[0].id is not None and later.apps[0].id.text == "org.y.shed"
    left = find_residue(survey, {"Main.kt": later.tree.read("app/src/main/java/org/y/shed/Main.kt") or b""}, plan.renamings, plan.names)
    assert [(item.line, item.loose) for item in left] == [(3, False)]


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


@pytest.mark.parametrize(
    ("at", "file", "line"),
    [("a/b.gradle:12", "a/b.gradle", 12), ("a/b", "a/b", 0), (".", ".", 0), ("--base x", "--base x", 0), ("a:b", "a:b", 0), (":3", ":3", 0)],
)
def test_a_note_knows_its_place(at: str, file: str, line: int) -> None:
    """A refusal's place is an error's file and line; what is about the whole project tells none."""
    note = Note(at, "why")
    assert (note.file, note.line, str(note)) == (file, line, "why" if at == "." else f"{at}: why")


def test_stages_follow_each_other() -> None:
    """Each stage starts from what those before lead to; together they are one change of each file."""
    stages = Stages(memory({"a": "one", "b": "b"}))
    stages.add_draft(Draft(edits=[Edit("a", 0, 3, b"two")], notes=[Note("a", "n")]))
    stages.add_draft(Draft(edits=[Edit("a", 0, 3, b"three")], notes=[Note("a", "n")]))
    stages.add_draft(Draft(written={"c": b"c"}, removed=["b"]))
    stages.say([Line("x", "y"), Line("x", "y")])
    planned = stages.planned("title")
    assert {(c.source, c.target, c.after) for c in planned.changes} == {("a", "a", b"three"), ("b", None, None), (None, "c", b"c")}
    assert (planned.edits, planned.notes, planned.summary) == (2, (Note("a", "n"),), (Line("x", "y"),))
    assert stages.tree.files == ("a", "c") and with_notes(planned, [Note("a", "n"), Note("z", "z")]).notes[1:] == (Note("z", "z"),)


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


@pytest.mark.parametrize(
    ("shipped", "known", "wanted"),
    [
        ("free", ["free", "paid"], {"free"}),
        ("Free", ["free"], {"free"}),
        ("freePlus", ["free", "plus", "dev"], {"free", "plus"}),
        ("surplus", ["plus", "surplus"], {"surplus"}),
        ("surplusDev", ["plus", "surplus", "dev"], {"surplus", "dev"}),
        ("freePlusDev", ["free", "freePlus", "plus", "dev"], {"freePlus", "dev"}),
        ("happy", ["app", "hap"], set()),
        ("", ["free"], set()),
        ("free", [], set()),
    ],
)
def test_what_a_combination_is_made_of(shipped: str, known: list[str], wanted: set[str]) -> None:
    """Whole names in a row, each but the first with a capital; a name that only holds another is not made of it."""
    assert made_of(shipped, known) == wanted


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


def test_what_all_apps_are_called_is_one_text() -> None:
    """It differs when any app's ID, name, version or number does, and only then."""
    one = identity_of(read_projects(memory(ANDROID)))
    assert one == identity_of(read_projects(memory(dict(ANDROID))))
    for old, new in (("'org.other'", "'org.else'"), ("'1.2'", "'1.3'"), ("versionCode 7", "versionCode 8")):
        assert identity_of(read_projects(memory({**ANDROID, "app/build.gradle": GROOVY.replace(old, new)}))) != one
    assert identity_of(read_projects(memory({**ANDROID, "app/src/main/java/org/x/app/Main.kt": "package org.x.app\n"}))) == one


def test_apps_compared() -> None:
    """Unchanged passes; another value, a lost app and a lost project do not, unless they are allowed."""
    before = read_projects(memory(ANDROID))
    prove_apps(before, read_projects(memory(dict(ANDROID))))
    for old, new, said in (
        ("'org.other'", "'org.else'", "the ID of android app other would be “org.else”"),
        ("free {", "gratis {", "android app free would ship no more"),
    ):
        after = read_projects(memory({**ANDROID, "app/build.gradle": GROOVY.replace(old, new)}))
        with pytest.raises(FaultError, match=said):
            prove_apps(before, after)
        prove_apps(before, after, lambda project, app, seen: {"org.else", seen.old.text if seen.old else ""}, lambda project, app: True)
    with pytest.raises(FaultError, match="ship no more"):
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
    assert len({rule.code for rule in all_rules()}) == len(all_rules()) > len(rules) > 60
    assert {rule.family for rule in all_rules()} == set(FAMILIES.values())
    for rule in all_rules():
        assert rule.severity in SEVERITIES and rule.title and rule.remedy and rule.source
    assert all(len({rule.family for rule in item.rules}) == 1 for item in checks)
    made = check(Rule("ID99", "note", "t", "r", "s"))(lambda context: iter(()))
    assert isinstance(made, Check) and made.family == "ids" and list(made(None)) == [] and made not in checks  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("path", "script"),
    [
        ("ios/Podfile", True),
        ("fastlane/Fastfile", True),
        ("Gymfile", True),
        ("Makefile", True),
        ("x/Dangerfile", True),
        ("file", False),
        ("profile", False),
        ("Podfile.lock", False),
        ("Profile.kt", False),
        ("README", False),
    ],
)
def test_scripts_are_known_by_their_form(path: str, script: bool) -> None:
    """A capital letter, no ending, “file”: whatever tool it drives."""
    assert is_script_file(path) == script and (not script or language_of(path) is not None)


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


def test_templates_say_what_they_need() -> None:
    assert needed("{a} {{b}} {c-d}{a}") == ["a", "c-d", "a"]


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
    with pytest.raises(InputError, match="no regular expression"):
        check_value("text", "(", "a")


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


def test_differences_are_told_with_their_line() -> None:
    """What a flavor is called today against what the file says of it."""
    file = read_identity(NAME, FILE.encode())
    subject = subjects(read_projects(memory(ANDROID)))[0]
    assert list(differences(subject, file.brand("", "android"), "")) == []
    found = [(d.key, d.today, d.wanted, d.line) for f in ("free", "other") for d in differences(subject, file.brand(f, "android"), f)]
    assert found == [("id", "org.x.app.free", "org.x.app.gratis", 8), ("name", "Lend", "Other", 11)]


# -- the ledger

ROW = Published("2026-05-31", "android", "free", "org.x", "1.0", "7", "")


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
        ("2026-05-31,android,free,org.x,1.0,7,", "cells"),
        ("31.5.2026,android,free,org.x,1.0,7,,", "no date"),
        ("2026-05-31,windows,free,org.x,1.0,7,,", "neither android nor ios"),
        ("2026-05-31,ios,free,org.x,1.0,x,,", "no build number"),
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


def test_numbers_and_rows_of_a_flavor() -> None:
    assert build_number("1.10.2") > build_number("1.9") and build_number("x") == build_number("1.") == ()
    rows = [ROW, ROW._replace(build="12", flavor="FREE"), ROW._replace(platform="ios"), ROW._replace(build="9")]
    assert [row.build for row in mine(rows, "android", "Free")] == ["7", "9", "12"]


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
    ("<html/>", "no SVG"),
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


@pytest.mark.parametrize("edges", [(16,), (16, 32, 48), (256, 16), (16, 24, 32, 48, 64, 256)])
def test_an_ico_holds_every_size(edges: tuple[int, ...]) -> None:
    """Each picture comes back at its size, with its own pixels."""
    import numpy as np

    pictures = [encoded_bytes(np.full((edge, edge, 4), edge % 251, dtype=np.uint8)) for edge in edges]
    with Image.open(io.BytesIO(joined(pictures, "ico"))) as icon:
        assert icon.info["sizes"] == {(edge, edge) for edge in edges}
        for edge in edges:
            assert icon.ico.getimage((edge, edge)).getpixel((0, 0)) == (edge % 251,) * 4
    assert kind_of_bytes(pictures[0]) == "png"
