"""Configuration scripts as Node itself evaluates them, for each value of the environment: what it finds is what is said."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Iterable
from pathlib import Path

import pytest

from conftest import THOROUGH, files, judge, memory, onomaxis, snapshot
from onomaxis.surveys.survey import take_survey
from scripts import dressed, rows

JUDGE = Path(__file__).with_name("script_judge.js")
NEW = {"id": "org.lendspan.zzz", "version": "9.9.9", "build": "999", "name": "Zed"}
PACKAGE = '{"name": "lendspan", "version": "9.8.7", "dependencies": {"expo": "52.0.0"}}\n'
# Of a row: the script; the values of APP_VARIANT; files; *untold*: what the environment gives is said so and null;
# *unnamed*: no app in the list is the one of a value. Of a typed script, what the language's own tools made of it.
ROWS, TYPED = rows("expo"), rows("expo_typed")
Told = dict[str, dict[str, dict[str, str | None]]]


def made(folder: Path, name: str, seed: int = 0) -> Path:
    row = ROWS[name]
    return files(folder, {"package.json": PACKAGE, "app.config.js": dressed(f"{row['script']}\n", f"{seed}{name}" if seed else ""), **row.get("files", {})})


def judged(roots: dict[Path, str], *more: str) -> dict[Path, Told]:
    """Return what Node makes of each project, by the value of the variable (none: empty) and platform."""
    asked = [(root, value) for root, name in roots.items() for value in ("", *ROWS[name].get("values", ()), *more)]
    lines = [
        json.dumps({"key": f"{root}|{value}", "file": str(root / "app.config.js"), "env": {"APP_VARIANT": value} if value else {}}) for root, value in asked
    ]
    done = subprocess.run([judge("node"), str(JUDGE)], input="\n".join(lines), capture_output=True, text=True, check=True)
    found: dict[Path, Told] = {root: {} for root in roots}
    for (root, value), said in zip(asked, json.loads(done.stdout).values(), strict=True):
        found[root][value] = said
    return found


@pytest.mark.parametrize("seed", range(12) if THOROUGH else (1,))
def test_what_node_finds_is_what_is_said(tmp_path: Path, seed: int) -> None:
    """Every app that the environment asks for: ID, name, version and build number; what is not told is null."""
    for root, wanted in judged({made(tmp_path / name, name, seed): name for name in ROWS}).items():
        name, said = root.name, onomaxis("survey", root, "--json").json
        apps = {(app["platform"], app["flavor"]): app for app in said["apps"]}
        rest = next((flavor for _, flavor in apps if flavor.startswith("not (")), "")
        for value, platform in ((value, platform) for value, told in wanted.items() for platform in told):
            if wanted[value][platform]["id"] is None or (value and ROWS[name].get("unnamed")):
                continue
            default = f"not ({value})" == rest or not value
            app = apps.get((platform, value)) or apps[platform, "" if default else rest]
            told = {key: app[key] for key in NEW if app[key] is not None or not ROWS[name].get("untold")}
            assert told == {key: wanted[value][platform][key] for key in told}, (name, value, platform)
        assert not ROWS[name].get("untold") or any(item["facet"] == "version.code" for item in said["unresolved"]), name


@pytest.mark.parametrize("name", TYPED)
def test_typed_scripts(name: str) -> None:
    """Types, enums, modules of every form: each app is what the language's own tools make of it."""
    row = TYPED[name]
    said = take_survey(memory({"package.json": PACKAGE, "app.config.ts": f"{row['script']}\n", **row.get("files", {})}))
    apps = {(app.platform, app.flavor): app for app in said.apps}
    for value, platform, *told in row["apps"]:
        app = apps.get((platform, value)) or apps[platform, ""]
        assert [item.text if item else "?" for item in (app.id, app.name, app.build)] == told, value


def test_a_list_that_nobody_can_tell_has_no_length() -> None:
    """What is done with it is unknown, whatever it is called; a list that grows without end ends the script."""
    grows = "const l = [1];\nfor (const a of [" + "1, " * 40 + "]) { l.push(...l); }\n"
    for script in ("const l = ['a'];\nconst k = l;\nif (somebody()) { l.push('b'); }\nk.push('c');\n", grows):
        script += "module.exports = { name: 'L', ios: { bundleIdentifier: `org.l.n${l.length}` } };\n"
        said = take_survey(memory({"package.json": PACKAGE, "app.config.js": script}))
        assert all(app.id is None for app in said.apps) and any(item.facet == "ios.bundle-id" for item in said.unresolved)


def test_variables_within_variables() -> None:
    """What is asked only where another variable says something is found; two variables may have one value."""
    script = "let id = 'org.l';\nif (process.env.A === 'x') { id = process.env.B === 'y' ? 'org.l.xy' : 'org.l.x'; }\n"
    script += "const live = process.env.STAGE === 'x';\nmodule.exports = { name: live ? 'Live' : 'Lend', ios: { bundleIdentifier: id } };\n"
    said = take_survey(memory({"package.json": PACKAGE, "app.config.js": script}))
    told = {app.flavor: (app.id.text, app.name.text) for app in said.apps if app.platform == "ios" and app.id and app.name}
    assert told == {"": ("org.l", "Lend"), "x": ("org.l.x", "Lend"), "yX": ("org.l.xy", "Lend"), "STAGE=x": ("org.l", "Live")}


def wishes() -> Iterable[tuple[str, str, str | None]]:
    """Yield what is renamed: a project, a facet, a flavor or none; a part of them by default."""
    for number, (name, row) in enumerate(ROWS.items()):
        for at, key in enumerate(NEW):
            for flavor in (None, *row.get("values", ())) if THOROUGH else (None, *row.get("values", ()))[(number + at) % 4 :: 4]:
                yield name, key, flavor


def test_node_finds_a_new_variant_and_all_others_as_before(tmp_path: Path) -> None:
    """A variant is written as its siblings are, is what was asked for, and goes again to the byte."""
    roots = {made(tmp_path / name, name): name for number, name in enumerate(ROWS) if ROWS[name].get("values") and (THOROUGH or number % 2)}
    before = {name: (snapshot(root), told) for (root, told), name in zip(judged(roots).items(), roots.values(), strict=True)}
    added = {root: name for root, name in roots.items() if not onomaxis("flavor", "add", "oakhollow", root, "--id", "org.lendspan.oak", "--shown", "Oak").code}
    assert len(added) > len(roots) - 3
    for root, told in judged(added, "oakhollow").items():
        new = told.pop("oakhollow")["ios"]
        assert (new["id"], new["name"]) == ("org.lendspan.oak", "Oak") and told == before[root.name][1], root.name
        assert onomaxis("flavor", "retire", "oakhollow", root).code == 0
        assert snapshot(root) == before[root.name][0], root.name


def test_node_finds_a_rename_where_it_was_wished_and_nowhere_else(tmp_path: Path) -> None:
    """Either nothing is changed, with the reason, or the flavor's own apps read as wished and all others as before."""
    before = judged({made(tmp_path / name, name): name for name in ROWS})
    done: dict[Path, tuple[str, str, str | None]] = {}
    for name, key, flavor in wishes():
        root = made(tmp_path / f"{name}-{key}-{flavor}", name)
        was = snapshot(root)
        answer = onomaxis("rename", root, f"--{key}", NEW[key], *(("--flavor", flavor) if flavor else ()))
        if answer.code:
            assert answer.code in (2, 3) or name in ("upper", "loop"), (name, key, flavor, answer.err)
            assert snapshot(root) == was
        else:
            done[root] = (name, key, flavor)
    assert len(done) > (250 if THOROUGH else 90)
    for root, found in judged({root: name for root, (name, _, _) in done.items()}).items():
        name, key, flavor = done[root]
        old = before[tmp_path / name]
        changed = {(value, item) for value, now in found.items() for half in now for item in NEW if now[half][item] != old[value][half][item]}
        meant = {key, "build"} if (name, key) == ("version-split", "version") else {key}
        assert all(item in meant and (flavor is None or value == flavor) for value, item in changed), (name, key, flavor, changed)
        if name not in ("static-lost", "exports-later"):
            assert any(NEW[key] in (found[value][half][key] or "") for value in found for half in found[value]), (name, key, flavor)
