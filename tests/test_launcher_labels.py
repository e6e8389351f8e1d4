"""What a launcher shows below the icon of a flavor, where its entries have labels of their own."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import files, onomaxis, snapshot
from onomaxis.identity.schema import NAME
from test_any_tree import ENTRY, KTS, android

STRINGS = '<resources>\n    <string name="app_name">Lend</string>\n    <string name="entry">{}</string>\n</resources>\n'
FLAVORS = 'flavorDimensions += "brand"\n productFlavors {{ create("oak") {{ dimension = "brand" }}\n create("elm") {{ dimension = "brand"\n applicationId = "org.elm" }} }}'
FILLED = 'manifestPlaceholders["entry"] = "Lend"'


def activity(label: str, name: str = "Main", entry: str = ENTRY) -> str:
    return f'<activity android:name=".{name}" android:label="{label}">{entry}</activity>'


# What the manifest says of its entries, the text of the string “entry”, and what the launcher of elm shows once the
# flavor is called Elm (component: label); "" where nothing may change.
FORMS: dict[str, tuple[str, str, dict[str, str]]] = {
    "a string with the app's name": (activity("@string/entry"), "Lend", {".Main": "Elm"}),
    "a string that refers to it": (activity("@string/entry"), "@string/app_name", {".Main": "Elm"}),
    "the app's own string": (activity("@string/app_name"), "x", {".Main": "Elm"}),
    "the only entry, called otherwise": (activity("@string/entry"), "Lend a tool", {".Main": "Elm"}),
    "written out": (activity("Lend"), "x", {".Main": "Elm"}),
    "written out otherwise": (activity("Lend &amp; more"), "x", {".Main": "Elm"}),
    "a placeholder": (activity("${entry}"), "x", {".Main": "Elm"}),
    "one of two": (activity("@string/entry", "Scan") + activity("@string/app_name"), "Scanner", {".Scan": "Scanner", ".Main": "Elm"}),
    "two alike": (activity("@string/entry", "Scan") + activity("Lend"), "Lend", {".Scan": "Elm", ".Main": "Elm"}),
    "no launcher's": (activity("@string/entry", "Help", "") + activity("@string/app_name"), "Lend", {".Main": "Elm"}),
}


def grown(tmp_path: Path, form: str) -> Path:
    """Return a build with two flavors, of which none has a name of its own."""
    entries, text, _ = FORMS[form]
    script = KTS.replace("{{", "{").replace("}}", "}").replace("{}", FILLED, 1).replace("{}", FLAVORS.replace("{{", "{").replace("}}", "}"), 1)
    return files(tmp_path / "p", android(script, True, entries, STRINGS.format(text)))


def launchers(root: Path, flavor: str) -> dict[str, str]:
    """Return what the launcher shows for a flavor."""
    apps = [app for app in onomaxis("survey", root, "--json").json["apps"] if app["flavor"] == flavor]
    return {item["component"]: item["label"] for item in apps[0]["launchers"]}


def by_stamp(root: Path) -> None:
    assert onomaxis("adopt", root).code == 0
    path = root / NAME
    path.write_text(path.read_text().replace("[flavors.elm]\n", '[flavors.elm]\nname = "Elm"\n'))
    done = onomaxis("stamp", root)
    assert done.code == 0, done.err
    assert onomaxis("stamp", root, "--json").json["files"] == []


def by_rename(root: Path) -> None:
    done = onomaxis("rename", root, "--flavor", "elm", "--name", "Elm")
    assert done.code == 0, done.err
    assert onomaxis("rename", root, "--flavor", "elm", "--name", "Elm", "--json").json["files"] == []


@pytest.mark.parametrize("way", [by_stamp, by_rename], ids=["stamp", "rename"])
@pytest.mark.parametrize("form", FORMS)
def test_a_launcher_shows_the_flavors_name(tmp_path: Path, form: str, way: object) -> None:
    """A flavor's name reaches what its launcher shows; the app's other flavors go on showing what they did."""
    root = grown(tmp_path, form)
    others = launchers(root, "oak")
    assert callable(way)
    way(root)
    assert launchers(root, "elm") == FORMS[form][2] and launchers(root, "oak") == others
    assert not [
        item for item in onomaxis("check", root, "--json").json["findings"] if item["code"] == "NAME09" and "Elm" in item["message"] and form != "one of two"
    ]
    before = snapshot(root)
    done = onomaxis("rename", root, "--flavor", "elm", "--name", "Elm Street")
    assert done.code == 0, done.err
    assert launchers(root, "elm") == {key: text.replace("Elm", "Elm Street") for key, text in FORMS[form][2].items()}
    changed = {path for path, held in snapshot(root).items() if before.get(path) != held and ".onomaxis" not in path}
    assert changed <= {NAME, "app/src/elm/res/values/strings.xml", "app/build.gradle.kts"}
    assert launchers(root, "oak") == others


def test_in_a_language(tmp_path: Path) -> None:
    """A name in a language reaches the entry's label in that language, where a main text would have hidden it."""
    root = grown(tmp_path, "a string with the app's name")
    folder = root / "app/src/main/res/values-de"
    folder.mkdir()
    (folder / "strings.xml").write_text(STRINGS.replace("Lend", "Leihe").format("Leihe"))
    assert onomaxis("adopt", root).code == 0
    path = root / NAME
    text = path.read_text().replace("[flavors.elm]\n", '[flavors.elm]\nname = "Elm"\n')
    path.write_text(text + '\n[flavors.elm.names]\nde = "Ulme"\n')
    done = onomaxis("stamp", root, "--json")
    assert done.code == 0, done.err
    own = {qualifier: (root / f"app/src/elm/res/{qualifier}/strings.xml").read_text() for qualifier in ("values", "values-de")}
    assert own["values"].count(">Elm<") == 2 and own["values-de"].count(">Ulme<") == 2
    assert onomaxis("stamp", root, "--json").json["files"] == []


@pytest.mark.parametrize("form", FORMS)
def test_a_name_for_all_leaves_a_flavors_own_text_alone(tmp_path: Path, form: str) -> None:
    """Where a flavor gives the text a value of its own it keeps it, also where an entry shows the same string."""
    root = grown(tmp_path, form)
    own = root / "app/src/oak/res/values/strings.xml"
    own.parent.mkdir(parents=True)
    own.write_text(STRINGS.replace(">Lend<", ">Oak<").format("Oak"))
    before, shown = own.read_bytes(), launchers(root, "oak")
    done = onomaxis("rename", root, "--name", "New", "--json")
    assert done.code == 0 and own.read_bytes() == before
    apps = {app["flavor"]: app["name"] for app in onomaxis("survey", root, "--json").json["apps"]}
    assert apps == {"elm": "New", "oak": "Oak"}
    assert all(label == shown[key] for key, label in launchers(root, "oak").items() if shown[key] == "Oak")
