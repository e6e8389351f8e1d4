"""What holds for every command and every rule: taken from the parser and the registries, so that nothing new escapes."""

from __future__ import annotations

import argparse
import shutil
from collections.abc import Iterator
from pathlib import Path, PurePosixPath

import pytest

from brands import project
from conftest import THOROUGH, Templates, commit_all, files, onomaxis, snapshot
from icon_arts import logo, saved
from onomaxis.checks.inspection import look_over
from onomaxis.checks.registry import every_rule
from onomaxis.cli.arguments import build_parser
from onomaxis.errors import OnomaxisError
from onomaxis.tree import Tree


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
    assert {" ".join(lead) for lead, options in commands(build_parser()) if "--allow-dirty" in options} == set(WRITES)


@pytest.mark.parametrize("name", WRITES)
def test_what_is_uncommitted_is_not_written_over(copy: Path, name: str) -> None:
    """A dry run writes nothing; each file that a command would change keeps it from writing once somebody changed it."""
    words = (*name.split(), *WRITES[name][:1], copy, *WRITES[name][1:]) if name.startswith("flavor") else (*name.split(), copy, *WRITES[name])
    if name == "undo":  # its seal is of this checkout
        assert onomaxis("renumber", copy, "--build", "9").code == 0
        commit_all(copy)
    before = snapshot(copy)
    told = onomaxis(*words, "--dry-run", "--json")
    assert told.code == 0 and snapshot(copy) == before, told.out
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
