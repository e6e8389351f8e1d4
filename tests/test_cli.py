"""The program as a user meets it: bad input, exit codes, JSON shapes, output on a pipe, architecture."""

from __future__ import annotations

import argparse
import ast
import io
import json
import os
import re
import shutil
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
import yaml

from conftest import THOROUGH, Templates, commit_all, committed_demo, files, judge, onomaxis, snapshot
from onomaxis.cli.arguments import GROUPS, build_parser, parse
from onomaxis.cli.completion import SHELLS, apps, flavors, rules
from onomaxis.cli.guide import asked
from onomaxis.cli.progress import working
from onomaxis.demo import ART, KEYSTORE, PASSWORD, copy_demo
from onomaxis.demo.brandmaking import make_keystore
from onomaxis.surveys.survey import UNSTATED, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.workers import spread

SOURCE = Path(__file__).parent.parent / "src" / "onomaxis"
DOCS = Path(__file__).parent.parent / "docs"

# arguments of rename, exit code, what the message must say
BAD = [
    (["--id", "lendspan"], 2, "two or more"), (["--id", "org.lendspan.my-app"], 2, "--android-id"), (["--id", "org.lendspan.my_app"], 2, "--ios-id"),
    (["--android-id", "org.1lend"], 2, "begin with a letter"), (["--android-id", "org..lend"], 2, "segment"),
    (["--android-id", "org.lend."], 2, "segment"), (["--android-id", "org.länd"], 2, "letters"), (["--android-id", "../../etc"], 2, "segment"),
    (["--android-id", "org.lendspan.new"], 2, "Java"), (["--android-id", "org.lendspan.fun"], 2, "Kotlin"),
    (["--code-package", "org.in.x"], 2, "Kotlin"), (["--ios-id", "org.lendspan.a b"], 2, "bundle identifier"),
    (["--ios-id", "org/lendspan"], 2, "bundle identifier"), (["--android-id", "a." + "b" * 300], 2, "255"), (["--name", ""], 2, "empty"),
    (["--name", "a\nb"], 2, "control character"), (["--version", "1.2.3.4"], 2, "not a version for iOS"),
    (["--version", "1.0-beta"], 2, "not a version for iOS"), (["--build", "0"], 2, "version code"), (["--build", "1.2"], 2, "version code"),
    (["--build", "2100000001"], 2, "version code"), (["--locale-name", "de"], 2, "LOCALE=TEXT"), (["--locale-name", "d=X"], 2, "language tag"),
    (["--flavor", "none", "--name", "X"], 2, "no flavor"), (["--app", "none", "--name", "X"], 2, "no app"), ([], 2, "nothing to change"),
    (["--nonsense"], 2, "unrecognized"), (["--keep-code", "--code-package", "a.b"], 2, "not allowed"),
]  # fmt: skip


@pytest.fixture(scope="module")
def unchanged(tmp_path_factory: pytest.TempPathFactory, template: Templates) -> Path:
    """One copy of the demo for all that must not change it."""
    return Path(shutil.copytree(template("demo", committed_demo), tmp_path_factory.mktemp("demo") / "lendspan", symlinks=True))


@pytest.mark.parametrize(("words", "code", "message"), BAD)
def test_bad_input_is_a_message_and_changes_nothing(unchanged: Path, words: list[str], code: int, message: str) -> None:
    """One clear message on standard error, the right exit code, not a byte changed."""
    before = snapshot(unchanged)
    done = onomaxis("rename", unchanged, *words)
    assert (done.code, done.out) == (code, "") and message in done.err
    assert snapshot(unchanged) == before and not (unchanged / ".onomaxis").exists()


def test_folders_that_are_no_project(tmp_path: Path) -> None:
    """Nothing there, a file, an empty folder, a folder that cannot be written."""
    file = tmp_path / "file"
    file.write_text("x")
    for place, message in ((tmp_path / "nowhere", "no such folder"), (file, "not a folder"), (tmp_path, "no project of a known kind")):
        for command in (["survey"], ["rename", "--name", "X"]):
            done = onomaxis(command[0], place, *command[1:])
            assert done.code == 2 and message in done.err, done.err
    assert onomaxis("undo", tmp_path).code == 2 and onomaxis("history", tmp_path).code == 0
    assert onomaxis("undo", tmp_path / "nowhere").code == 2


def test_broken_files_are_named_and_the_rest_is_surveyed(demo: Path) -> None:
    """A malformed file is reported with file and line; a change that depends on it is refused."""
    (demo / "android/app/src/main/res/values-de/strings.xml").write_text('<resources>\n<string name="app_name">x\n</resources>')
    found = onomaxis("survey", demo, "--json").json
    assert {app["platform"] for app in found["apps"]} == {"android", "ios"}
    fault = next(item for item in found["unresolved"] if item["facet"] == "file")
    assert (fault["file"], fault["line"]) == ("android/app/src/main/res/values-de/strings.xml", 3)
    for path, text, line in (
        ("android/app/src/main/AndroidManifest.xml", "<manifest>\n<application>\n</manifest>", 3),
        ("ios/Lendspan.xcodeproj/project.pbxproj", "// !$*UTF8*$!\n{ objects = {\n a = ; }; }", 3),
        ("ios/Lendspan/Info.plist", '<plist version="1.0">\n<dict>\n<key>A</key></plist>', 3),
    ):
        whole = (demo / path).read_bytes()
        (demo / path).write_text(text)
        faults = onomaxis("survey", demo, "--json").json["unresolved"]
        assert (path, line) in {(item["file"], item["line"]) for item in faults}
        done = onomaxis("rename", demo, "--id", "org.lendspan.shed", "--name", "X", "--allow-dirty")
        assert done.code == 3 and f"{path}:{line}" in done.err
        (demo / path).write_bytes(whole)


def test_unresolved_values_refuse_the_change_that_needs_them(small: Callable[..., Path]) -> None:
    """A value computed at build time is reported with its line; other facets can still be changed."""
    root = small(
        extra={
            "app/build.gradle": (
                "apply plugin: 'com.android.application'\nandroid {\n    namespace 'org.lendspan.app'\n    defaultConfig {\n"
                "        applicationId 'org.lendspan.app'\n        versionName \"git describe\".execute().text\n    }\n}\n"
            )
        }
    )
    found = onomaxis("survey", root, "--json").json
    assert found["apps"][0]["version"] is None
    assert [(u["facet"], u["file"], u["line"]) for u in found["unresolved"] if u["reason"] != UNSTATED] == [("version.name", "app/build.gradle", 6)]
    done = onomaxis("rename", root, "--version", "2.0")
    assert done.code == 3 and "app/build.gradle:6" in done.err
    assert onomaxis("rename", root, "--id", "org.lendspan.shed").code == 0


def test_the_diff_of_a_dry_run_applies(demo: Path, tmp_path: Path) -> None:
    """What --dry-run prints is a patch: applied with git it gives what the command itself writes."""
    words = ["--id", "org.lendspan.shed", "--name", "Shed", "--build", "9"]
    before = snapshot(demo)
    text = onomaxis("rename", demo, *words, "--dry-run").out
    assert snapshot(demo) == before
    other = shutil.copytree(demo, tmp_path / "other")
    done = subprocess.run(["git", "apply", "--unidiff-zero"], cwd=other, input=text.encode(), capture_output=True)
    assert done.returncode == 0, done.stderr
    onomaxis("rename", demo, *words)
    assert {k: v for k, v in snapshot(other).items() if k[-1] != "/"} == {k: v for k, v in snapshot(demo).items() if k[-1] != "/"}


def test_pipes_and_colour(demo: Path) -> None:
    """On a pipe there is no colour; messages go to standard error; --quiet leaves only results."""
    shown = onomaxis("survey", demo, "--all")
    assert "\x1b" not in shown.out and "org.lendspan.app.widget" in shown.out and shown.err == ""
    done = onomaxis("rename", demo, "--name", "Shed")
    assert "\x1b" not in done.out + done.err and "Done:" in done.out and "To change:" in done.err
    assert onomaxis("rename", demo, "--name", "Barn", "--quiet").err == ""
    same = onomaxis("rename", demo, "--name", "Barn")
    assert same.code == 0 and "Nothing to change" in same.err and same.out == ""


# CI shows the walk by itself (make demo).
if THOROUGH:

    @pytest.mark.journeys
    @pytest.mark.usefixtures("processors")
    def test_the_demo_walk(tmp_path: Path, branded: Path) -> None:
        """The demo runs in a new folder, ends as it began, and refuses a folder that holds something."""
        done = onomaxis("demo", tmp_path / "walk", "--all")
        assert (
            done.code == 0
            and "org.lendspan.toolshed" in done.out
            and done.out.count("was taken back") == 3
            and "build-used" in done.out
            and "2 of 2 packages accepted" in done.out
            and "packages and project say the same" in done.out
        )
        assert "SERVICE01" in done.out and "Nothing found" in done.out.partition("8. Is it right now?")[2]
        walked, was = snapshot(tmp_path / "walk"), snapshot(branded)
        made = {key for key in was if key.startswith(("keys/", "web/")) or "/.onomaxis" in key or key.startswith("counter/")}
        assert {k: v for k, v in walked.items() if k in was and k not in made} == {k: v for k, v in was.items() if k not in made}
        assert {k.split("/")[0] for k in walked} - {"packages", "stores"} == {k.split("/")[0] for k in was}
        assert onomaxis("demo", tmp_path / "walk").code == 2
        assert onomaxis("--version").out.startswith("onomaxis ")


def test_ignored_and_hostile_paths(tmp_path: Path) -> None:
    """Build output is left alone; paths in project files that lead outside are not followed."""
    outside = files(tmp_path / "outside", {"Info.plist": '<plist version="1.0"><dict/></plist>'})
    root = files(
        tmp_path / "p",
        {
            ".gitignore": "generated/\n",
            "settings.gradle": "include ':app'\n",
            "app/build.gradle": "apply plugin: 'com.android.application'\nandroid { namespace 'a.b'\n"
            "  sourceSets { main { manifest.srcFile '../../outside/AndroidManifest.xml' } }\n"
            "  defaultConfig { applicationId 'a.b'\n } }\n",
            "app/build/X.kt": "package a.b\n",
            "generated/Y.kt": "package a.b\n",
            "A.xcodeproj/project.pbxproj": "{ objects = { P = { isa = PBXProject; buildConfigurationList = L; targets = (T);"
            ' mainGroup = G; }; G = { isa = PBXGroup; path = ../../outside; sourceTree = "<group>"; };'
            " T = { isa = PBXNativeTarget; name = A; buildConfigurationList = L; productType ="
            ' "com.apple.product-type.application"; };'
            " L = { isa = XCConfigurationList; buildConfigurations = (C); }; C = { isa = XCBuildConfiguration; name = Release;"
            " buildSettings = { INFOPLIST_FILE = ../../../outside/Info.plist; PRODUCT_BUNDLE_IDENTIFIER = a.b; }; };"
            " }; rootObject = P; }",
        },
    )
    done = onomaxis("rename", root, "--id", "c.d", "--name", "X", "--json")
    assert (root / "app/build/X.kt").read_text() == (root / "generated/Y.kt").read_text() == "package a.b\n"
    assert (outside / "Info.plist").read_text() == '<plist version="1.0"><dict/></plist>'
    assert done.code in (0, 3)
    assert onomaxis("rename", root, "--id", "c.d").code == 0 and "a.b" not in (root / "app/build.gradle").read_text()


@pytest.mark.processes
def test_imports_only_go_down() -> None:
    """The floors of the architecture hold, and the core never prints."""
    linter = shutil.which("lint-imports") or str(Path(sys.executable).with_name("lint-imports"))
    done = subprocess.run([linter], cwd=SOURCE.parent.parent, capture_output=True, text=True, env={**os.environ})
    assert done.returncode == 0, done.stdout + done.stderr
    for path in SOURCE.rglob("*.py"):
        tree = ast.parse(path.read_text("utf-8"))
        calls = {node.func.id for node in ast.walk(tree) if isinstance(node, ast.Call) and isinstance(node.func, ast.Name)}
        assert "cli" in path.parts or not calls & {"print", "input"}, path


def test_examples_for_ci_run(small: Callable[..., Path]) -> None:
    """Every line of docs/ci.md that calls the program, and the hook's entry, on a project in which a branch spoils something."""
    root = small()
    commit_all(root)
    page = (DOCS / "ci.md").read_text("utf-8")
    blocks = [yaml.safe_load(block) for block in re.findall(r"```yaml\n(.*?)```", page, re.DOTALL)]
    hook = yaml.safe_load((DOCS.parent / ".pre-commit-hooks.yaml").read_text("utf-8"))
    assert len(blocks) == 4 and [item["id"] for item in blocks[-1]["repos"][0]["hooks"]] == [item["id"] for item in hook]
    words = {
        '"origin/$GITHUB_BASE_REF"': "HEAD",
        '"origin/$CI_MERGE_REQUEST_TARGET_BRANCH_NAME"': "HEAD",
        " --flavor ${{ matrix.brand }}": "",
        "--ledger-ref all": "--ledger-ref HEAD",
    }
    lines = [*re.findall(r"(?:run: |- |^    )(onomaxis [^\n]+)", page, re.MULTILINE), *(item["entry"] for item in hook)]
    assert len(lines) > 8
    ran = []
    for line in lines:
        for name, word in words.items():
            line = line.replace(name, word)
        ran.append(line.partition(" > ")[0].removesuffix(" || true").split()[1:])
    (root / "onomaxis.toml").write_text("format = 1\n[app]\nname = 'Other'\n")
    (root / "onomaxis.ledger.csv").write_text("date,platform,flavor,id,version,build,fingerprint\n")
    commit_all(root)
    done = [(line, onomaxis(*line, cwd=root)) for line in ran]
    assert [line for line, result in done if result.code not in (0, 1)] == []
    (root / "onomaxis.toml").write_text("format = 1\n[app]\nname = 'Yet another | @you'\n")
    table = onomaxis("check", "--since", "HEAD", "--as", "markdown", cwd=root)
    assert table.code == 1 and "| error | NAME0" in table.out and "\\| @\u200byou" in table.out, table.out


@pytest.mark.processes
def test_documented_shapes_match_the_program(demo: Path) -> None:
    """Every key that docs/json.md names exists in the output, and every command is in the README."""
    docs = SOURCE.parent.parent / "docs" / "json.md"
    blocks = re.findall(r"```json\n(.*?)```", docs.read_text("utf-8"), re.DOTALL)
    store = demo.parent / KEYSTORE
    make_keystore(store)
    art = ["--foreground", ART / "ladder-foreground.svg", "--background", "#2E6B4F"]
    documents = [
        onomaxis(*words, "--json", env={"P": PASSWORD}).json
        for words in (
            ("survey", demo),
            ("survey", demo, "--since", "HEAD"),
            ("rename", demo, "--name", "X"),
            ("icons", demo, *art),
            ("check", demo),
            ("inspect", SOURCE / "demo/packages/alderbank-41.ipa"),
            ("rehearse", SOURCE / "demo/packages/alderbank-41.ipa", "--state", demo.parent / "stores"),
            ("adopt", demo),
            ("flavor", "list", demo),
            ("flavor", "show", "alderbank", demo),
            ("stamp", demo, "--flavor", "alderbank", "--into", demo.parent / "copies"),
            ("report", demo, "--out", demo.parent / "page.html"),
            ("fingerprint", store, demo, "--password-env", "P"),
            ("ledger", "list", demo),
            ("proof", demo, "--out", demo.parent / "p.png"),
            ("history", demo),
            ("undo", demo),
            ("survey", demo / "gone"),
        )
    ]
    assert len(blocks) == len(documents)
    for block, document in zip(blocks, documents, strict=True):
        assert list(json.loads(block)) == list(document)
    readme = (SOURCE.parent.parent / "README.md").read_text("utf-8")
    for command in (
        "survey",
        "rename",
        "icons",
        "proof",
        "check",
        "undo",
        "history",
        "demo",
        "adopt",
        "stamp",
        "flavor",
        "fingerprint",
        "ledger",
        "inspect",
        "rehearse",
        "standins",
    ):
        assert f"onomaxis {command}" in readme
    reference = SOURCE.parent.parent / "tools/reference.py"
    assert subprocess.run([sys.executable, reference, "--check"], check=False).returncode == 0


def test_the_pictures_that_ship_compile(tmp_path: Path) -> None:
    """The demo's pictures compile as resources."""
    subprocess.run(
        [judge("aapt2"), "compile", "--dir", SOURCE / "demo/lendspan/android/app/src/main/res", "-o", tmp_path / "out.zip"], check=True, capture_output=True
    )


WRONG = [
    (["--json"], 2, "usage"), (["nothing", "--json"], 2, "usage"), (["survey", "--json", "--wrong"], 2, "usage"),
    (["check", "--as", "json", "--only", "nothing"], 2, "usage"), (["survey", "GONE", "--json"], 2, "input"),
    (["check", "GONE", "--json"], 2, "input"), (["check", "GONE", "--as", "json"], 2, "input"), (["rename", "PROJECT", "--json"], 2, "input"),
    (["rename", "PROJECT", "--id", "x", "--json"], 2, "input"), (["rename", "PROJECT", "--name", "", "--json"], 2, "input"),
    (["rename", "RIGHT", "--id", "org.y", "--json", "--allow-dirty"], 0, ""), (["renumber", "PROJECT", "--json"], 2, "input"),
    (["renumber", "PROJECT", "--build", "no", "--json"], 2, "input"), (["icons", "PROJECT", "--json"], 2, "input"),
    (["icons", "PROJECT", "--art", "gone.png", "--json"], 2, "input"), (["proof", "PROJECT", "--out", "/nowhere/x.png", "--json"], 2, "input"),
    (["adopt", "EMPTY", "--json"], 2, "input"), (["stamp", "PROJECT", "--json"], 2, "input"), (["flavor", "list", "GONE", "--json"], 2, "input"),
    (["flavor", "add", "Oak", "PROJECT", "--json"], 2, "input"), (["flavor", "add", "oak", "PROJECT", "--json"], 3, "refused"),
    (["flavor", "retire", "oak", "PROJECT", "--json"], 2, "input"), (["fingerprint", "gone.jks", "PROJECT", "--json"], 2, "input"),
    (["ledger", "list", "GONE", "--json"], 2, "input"), (["ledger", "add", "EMPTY", "--json"], 2, "input"),
    (["undo", "PROJECT", "--json"], 2, "input"), (["undo", "GONE", "--json"], 2, "input"), (["history", "GONE", "--json"], 2, "input"),
    (["rename", "BROKEN", "--name", "X", "--json"], 3, "refused"), (["rename", "DIRTY", "--id", "org.y", "--json"], 3, "refused"),
    (["stamp", "WRONG", "--json"], 2, "input"),
]  # fmt: skip


@pytest.fixture(scope="module")
def places(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Folders to go wrong in, and one to go right in."""
    folder = tmp_path_factory.mktemp("places")
    script = "apply plugin: 'com.android.application'\nandroid {\n    namespace 'org.x'\n    defaultConfig { applicationId 'org.x' }\n}\n"
    for name, more in (
        ("project", {}),
        ("broken", {"app/src/main/AndroidManifest.xml": "<manifest"}),
        ("dirty", {}),
        ("wrong", {"onomaxis.toml": "format = 1\nwrong = 2\n"}),
        ("right", {}),
    ):
        contents = {"app/build.gradle": script, "settings.gradle": "include ':app'\n", "app/src/main/AndroidManifest.xml": "<manifest/>\n"}
        files(folder / name, {**contents, **more})
    (folder / "empty").mkdir()
    commit_all(folder / "dirty")
    (folder / "dirty/app/build.gradle").write_text(script + "\n")
    return folder


@pytest.mark.parametrize(("words", "code", "kind"), WRONG)
def test_an_error_is_a_document_too(places: Path, words: list[str], code: int, kind: str) -> None:
    """With --json every error of every command is one document, with the exit code it has without."""
    before = snapshot(places)
    line = [str(places / word.lower()) if word.isupper() else word for word in words]
    done = onomaxis(*line)
    assert done.code == code, done.out + done.err
    assert list(done.json) == (["format", "error"] if kind else list(done.json))
    if kind:
        error = done.json["error"]
        assert list(error) == ["kind", "message", "file", "line", "remedy", "exit"] and done.err == ""
        assert (error["kind"], error["exit"]) == (kind, code) and error["message"]
        assert snapshot(places) == before
        plain = onomaxis(*(word for word in line if word not in ("--json",)))
        assert plain.code == code or "--json" in words[:1]


def test_what_stops_a_command_is_a_document(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A no, an interrupt and a fault of our own too."""
    files(
        tmp_path,
        {
            "app/build.gradle": "apply plugin: 'com.android.application'\nandroid { defaultConfig { applicationId 'org.x' } }\n",
            "app/src/main/AndroidManifest.xml": "<manifest/>\n",
        },
    )
    rename = ["rename", tmp_path, "--id", "org.y", "--json"]
    for given, kind in (({"answer": "n\n"}, "stopped"), ({"answer": "maybe\n"}, "stopped"), ({}, "refused")):
        done = onomaxis(*rename, yes=False, **given)
        assert done.code == 3 and done.json["error"]["kind"] == kind
    for raised, code, kind in ((KeyboardInterrupt(), 3, "interrupted"), (ValueError("broken"), 4, "fault")):
        with monkeypatch.context() as patch:
            patch.setattr("onomaxis.cli.rename.plan_rename", lambda *_, raised=raised: (_ for _ in ()).throw(raised))
            done = onomaxis(*rename)
        assert (done.code, done.json["error"]["kind"]) == (code, kind)


def test_the_program_by_itself(demo: Path, tmp_path: Path) -> None:
    """In a project: what the app is called and three commands that fit; elsewhere the help."""
    done = onomaxis(cwd=demo)
    assert done.code == 0 and "org.lendspan.app" in done.out and done.out.count("onomaxis ") == 3
    plain = onomaxis(cwd=tmp_path)
    assert plain.code == 0 and "usage: onomaxis" in plain.out and "holds no mobile app" in plain.out
    assert "android" in done.out and "org.lendspan.app" in onomaxis(cwd=demo / "android/app/src").out


def test_only_problems_of_flavors(branded: Path, tmp_path: Path) -> None:
    """Holes and clashes are shown with their flavors alone; where there are none, that is said. Without an identity
    file nothing is missing in it."""
    done = onomaxis("flavor", "list", branded, "--only-problems", "--app", "org.lendspan.app")
    assert done.out.startswith("neighbourhood") and "Missing: lendspan (iOS)" in done.out and "alderbank" not in done.out
    shutil.copytree(branded / "counter", tmp_path / "counter")
    done = onomaxis("flavor", "list", tmp_path / "counter", "--only-problems")
    assert done.out == "No holes and no clashes in 3 flavors.\n"
    assert onomaxis("ledger", "list", branded, "--only-problems").code == 2


def test_what_a_rename_asks_for(demo: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Today's values are offered; an empty answer keeps them, another one is the wish."""
    survey = take_survey(Tree.open(demo))
    monkeypatch.setattr(sys, "stdin", io.StringIO("org.lendspan.toolshed\n\n2.5.0\n41\n"))
    wish = asked(survey, Wish())
    assert (wish.both_id, wish.name, wish.version, wish.build) == ("org.lendspan.toolshed", None, "2.5.0", "")


@pytest.mark.parametrize("shell", SHELLS)
def test_completion(shell: str, tmp_path: Path) -> None:
    """Each shell gets its lines; values are completed from the project, and nothing is said where there is none."""
    done = onomaxis("completion", shell)
    assert done.code == 0 and "onomaxis" in done.out
    assert rules("FLAVOR0") and flavors("", argparse.Namespace(project=str(tmp_path / "none"))) == []


def test_completed_values(demo: Path) -> None:
    """Flavors, modules and IDs of the project that the command line names."""
    line = argparse.Namespace(project=str(demo))
    assert {"alderbank", "plus"} <= set(flavors("", line)) and flavors("alder", line)[:1] == ["alderbank"]
    assert "org.lendspan.app" in apps("org.", line)


def parsers(parser: argparse.ArgumentParser) -> list[argparse.ArgumentParser]:
    inner = [action for action in parser._actions if isinstance(action, argparse._SubParsersAction)]
    return [parser, *(found for action in inner for below in action.choices.values() for found in parsers(below))]


def test_every_command_that_writes_tells_when_it_asks() -> None:
    """In its help, and in the words of the promise; the options that the rule names exist."""
    every = parsers(build_parser())
    known = {option for parser in every for option in parser._option_string_actions}
    writing = [parser for parser in every if "--yes" in parser._option_string_actions]
    assert len(writing) >= 9
    for parser in writing:
        text = " ".join(parser.format_help().split())
        assert "On a terminal it asks" in text and "a piped answer is read" in text, parser.prog
        assert set(re.findall(r"--[a-z-]+", parser.epilog or "")) <= known


def test_outputs_that_are_named_need_no_answer(tmp_path: Path) -> None:
    """The project is under no version control, and nobody is there: the page and the sheets are written, a version is not."""
    copy_demo(tmp_path / "shop")
    old = snapshot(tmp_path / "shop")
    done = onomaxis("report", tmp_path / "shop", "--out", tmp_path / "page.html", yes=False)
    assert done.code == 0 and (tmp_path / "page.html").exists()
    done = onomaxis("proof", tmp_path / "shop", "--sheet", "masks", "--flavor", "mossgate", "--out", tmp_path / "sheet.png", yes=False)
    assert done.code == 0 and list(tmp_path.glob("sheet*.png"))
    assert onomaxis("renumber", tmp_path / "shop", "--build", "99", yes=False).code == 3
    assert snapshot(tmp_path / "shop") == old


class Terminal(io.StringIO):
    """A stream that says it is a terminal, of some encoding."""

    encoding = "utf-8"

    def isatty(self) -> bool:
        return True


@pytest.mark.usefixtures("processors")
def test_signs_of_life(monkeypatch: pytest.MonkeyPatch) -> None:
    """After half a second, on a terminal, gone when done; helpers that are forked meanwhile hang on nothing."""
    seen, waited, shown = Terminal(), [], threading.Event()
    monkeypatch.setattr(sys, "stderr", seen)

    def wait(done: threading.Event, most: float) -> bool:
        waited.append(most)
        if len(waited) > 3:
            shown.set()  # there are signs: now the work may end
            return done.wait()
        return False

    def at_work(wait: Callable[[threading.Event, float], bool], **options: bool) -> Iterator[None]:
        return working(argparse.Namespace(**{"quiet": False, "json": False} | options), "Checking", wait)

    with at_work(lambda done, most: waited.append(most) or done.wait()):
        pass
    assert waited == [0.5] and not seen.getvalue()
    for silent in ("quiet", "json"):
        with at_work(lambda done, most: pytest.fail("nobody waits"), **{silent: True}):
            pass
    waited.clear()
    with at_work(wait):
        while not shown.is_set():
            assert spread([1, 2, 3], lambda number: number + 1) == [2, 3, 4]
    assert waited == [0.5, 0.1, 0.1, 0.1] and seen.getvalue() == f"\r- Checking …\r\\ Checking …\r| Checking …\r{' ' * 12}\r"
    seen.encoding = "ascii"
    waited.clear()
    shown.clear()
    with at_work(wait):
        shown.wait()
    assert "Checking ...\r" in seen.getvalue()


def test_the_manual_page_is_the_help() -> None:
    """docs/onomaxis.1 is made from the parser."""
    assert subprocess.run([sys.executable, SOURCE.parent.parent / "tools/manual.py", "--check"], check=False).returncode == 0


@pytest.mark.parametrize(
    ("stand", "named", "shown"), [("..", "lendspan", "lendspan/android/"), ("android/app", ".", "src/main/"), (".", ".", "android/app/src/main/")]
)
def test_places_are_told_from_where_one_stands(demo: Path, stand: str, named: str, shown: str) -> None:
    """As a path that can be opened from there: around the project, in it, and at its root; documents have the project's own."""
    here = (demo / stand).resolve()
    places = re.findall(r"[\w./-]+/strings\.xml:\d+", onomaxis("survey", named, "--origins", cwd=here).out)
    assert places and any(place.startswith(shown) for place in places)
    assert all((here / place.rpartition(":")[0]).exists() for place in places)
    mentions = onomaxis("survey", named, "--json", cwd=here).json["mentions"]
    assert any(item["file"].startswith(("app/src/main/", "android/app/src/main/")) for item in mentions)
    wrong = demo / "android/app/src/main/AndroidManifest.xml"
    wrong.write_text("<manifest")
    done = onomaxis("rename", named, "--name", "X", cwd=here)
    told = re.match(r"(?:onomaxis: .* is a part .*\n)?onomaxis: ([\w./-]+):\d+: ", done.err)
    assert done.code == 3 and told and (here / told[1]).exists(), done.err


LATE = [
    (["flavor", "add", "oak", "--id", "org.oak", "--name", "Oak", "HERE"], ["flavor", "add", "oak", "HERE", "--id", "org.oak", "--shown", "Oak"]),
    (["flavor", "show", "oak", "--json", "HERE"], ["flavor", "show", "oak", "HERE", "--json"]),
    (["flavor", "retire", "oak", "--dry-run", "HERE"], ["flavor", "retire", "oak", "HERE", "--dry-run"]),
    (["rename", "--id", "a.b", "HERE"], ["rename", "HERE", "--id", "a.b"]),
]


@pytest.mark.parametrize(("late", "early"), LATE, ids=[" ".join(words[:2]) for words, _ in LATE])
def test_a_project_may_stand_behind_the_options(late: list[str], early: list[str]) -> None:
    """One word that is left is the project, wherever it stands; both spellings of an option are one."""
    assert vars(parse(late)) == vars(parse(early)) and parse(late).project == "HERE"


@pytest.mark.parametrize("command", ["survey", "check", "proof", "rename", "renumber"])
def test_several_flavors_are_one_combination(command: str) -> None:
    """Where something is told of flavors, several are what they have in common; the same one twice is one."""
    assert parse([command, "--flavor", "oak", "--flavor", "staging", "--flavor", "OAKSTAGING"]).flavor == "OAKSTAGING"
    assert parse([command, "--flavor", "oak", "--flavor", "staging"]).flavor == "oakStaging"


MISSPELT = [
    (["renumber", "--build", "7", "--build", "+1"], "--build is given twice, as 7 and as +1", "usage: onomaxis renumber"),
    (["ledger", "add", "--date", "2026-01-01", "--date", "2026-01-02"], "--date is given twice", "usage: onomaxis ledger add"),
    (["rename", "--id", "a.b", "--id", "a.c"], "--id is given twice, as a.b and as a.c", "usage: onomaxis rename"),
    (["flavor", "add", "oak", "--name", "A", "--shown", "B"], "is given twice", "usage: onomaxis flavor add"),
    (["flavor", "add", "oak", "--shwn", "y"], "did you mean --shown", "usage: onomaxis flavor add"),
    (["check", "--flaver=x"], "did you mean --flavor", "usage: onomaxis check"),
    (["survey", ".", "x"], "unrecognized arguments: x", "usage: onomaxis survey"),
    (["flavor", "add", "oak", ".", "x"], "unrecognized arguments: x", "usage: onomaxis flavor add"),
    (["flavor", "add", "oak", "x", "y"], "unrecognized arguments: y", "usage: onomaxis flavor add"),
]


@pytest.mark.parametrize(("words", "said", "usage"), MISSPELT)
def test_what_a_command_does_not_take(words: list[str], said: str, usage: str) -> None:
    """The usage is the command's own, and the option that was meant is named."""
    done = onomaxis(*words)
    assert done.code == 2 and said in done.err and done.err.startswith(usage) and done.err.count("usage:") == 1


def test_the_help_shows_every_command_in_one_group() -> None:
    parser = build_parser()
    (inner,) = [action for action in parser._actions if isinstance(action, argparse._SubParsersAction)]
    listed = [name for names in GROUPS.values() for name in names]
    assert sorted(listed) == sorted(inner.choices) and len(set(listed)) == len(listed)
    text = parser.format_help()
    assert all(f"\n{title}:\n" in text for title in GROUPS) and all(re.search(rf"(?m)^  {name}\b", text) for name in listed)


@pytest.mark.parametrize("words", [["survey", "--plat", "ios"], ["rename", "--nam", "x"], ["flavor", "list", "--only"]])
def test_options_are_written_in_full(tmp_path: Path, words: list[str]) -> None:
    """A new option must not change what an old script means."""
    done = onomaxis(*words, cwd=tmp_path)
    assert done.code == 2 and "did you mean --" in done.err
