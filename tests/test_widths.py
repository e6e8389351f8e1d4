"""Every command's output at every width, with and without Unicode: nothing broken, nothing over the edge, no trailing blank."""

from __future__ import annotations

import io
import re
from pathlib import Path

import pytest
from rich.console import Console

from conftest import THOROUGH, Templates, commit_all, onomaxis
from onomaxis.cli.layout import pairs
from onomaxis.demo import copy_demo, copy_packages
from onomaxis.demo.brandmaking import KEYSTORE, PASSWORD
from onomaxis.tree import Tree

WIDTHS = (60, 80, 100, 200) if THOROUGH else (60, 200)
COMMANDS = {
    "survey": ("survey",),
    "survey-all": ("survey", "--origins"),
    "survey-one": ("survey", "--flavor", "pennywick", "--platform", "ios"),
    "mentions": ("survey", "--all"),
    "rename": ("rename", "--app", "org.lendspan.app", "--id", "org.lendspan.toolshed", "--name", "Tool Shed", "--dry-run"),
    "rename-all": ("rename", "--app", "org.lendspan.app", "--id", "org.lendspan.toolshed", "--dry-run", "--all"),
    "renumber": ("renumber", "--build", "next", "--app", "org.lendspan.app", "--dry-run"),
    "stamp": ("stamp", "--dry-run"),
    "adopt": ("adopt", "--again", "--dry-run"),
    "check": ("check",),
    "explain": ("check", "--explain", "REF03"),
    "flavors": ("flavor", "list"),
    "problems": ("flavor", "list", "--only-problems"),
    "add": ("flavor", "add", "oakhollow", "--shown", "Oak Hollow", "--app", "org.lendspan.app", "--dry-run"),
    "retire": ("flavor", "retire", "pennywick", "--app", "org.lendspan.app", "--dry-run"),
    "fingerprint": ("fingerprint", KEYSTORE, "--password-env", "P"),
    "ledger": ("ledger", "list"),
    "history": ("history",),
    "proof": ("proof", "--sheet", "masks", "--flavor", "mossgate", "--out", "../what-the-icons-of-the-neighbourhoods-look-like.png"),
    "inspect": ("inspect", "packages/alderbank-mixed.aab", "packages/alderbank-41.ipa", "--against", ".", "--all"),
    "rehearse": ("rehearse", "packages/alderbank-40.aab", "packages/alderbank-41.ipa", "--state", "../stores", "--on", "2026-11-26"),
    "rehearse-show": ("rehearse", "--show", "--state", "../stores"),
    "report": ("report", "--out", "../what-a-manager-signs-off.html"),
}
# What people copy: IDs, versions, places.
_COPIED = re.compile(r"[\w/{}$*-]+(?:[./:@][\w/{}$*-]+)+")


@pytest.fixture(autouse=True)
def _read_once(root: Path, monkeypatch: pytest.MonkeyPatch, kept: dict[str, Tree]) -> None:
    """Let all commands look at one tree: the widths are what this is about."""
    opened = Tree.open
    monkeypatch.setenv("XDG_STATE_HOME", str(root.parent / "state"))
    monkeypatch.setattr(Tree, "open", lambda folder: kept.setdefault(str(Path(folder).resolve()), opened(folder)))


@pytest.fixture(scope="module")
def root(template: Templates) -> Path:
    """A project in which every command has something to say; none of them writes in it."""

    def make(folder: Path) -> None:
        root = folder / "x"
        copy_demo(str(root), brands=True)
        copy_packages(root)
        commit_all(root)
        with pytest.MonkeyPatch.context() as patch:
            patch.setenv("XDG_STATE_HOME", str(folder / "state"))
            identity = root / "onomaxis.toml"  # without art: nothing is drawn here
            said = re.sub(rb"(?m)^icon = .*\n|^\[app\.icon\]\n(?:\w.*\n)*", b"", identity.read_bytes())
            identity.write_bytes(said)
            assert onomaxis("stamp", root, "--allow-dirty").code == 0
            assert onomaxis("rename", root, "--app", "org.lendspan.app", "--flavor", "mossgate", "--name", "Moss", "--allow-dirty").code == 0
            (root / "onomaxis.toml").write_bytes(said)  # there is something to stamp again
            commit_all(root)
            assert onomaxis("renumber", root, "--app", "org.lendspan.app", "--build", "44").code == 0
        commit_all(root)

    return template("widths", make) / "x"


@pytest.fixture(scope="module")
def kept() -> dict[str, Tree]:
    return {}


def shown(root: Path, name: str, width: int, encoding: str = "utf-8", *more: str) -> list[str]:
    """Return the lines that a command shows to people; a diff is the diff's own affair."""
    done = onomaxis(*COMMANDS[name], *more, cwd=root, env={"COLUMNS": str(width), "P": PASSWORD}, encoding=encoding)
    assert done.code in (0, 1), done.err
    return (done.out if done.out and "--dry-run" not in COMMANDS[name] else done.err).splitlines()


@pytest.mark.parametrize("name", COMMANDS)
def test_lines_fit(root: Path, name: str) -> None:
    """No line is wider than asked for, but one that is a single word; none ends in a blank; what is copied stands whole.

    What is copied: every ID, version and place of the widest output stands in the narrowest.
    """
    if name == "rehearse":
        shown(root, name, 80)  # the store has seen the packages: from now on it answers alike
    drawn = {width: shown(root, name, width) for width in WIDTHS}
    for width, lines in drawn.items():
        assert lines
        for line in lines:
            assert line == line.rstrip()
            alone = (" " not in line.strip() and len(line.strip()) > width) or line.startswith(("+", "-"))
            assert len(line) <= width or alone, line
    wide, narrow = (" ".join(" ".join(drawn[width]).split()) for width in (WIDTHS[-1], WIDTHS[0]))
    assert set(_COPIED.findall(wide)) <= set(_COPIED.findall(narrow)) | set(narrow.split())


@pytest.mark.parametrize("terminal", [True, False])
def test_a_digest_is_broken_for_people_alone(terminal: bool) -> None:
    """On a terminal in two indented halves where it does not fit; whole in a pipe, which a script searches."""
    digest, out = ":".join(f"{number:02X}" for number in range(32)), io.StringIO()
    pairs(Console(file=out, force_terminal=terminal, no_color=True, width=80), [("SHA-256", digest)])
    halves = [line.strip() for line in out.getvalue().replace("SHA-256", "").splitlines() if line.strip()]
    assert len(halves) == 1 + terminal and "".join(halves) == digest
    assert not terminal or all(len(line) <= 80 for line in out.getvalue().splitlines())


OLD = ["survey", "rename", "check", "flavors", "stamp", "ledger", "inspect", "rehearse"]


@pytest.mark.parametrize(("name", "encoding"), [(name, "ascii") for name in OLD] + [("survey", "cp1252"), ("check", "cp437")])
def test_old_code_pages(root: Path, name: str, encoding: str) -> None:
    """What the stream cannot show becomes ASCII: arrows and dots as people know them, no escape of a mark of ours."""
    text = "\n".join(shown(root, name, 80, encoding))
    assert text and not re.search(r"\\u20|\\x9", text)
    assert encoding != "ascii" or (text.isascii() and (name != "rename" or "->" in text))


def test_colour_where_it_is_wanted(root: Path) -> None:
    """The option decides, then the environment; a pipe has none."""
    words = ("check", "--only", "names")
    plain = onomaxis(*words, cwd=root).out
    assert "\x1b[" not in plain
    for more, env, coloured in (
        (("--color", "always"), {}, True),
        ((), {"FORCE_COLOR": "1"}, True),
        ((), {"CLICOLOR_FORCE": "1"}, True),
        (("--color", "never"), {"FORCE_COLOR": "1"}, False),
        (("--no-color",), {"FORCE_COLOR": "1"}, False),
        ((), {"FORCE_COLOR": "1", "NO_COLOR": "1"}, False),
        (("--color", "always"), {"NO_COLOR": "1"}, True),
    ):
        out = onomaxis(*words, *more, cwd=root, env=env).out
        assert ("\x1b[" in out) is coloured, (more, env)
        assert re.sub(r"\x1b\[[\d;]*m", "", out) == plain


@pytest.mark.parametrize(
    ("words", "named"),
    [
        (("--app", "org.lendspan.counter"), {"android", "ios"}),
        (("--platform", "ios", "--app", "org.lendspan.app"), {"ios"}),
        (("--flavor", "plus"), {"android"}),
    ],
)
def test_a_survey_of_some(root: Path, words: tuple[str, ...], named: set[str]) -> None:
    """Only the apps that are asked for, also as a document; none is an error with what there is."""
    apps = onomaxis("survey", *words, "--json", cwd=root).json["apps"]
    assert {app["platform"] for app in apps} == named and 0 < len(apps) < 20
    assert onomaxis("survey", "--flavor", "none", cwd=root).code == 2
