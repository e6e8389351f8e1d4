"""Launch configurations and scripts that name flavors: a new one is listed as its siblings are, and goes with its list entry."""

from __future__ import annotations

import json

from flavored import flavored
from onomaxis.brands.flavors import plan_flavor
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.brands.retirement import plan_retirement
from onomaxis.formats.jsonc import parse_json, plain
from onomaxis.projects.neighbours.called import Called
from onomaxis.projects.run_lists import appended, twins, without
from onomaxis.tree import Tree
from onomaxis.writing.change import applied
from onomaxis.writing.planned import changeset_of

LAUNCH = """{
    // ways to start
    "version": "0.2.0",
    "configurations": [
        {
            "name": "Alderbank",
            "request": "launch", "type": "dart",
            "args": ["--flavor", "alderbank"]
        },
        // the one that is profiled
        {
            "name": "Mossgate (profile)", "type": "dart",
            "flutterMode": "profile",
            "program": "lib/main_mossgate.dart",
            "args": [ "--flavor=mossgate", "--dart-define=ID=org.lendspan.mossgate", ],
        },
        {"name": "tests of mossgate", "type": "dart", "program": "test/"},
    ]
}
"""
SCRIPTS = {
    "start": "react-native start",
    "android": "react-native run-android --mode=alderbankDebug --appId org.lendspan.alderbank",
    "android:mossgate": "react-native run-android --mode=mossgateDebug --appId org.lendspan.mossgate",
    "ios:mossgate": 'react-native run-ios --scheme "Lend-mossgate"',
    "build:mossgate": "cd android && ./gradlew assembleMossgateRelease",
    "mossgate": "echo mossgate",
}
SIBLINGS = [Called(name, {"android": f"org.lendspan.{name}", "ios": f"org.lendspan.{name}"}, name.title()) for name in ("alderbank", "mossgate")]
NEW = Called("oakHill", {"android": "org.oak.hill", "ios": "org.oak.hill"}, "Oak Hill")


def after(tree: Tree, draft: object) -> Tree:
    return applied(tree, changeset_of(draft).resolve(tree))  # type: ignore[arg-type]


def test_launch_configurations_of_a_new_flavor() -> None:
    """The entry that names a sibling has a twin, comments and the rest stay; taking it out gives the bytes back."""
    path = "app/.vscode/launch.json"
    tree = Tree.of({path: LAUNCH.encode()})
    later = after(tree, twins(tree, "app", SIBLINGS, NEW))
    text = (later.read(path) or b"").decode()
    document = plain(parse_json(text.encode()).top)
    assert isinstance(document, dict)
    assert [item["name"] for item in document["configurations"]] == ["Alderbank", "Oak Hill", "Mossgate (profile)", "tests of mossgate"]
    assert document["configurations"][1]["args"] == ["--flavor", "oakHill"]
    assert text.startswith(LAUNCH[: LAUNCH.index("},") + 1]) and text.endswith(LAUNCH[LAUNCH.index("},") + 1 :])
    assert after(later, without(later, "app", "oakHill")).read(path) == LAUNCH.encode()
    assert not twins(later, "app", SIBLINGS, NEW).edits
    only = after(tree, twins(tree, "app", SIBLINGS[1:], NEW))
    made = plain(parse_json(only.read(path) or b"").top)
    assert isinstance(made, dict) and made["configurations"][2] == {
        "name": "Oak Hill (profile)", "type": "dart", "flutterMode": "profile", "program": "lib/main_oak_hill.dart",
        "args": ["--flavor=oakHill", "--dart-define=ID=org.oak.hill"],
    }  # fmt: skip


def test_lists_keep_their_line_ends() -> None:
    """Entries that are added have the line ends that the file has, in a list with siblings and in a plain one."""
    path = ".vscode/launch.json"
    tree = Tree.of({path: LAUNCH.replace("\n", "\r\n").encode()})
    plain_list = Tree.of({path: b'{"configurations": [\r\n  {"name": "app"}\r\n]}\r\n'})
    for draft, before in ((twins(tree, "", SIBLINGS, NEW), tree), (appended(plain_list, path, {"name": "a", "args": ["x"]}), plain_list)):
        later = after(before, draft).read(path) or b""
        assert draft.edits and later.count(b"\n") == later.count(b"\r\n")
    named = Tree.of({path: b'{"configurations": [\n  {"program": "lib/main_dev.dart"}\n]}\n'})
    assert not appended(named, path, {"name": "a"}).edits


RUN = '<component><configuration name="x"><option name="buildFlavor" value="{}" /></configuration></component>\n'


def test_lists_of_whole_projects() -> None:
    """Adding and retiring a flavor do the lists and run configurations of the framework's project as well."""
    project = flavored("flutter-3")
    runs = {".run/start moss.run.xml": RUN.format("mossgate"), ".idea/runConfigurations/alder.xml": RUN.format("alderbank")}
    files = {**project.files, ".vscode/launch.json": LAUNCH.encode(), **{path: text.encode() for path, text in runs.items()}}
    tree = Tree.of(files)
    later = applied(tree, plan_flavor(tree, FlavorWish("oak", id="org.lendspan.oak", shown="Oak")).changes)
    assert '"--flavor", "oak"' in (later.read(".vscode/launch.json") or b"").decode()
    back = applied(later, plan_retirement(later, "oak").changes)
    assert {path: back.read(path) for path in back.files} == files
    left = applied(tree, plan_retirement(tree, "mossgate").changes)
    assert ".run/start moss.run.xml" not in left.files and ".idea/runConfigurations/alder.xml" in left.files
    assert "--flavor=mossgate" not in (left.read(".vscode/launch.json") or b"").decode()


def test_the_first_flavor_in_a_list_of_plain_launches() -> None:
    """A list that names no flavor yet gets one entry for the first, in its own layout."""
    plain_list = '{"configurations": [\n  {"name": "app", "type": "dart"}\n]}'
    tree = Tree.of({**flavored("flutter-4").files, ".vscode/launch.json": plain_list.encode()})
    later = applied(tree, plan_flavor(tree, FlavorWish("oak", id="org.lendspan.oak", shown="Oak")).changes)
    listed = json.loads(later.read(".vscode/launch.json") or b"")["configurations"]
    assert [item["name"] for item in listed] == ["app", "oak"] and listed[1]["args"] == ["--flavor", "oak"]
