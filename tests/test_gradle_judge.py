"""Build scripts as Groovy itself evaluates them, over a stand-in of Android's blocks: what it finds is what is said."""

from __future__ import annotations

import json
import re
import subprocess
from collections.abc import Iterable, Mapping
from pathlib import Path

import pytest

from conftest import THOROUGH, files, judge, onomaxis, snapshot
from scripts import GROOVY, KOTLIN, SMALL, dressed, rows

JUDGE = Path(__file__).with_name("gradle_judge.groovy")
NAMES = {"id": "org.lendspan.zzz", "version": "9.9.9", "build": "999"}
# Of each script, what is not told: all of a small one's, or facets; flavors that are not followed; what is computed.
NOTES = {name: row for table in ("groovy", "groovy_value", "groovy_flavors", "groovy_names") for name, row in rows(table).items()}
KOTLIN_NOTES = rows("kotlin") | rows("kotlin_small")
Variants = Mapping[tuple[str, ...], Mapping[str, str | None]]


def judged(folders: Iterable[Path]) -> dict[Path, dict[str, Variants]]:
    """Return what Groovy makes of the release variants of each module of some projects."""
    done = subprocess.run([judge("groovy"), str(JUDGE), *map(str, folders)], capture_output=True, text=True, check=True)
    answers = json.loads(done.stdout.splitlines()[-1])
    assert not {folder: said for folder, said in answers.items() if "error" in said}
    return {
        Path(folder): {module: {tuple(v["flavors"]): shown(v) for v in found if v["type"] == "release"} for module, found in said.items()}
        for folder, said in answers.items()
    }


def shown(variant: Mapping) -> dict[str, str | None]:
    """Return a variant's ID, version and build number, and the name that the script makes."""
    name = variant["res"].get("app_name") or variant["placeholders"].get("appName")
    return {**{key: variant[key] for key in NAMES}, **({"name": name} if name else {})}


def made(folder: Path, name: str, seed: int = 0) -> Path:
    """Write a project; any seed but 0 dresses its scripts."""
    contents = GROOVY.get(name) or SMALL[name]
    laid = {path: dressed(text, f"{seed}{name}{path}") if seed and path.endswith("build.gradle") else text for path, text in contents.items()}
    return files(folder, laid)


def judged_by_kotlin(work: Path) -> dict[str, Variants]:
    """Return what Kotlin makes of the release variants of every project below a folder: all are compiled at once."""
    sources = work / "%sources"
    calls = []
    for number, name in enumerate(KOTLIN):
        text = KOTLIN[name]["app/build.gradle.kts"]
        imports = "\n".join(re.findall(r"^import .*$", text, re.MULTILINE))
        body = re.sub(r"^import .*$", "", text, flags=re.MULTILINE)
        said = f"package s{number}\nimport stub.*\n{imports}\nfun Project.script() {{\n{body}\n}}\nobject Caller {{ fun Project.go() {{ script() }} }}\n"
        files(sources, {f"s{number}.kt": said})
        calls.append(
            f'told("{name}", Project(File("{work / name}/app"), Project(File("{work / name}"))).apply {{ with(s{number}.Caller) {{ go() }} }}.android)'
        )
    main = 'package judged\nimport stub.*\nimport java.io.File\nfun main() { println("{" + listOf(\n' + ",\n".join(calls) + ').joinToString() + "}") }\n'
    files(sources, {"main.kt": main, "stub.kt": JUDGE.with_suffix(".kt").read_text()})
    subprocess.run([judge("kotlinc"), *map(str, sources.glob("*.kt")), "-nowarn", "-d", str(work / "judge.jar")], check=True, capture_output=True)
    done = subprocess.run([judge("kotlin"), "-classpath", str(work / "judge.jar"), "judged.MainKt"], check=True, capture_output=True, text=True)
    return {name: {tuple(item.pop("flavors")): item for item in found} for name, found in json.loads(done.stdout.splitlines()[-1]).items()}


if THOROUGH:  # its compiler takes half a minute

    def test_what_kotlin_finds_is_what_is_said(tmp_path: Path) -> None:
        """Every variant of scripts in Kotlin; what is built by a builder of the library's own is null."""
        for name, contents in KOTLIN.items():
            files(tmp_path / name, contents)
        for name, wanted in judged_by_kotlin(tmp_path).items():
            apps = {tuple((app["flavors"] or {}).values()): app for app in onomaxis("survey", tmp_path / name, "--json").json["apps"]}
            untold = KOTLIN_NOTES[name].get("untold", False)
            assert untold or set(apps) == set(wanted), name
            told = {(flavors, key, text) for flavors, found in wanted.items() for key, text in found.items() if text is not None and flavors in apps}
            assert {item for item in told if apps[item[0]][item[1]] not in (item[2], None)} == set(), name
            assert untold or all(apps[flavors][key] is not None for flavors, key, _ in told if key != "name"), name


@pytest.mark.parametrize("seed", range(6) if THOROUGH else (1,))
def test_what_groovy_finds_is_what_is_said(tmp_path: Path, seed: int) -> None:
    """Every variant's ID, version, build number and name, however the script comes by them; what is not told is null."""
    roots = {made(tmp_path / name, name, seed): name for name in GROOVY} | {made(tmp_path / name, name): name for name in SMALL}
    for root, modules in judged(roots).items():
        name, said = roots[root], onomaxis("survey", root, "--json").json
        for module, wanted in modules.items():
            apps = {tuple((app["flavors"] or {}).values()): app for app in said["apps"] if app["module"].rpartition("/")[2] == module}
            said_so, unread = NOTES[name].get("untold", []), NOTES[name].get("unread", False)
            if not unread and said_so is not True:
                assert set(apps) == set(wanted), name
            untold = {key for flavors, found in wanted.items() for key in found if flavors in apps and apps[flavors][key] is None}
            assert said_so is True or untold == set(said_so), name
            told = {(flavors, key): apps[flavors][key] for flavors, found in wanted.items() if flavors in apps for key in found if key not in untold}
            assert told == {(flavors, key): wanted[flavors][key] for flavors, key in told}, name
        assert bool(said["unresolved"]) == bool(said_so or unread), name


def wishes() -> Iterable[tuple[str, str, str | None]]:
    """Yield what is renamed: a project, a facet, a flavor or none; a part of them by default."""
    for number, (name, contents) in enumerate(GROOVY.items()):
        flavors = [flavor for flavor in ("alderbank", "mossgate", "pennywick", "dev", "prod") if flavor in "".join(contents.values())]
        for at, key in enumerate(NAMES):
            for flavor in (None, *flavors) if THOROUGH else (None, *flavors)[(number + at) % 4 :: 4]:
                yield name, key, flavor


def test_groovy_finds_a_rename_where_it_was_wished_and_nowhere_else(tmp_path: Path) -> None:
    """Either nothing is changed, with the reason, or the flavor's own variants read as wished, and all others as before."""
    before = judged(made(tmp_path / name, name) for name in GROOVY)
    done: dict[Path, tuple[str, str, str | None, str]] = {}
    for name, key, flavor in wishes():
        root = made(tmp_path / f"{name}-{key}-{flavor}", name)
        was = snapshot(root)
        answer = onomaxis("rename", root, f"--{key}", NAMES[key], *(("--flavor", flavor) if flavor else ()))
        if answer.code:
            assert answer.code in (2, 3) and snapshot(root) == was, (name, key, flavor, answer.err)
        else:
            done[root] = (name, key, flavor, answer.err)
    assert len(done) > (150 if THOROUGH else 35)
    for root, modules in judged(done).items():
        name, key, flavor, said = done[root]
        for module, found in modules.items():
            old = before[tmp_path / name][module]
            assert set(found) == set(old), (name, key, flavor)
            changed = {(flavors, item) for flavors, now in found.items() for item in now if now[item] != old[flavors].get(item)}
            meant = {key, "build"} if NOTES[name].get("computed") and key == "version" else {key}
            assert all(item in meant and (not flavor or flavor in flavors) for flavors, item in changed), (name, key, flavor, changed)
            if flavor and any(flavor in flavors for flavors in found):
                assert any(NAMES[key] in (found[flavors][key] or "") for flavors, _ in changed) or "another flavor of it says so" in said, (name, key, flavor)


def test_groovy_finds_a_new_flavor_and_all_others_as_before(tmp_path: Path) -> None:
    """A flavor is added in the script's own way, builds with its ID, and goes again to the byte."""
    flavored = [name for name, contents in GROOVY.items() if "alderbank" in "".join(contents.values())]
    roots = {made(tmp_path / "new" / name, name): name for name in flavored}
    before = judged(made(tmp_path / "old" / name, name) for name in flavored)
    added = [root for root in roots if not onomaxis("flavor", "add", "oakhollow", root, "--id", "org.lendspan.oak").code]
    assert len(added) >= 14
    for root, modules in judged(added).items():
        old = before[tmp_path / "old" / roots[root]]["app"]
        mine = {flavors: said for flavors, said in modules["app"].items() if "oakhollow" in flavors}
        assert mine and all((said["id"] or "").startswith("org.lendspan.oak") for said in mine.values()), root.name
        assert {flavors: said for flavors, said in modules["app"].items() if flavors not in mine} == old, root.name
        assert onomaxis("flavor", "retire", "oakhollow", root).code == 0
        assert snapshot(root) == snapshot(tmp_path / "old" / root.name), root.name
