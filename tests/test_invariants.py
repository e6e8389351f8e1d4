"""What holds for every command and every rule: taken from the parser and the registries, so that nothing new escapes."""

from __future__ import annotations

import argparse
import contextlib
import os
import re
import shutil
import sys
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path, PurePosixPath

import pytest

from brands import project
from conftest import THOROUGH, Templates, commit_all, files, memory, onomaxis, snapshot
from hybrids import KINDS, spelled
from icon_arts import logo, saved
from onomaxis.brands.adopt import adopted
from onomaxis.brands.flavors import plan_flavor
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.brands.stamp import stamp
from onomaxis.brands.subjects import subjects
from onomaxis.checks.inspection import look_over
from onomaxis.checks.registry import every_rule
from onomaxis.cli.arguments import build_parser
from onomaxis.demo import copy_demo
from onomaxis.errors import InputError, OnomaxisError, RefusedError
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import Survey, read_projects, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from xcode import pbxproj


def commands(parser: argparse.ArgumentParser, lead: tuple[str, ...] = ()) -> Iterator[tuple[tuple[str, ...], set[str]]]:
    """Yield every command with its options."""
    inner = [action for action in parser._actions if isinstance(action, argparse._SubParsersAction)]
    for action in inner:
        for name, below in action.choices.items():
            yield from commands(below, (*lead, name))
    if not inner:
        yield lead, {option for action in parser._actions for option in action.option_strings}


# What each command that writes would change in a white-label project that has an identity file and icons.
WRITES = {
    "rename": ("--id", "org.other.shed", "--keep-code"),
    "renumber": ("--build", "+1"),
    "icons": ("--background", "#204060"),
    "adopt": ("--again",),
    "stamp": (),
    "flavor add": ("oakhollow", "--id", "org.oakhollow"),
    "flavor retire": ("mossgate",),
    "ledger add": ("--flavor", "alderbank"),
    "undo": (),
    "check": ("--fix",),
}


def labelled(folder: Path) -> None:
    """Make a white-label project in which each of them has something to change, and commit it."""
    contents = project()
    manifest = next(path for path in contents if path.endswith("main/AndroidManifest.xml"))
    named = contents[manifest].replace("<application ", '<application android:icon="@mipmap/ic_launcher" ')
    files(folder, {**contents, manifest: named, "art.png": saved(logo(size=64), "PNG")})
    icons = ("icons", folder, "--art", folder / "art.png", "--background", "#406080", "--platform", "android")
    for words in (("adopt", folder), ("ledger", "add", folder, "--flavor", "mossgate"), ("renumber", folder, "--build", "8"), icons):
        done = onomaxis(*words, "--allow-dirty")
        assert done.code == 0, (words, done.err)
    identity = folder / "onomaxis.toml"
    identity.write_text(identity.read_text().replace('name = "', 'name = "The ', 1) + "\n# mine\n")
    commit_all(folder)


@pytest.fixture
def copy(tmp_path: Path, template: Templates) -> Path:
    return Path(shutil.copytree(template("labelled", labelled), tmp_path / "x"))


def test_every_command_that_writes_has_its_row() -> None:
    assert {" ".join(lead) for lead, options in commands(build_parser()) if "--allow-dirty" in options} == {*WRITES, "rehearse"}  # see test_rehearsal


@pytest.mark.parametrize("name", WRITES)
def test_what_is_uncommitted_is_not_written_over(copy: Path, name: str) -> None:
    """A dry run writes nothing; each file that a command would change keeps it from writing once somebody changed it."""
    words = (*name.split(), *WRITES[name][:1], copy, *WRITES[name][1:]) if name.startswith("flavor") else (*name.split(), copy, *WRITES[name])
    if name == "undo":  # its seal is of this checkout
        assert onomaxis("renumber", copy, "--build", "9").code == 0
        commit_all(copy)
    before = snapshot(copy)
    told = onomaxis(*words, "--dry-run", "--json")
    assert told.code == (name == "check") and snapshot(copy) == before, told.out  # an icon set is missing, which no stamp mends
    document = told.json
    touched = [path for key in ("files", "changed") for path in document.get(key, []) if (copy / path).exists()]
    assert touched, document
    for path in touched[:4]:
        held = (copy / path).read_bytes()
        (copy / path).write_bytes(held + b"\n")
        mine = snapshot(copy)
        done = onomaxis(*words)
        assert done.code == 3 and snapshot(copy) == mine, (path, done.err)
        (copy / path).write_bytes(held)


# What a command that takes a flavor is given beside it; those that only read show a combination too.
OF_FLAVORS = {
    "rename": ("--name", "Shed"),
    "renumber": ("--build", "+1"),
    "icons": ("--background", "#204060"),
    "stamp": (),
    "ledger add": (),
    "survey": (),
    "proof": ("--sheet", "masks", "--size", "320x240", "--out", "sheet.png"),
    "check": (),
    "ledger list": (),
}
ELSEWHERE = {"inspect", "rehearse"}  # theirs are packages


def test_a_flavor_that_nobody_has(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Every command that takes a flavor refuses one that there is none of, and one that writes a combination."""
    taking = {" ".join(lead) for lead, options in commands(build_parser()) if "--flavor" in options}
    assert taking == {*OF_FLAVORS, *ELSEWHERE}
    copy_demo(tmp_path / "x")
    monkeypatch.chdir(tmp_path)
    assert onomaxis("adopt", "x").code == 0
    before = snapshot(tmp_path)
    for name, more in OF_FLAVORS.items():
        done = onomaxis(*name.split(), "x", "--flavor", "mosgate", *more)
        assert done.code == 2 and re.search(r"no (shipped app|app|flavor)\b|no app here", done.err), (name, done.err)
        if name in WRITES and name not in ("ledger add", "icons", "stamp", "check"):  # these may be of a combination
            made = onomaxis(*name.split(), "x", "--flavor", "mossgateCommunity", *more)
            assert made.code == 2 and "mossgate" in made.err, (name, made.err)
        assert snapshot(tmp_path) == before, name
    assert "2 flavors" in onomaxis("proof", "x", "--flavor", "MOSSGATE", "--out", "home.png", "--sheet", "home").out


def test_an_id_for_a_flavor_of_a_second_dimension(tmp_path: Path) -> None:
    """It is given to every combination, which keeps what its other flavor appends."""
    copy_demo(tmp_path / "x")
    told = [onomaxis("survey", tmp_path / "x", "--json").json["apps"]]
    assert onomaxis("rename", tmp_path / "x", "--flavor", "community", "--id", "org.shed", "--allow-dirty").code == 0
    told.append(onomaxis("survey", tmp_path / "x", "--json").json["apps"])
    for old, new in zip(*told, strict=True):
        mine = new["flavor"].endswith("Community")
        assert new["id"] == (old["id"].replace("org.lendspan.app", "org.shed") if mine else old["id"]), new["flavor"]


# -- what is broken is said, and ends nothing


def garbled(data: bytes) -> Iterator[tuple[str, bytes]]:
    """Yield ways in which a file can be broken."""
    half = len(data) // 2
    line = data.find(b"\n", half) + 1
    yield "a byte of another encoding", data[:half] + b"\xe9" + data[half:]
    yield "cut off", data[:half]
    yield "an unresolved merge", data[:line] + b"<<<<<<< ours\n" + data[line : line + 40] + b"\n=======\n>>>>>>> theirs\n" + data[line:]


def test_no_broken_file_ends_a_check(branded: Path) -> None:
    """Each text file of the demo, broken in turn: the check says what it says, or that it cannot be read; no fault."""
    tree = Tree.open(branded)
    families = [family for family in dict.fromkeys(rule.family for rule in every_rule()) if family != "icons"]
    one_of_a_kind = {PurePosixPath(path).suffix or path: path for path in sorted(tree.files)}
    for number, path in enumerate(sorted(tree.files) if THOROUGH else one_of_a_kind.values()):
        data = tree.read(path) or b""
        ways = list(garbled(data)) if b"\0" not in data else []
        for how, broken in ways if THOROUGH else ways[number % 3 : number % 3 + 1]:
            try:
                found, _ = look_over(tree.overlay({path: broken}, ()), families)
            except OnomaxisError as error:
                assert error.message and error.exit_code != 4, (path, how)
            else:
                assert "FILE02" not in {item.rule.code for item in found}, (path, how, found)


# -- twice as much costs twice as much


def gradle(flavors: int, modules: int, types: int) -> dict[str, str]:
    """Return an Android build of so many modules with so many flavors and build types each."""
    brands = "".join(f"b{n} {{ dimension 'brand'\napplicationIdSuffix '.b{n}' }}\n" for n in range(flavors))
    kinds = "".join(f"t{n} {{ versionNameSuffix '-t{n}' }}\n" for n in range(types))
    found = {"settings.gradle": "include " + ", ".join(f"':m{n}'" for n in range(modules)) + "\n"}
    for n in range(modules):
        found[f"m{n}/build.gradle"] = (
            f"apply plugin: 'com.android.application'\nandroid {{\nnamespace 'org.lendspan.m{n}'\ndefaultConfig {{ applicationId 'org.lendspan.m{n}'\n"
            f"versionName '1.0'\nversionCode 1 }}\nflavorDimensions 'brand'\nproductFlavors {{\n{brands}}}\nbuildTypes {{\n{kinds}}}\n}}\n"
        )
        found[f"m{n}/src/main/AndroidManifest.xml"] = "<manifest><application/></manifest>\n"
        for flavor in range(flavors):
            found[f"m{n}/src/b{flavor}/res/values/strings.xml"] = f"<resources><string name='app_name'>B {flavor}</string></resources>\n"
    return found


def apple(targets: int, flavors: int) -> dict[str, str]:
    """Return an Xcode project of so many targets, each with configurations for so many flavors."""
    names = [f"{kind}-b{n}" for n in range(flavors) for kind in ("Debug", "Release")]
    told = {}
    for at in range(targets):
        own = {name: {"PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.t{at}.{name[-2:]}", "SHOWN": name} for name in names}
        told[f"T{at}"] = ("app", {"*": {"PRODUCT_NAME": "$(TARGET_NAME)", "INFOPLIST_FILE": f"T{at}/Info.plist", "MARKETING_VERSION": "1.0"}, **own})
    lists = {f"T{at}/Info.plist": "<plist version='1.0'><dict><key>CFBundleDisplayName</key><string>$(SHOWN)</string></dict></plist>" for at in range(targets)}
    return {"L.xcodeproj/project.pbxproj": pbxproj(names, {"SDKROOT": "iphoneos"}, told), **lists}


def staged(brands: int) -> dict[str, str]:
    """Return an Xcode project of so many brands, each for two environments."""
    names = [f"{kind}-b{n}{stage}" for n in range(brands) for stage in ("Staging", "Live") for kind in ("Debug", "Release")]
    own = {
        name: {
            "PRODUCT_BUNDLE_IDENTIFIER": f"org.lendspan.{name.partition('-')[2].replace('Live', '').replace('S', '.s')}",
            "INFOPLIST_KEY_CFBundleDisplayName": name,
        }
        for name in names
    }
    every = {"*": {"PRODUCT_NAME": "$(TARGET_NAME)", "GENERATE_INFOPLIST_FILE": "YES", "MARKETING_VERSION": "1.0", "CURRENT_PROJECT_VERSION": "1"}}
    said = "".join(f"[flavors.b{n}]\nid = 'org.lendspan.b{n}'\n" for n in range(brands))
    return {"L.xcodeproj/project.pbxproj": pbxproj(names, {"SDKROOT": "iphoneos"}, {"T0": ("app", {**every, **own})}), "onomaxis.toml": f"format = 1\n{said}"}


def mentioning(times: int) -> dict[str, str]:
    """Return a small app whose code mentions its ID so many times."""
    return {**gradle(0, 1, 0), "m0/src/main/java/A.kt": 'package org.lendspan.m0\nval a = "org.lendspan.m0.a"\n' * times}


GROWING: dict[str, Callable[[int], dict[str, str]]] = {
    "flavors": lambda size: gradle(size, 1, 0),
    "modules": lambda size: gradle(2, size, 0),
    "build types": lambda size: gradle(2, 1, size),
    "targets": lambda size: apple(size, 2),
    "configurations": lambda size: apple(1, size),
    "variants": staged,
    "mentions": lambda size: mentioning(20 * size),
}


def calls(work: Callable[[], object]) -> int:
    """Return how many functions are called, Python's own and others: the same on every machine, whatever else it does."""
    count = [0]

    def note(frame: object, event: str, arg: object) -> None:
        count[0] += event.endswith("call")

    sys.setprofile(note)
    try:
        work()
    finally:
        sys.setprofile(None)
    return count[0]


@pytest.mark.parametrize("what", GROWING)
def test_twice_as_much_costs_twice_as_much(what: str) -> None:
    """Surveying, checking and renaming grow with the project, not with the square of it."""
    one_of_many = {"modules": "m0", "mentions": "m0", "targets": "T0"}.get(what, "")
    wish = Wish(version="2.0", build="9", app=one_of_many, flavor="b0" if what == "variants" else "")
    for name, work in {
        "survey": take_survey,
        "check": lambda tree: look_over(tree, ["ids", "names", "versions", "flavors", "references", "platforms", "services", "values"]),
        "rename": lambda tree: plan_rename(take_survey(tree, wish.app), wish),
    }.items():
        work(memory(GROWING[what](2)))  # what is loaded at the first use is loaded
        first, second = (calls(partial(work, memory(GROWING[what](size)))) for size in (12, 24))
        assert second <= 2.3 * first, (name, first, second)


def merged(path: Path) -> None:
    path.write_text(f"<<<<<<< ours\n{path.read_text()}=======\n{path.read_text()}>>>>>>> theirs\n")


def replaced(path: Path, make: Callable[[Path], object]) -> None:
    path.unlink()
    make(path)


def outside(path: Path) -> None:
    other = path.rename(path.parent.parent / path.name)
    path.symlink_to(other)


NOT_READ: dict[str, Callable[[Path], object]] = {
    "an unresolved merge": merged,
    "too large": lambda path: os.truncate(path, 64 << 20),
    "a pipe": lambda path: replaced(path, os.mkfifo),
    "a folder": lambda path: replaced(path, Path.mkdir),
    "a link out": outside,
}


@pytest.mark.skipif(os.name == "nt", reason="pipes and links are those of POSIX")
@pytest.mark.parametrize("name", ["onomaxis.toml", "onomaxis.ledger.csv"])
@pytest.mark.parametrize("how", NOT_READ)
def test_what_cannot_be_read_is_not_absent(copy: Path, name: str, how: str) -> None:
    """No command goes on as if there were no identity file, or nothing published: each says why, and nothing is changed."""
    NOT_READ[how](copy / name)
    before = snapshot(copy)
    lines = [("check", copy), ("ledger", "add", copy, "--allow-dirty")]
    lines += [("stamp", copy)] if name.endswith("toml") else [("renumber", copy, "--flavor", "mossgate", "--build", "2"), ("ledger", "list", copy)]
    for words in lines:
        done = onomaxis(*words)
        assert done.code in (2, 3) and name in done.err and re.search(NOT_ABSENT, done.err), (words, done)
        assert snapshot(copy) == before, words


NOT_ABSENT = r"merge|larger|regular|leads out"
# What an identity file names, and how; a command that needs it.
NAMES = {
    "include": ('include = ["more.toml"]\n[app]\nname = "A"\n', "more.toml", b'[flavors.oak]\nname = "O"\n'),
    "table": ('brands = "more.csv"\n[app]\nname = "A"\n', "more.csv", b"flavor,name\noak,O\n"),
    "service file": ('[app.services]\ngoogle-android = "more.json"\n', "more.json", b"{}"),
    "file of a brand": ('[values.logo]\ntype = "file"\nplaces = [{ file = "app/logo.txt" }]\n[app.values]\nlogo = "more.txt"\n', "more.txt", b"x"),
}


@pytest.mark.skipif(os.name == "nt", reason="pipes and links are those of POSIX")
@pytest.mark.parametrize("what", NAMES)
@pytest.mark.parametrize("how", NOT_READ)
def test_what_the_identity_file_names_and_cannot_be_read(small: Callable[..., Path], what: str, how: str) -> None:
    """A file that is there and cannot be read is never said to be missing: it is said what stands in the way."""
    text, name, data = NAMES[what]
    root = small(extra={"onomaxis.toml": f"format = 1\n{text}", name: data, "app/logo.txt": "y"})
    if how != "an unresolved merge" or what in ("include", "table"):
        NOT_READ[how](root / name)
        done = onomaxis("stamp", root)
        assert done.code in (2, 3) and re.search(NOT_ABSENT, done.err) and "there is no file" not in done.err, done
    (root / name).unlink() if not (root / name).is_dir() else (root / name).rmdir()
    done = onomaxis("stamp", root)
    assert done.code == 2 and f"there is no file {name}" in done.err, done


def told(survey: Survey) -> list[tuple[str, ...]]:
    return sorted(
        (app.platform, app.module, app.flavor, *(value.text if value else "" for value in (app.id, app.name, app.version, app.build))) for app in survey.apps
    )


def broken(data: bytes) -> Iterator[tuple[str, bytes]]:
    """Yield what a file is when something in it does not close."""
    yield "an unresolved merge", dict(garbled(data))["an unresolved merge"]
    for what, old, new in (("a brace too few", b"}", b""), ("a brace too many", b"}", b"}}"), ("a tag that does not close", b"</", b"<")):
        if old in data:
            yield what, data.replace(old, new, 1)


def plans(tree: Tree) -> Iterator[Callable[[], object]]:
    """Yield what plans a change of each sort; the first one alone in a short run."""
    brands = b'format = 1\n[app]\nname = "Barn"\n[flavors.alderbank]\nname = "Alder"\n'
    yield lambda: plan_rename(take_survey(tree), Wish(android_id="org.y.barn", ios_id="org.y.barn", both_id="org.y.barn", name="Barn"))
    if THOROUGH:
        yield lambda: plan_rename(take_survey(tree), Wish(project_name="Barn", version="3.0.0", build="99"))
        yield lambda: plan_flavor(tree, FlavorWish("pennywick", id="org.pennywick", shown="Pennywick"))
        yield lambda: stamp(tree.overlay({"onomaxis.toml": brands}, ()))
        yield lambda: adopted(subjects(read_projects(tree)), {})


@pytest.mark.parametrize("kind", KINDS)
def test_nothing_broken_is_called_healthy(kind: str) -> None:
    """Whatever file of a project is broken: no rule fails, and where apps are told otherwise, it is said why; nothing is half done."""
    tree = memory(spelled(kind, "org.x.shed", "Shed", "1.2.0", "7"))
    first = told(take_survey(tree))
    for path in tree.files:
        for how, data in broken(tree.read(path) or b""):
            off = tree.overlay({path: data}, ())
            if not read_projects(off):
                continue
            found = look_over(off)[0]
            survey = take_survey(off)
            said = [item for item in found if item.rule.code in ("FILE01", "FILE03") and item.at[0][0] == path]
            assert "FILE02" not in {item.rule.code for item in found}, (path, how)
            assert (told(survey) == first and kind in survey.kinds) or said, (path, how, told(survey))
            assert said or how != "an unresolved merge" or path not in survey.held, (path, how)
            for number, plan in enumerate(plans(off)):
                with contextlib.suppress(InputError, RefusedError):  # anything else is a fault
                    plan()
                    assert number or not [item for item in said if item.rule.code == "FILE03"], (path, how)
