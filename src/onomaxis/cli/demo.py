"""``onomaxis demo``: the main job from beginning to end, on a copy of the demo project."""

from __future__ import annotations

import argparse
import os
from dataclasses import dataclass
from pathlib import Path
from types import ModuleType as Module

from onomaxis.cli import check, fingerprint, flavor, history, proof, rename, stamp, survey, undo
from onomaxis.cli.arguments import parse
from onomaxis.cli.output import make_console, print_diff, print_json, say
from onomaxis.demo import KEYSTORE, PASSWORD, copy_demo
from onomaxis.survey.survey import take_survey
from onomaxis.tree import Tree

_WISH = (
    "--app",
    "org.lendspan.app",
    "--id",
    "org.lendspan.toolshed",
    "--name",
    "Tool Shed",
    "--locale-name",
    "de=Werkzeugschuppen",
    "--version",
    "2.5.0",
    "--build",
    "42",
    "--groups",
    "rewrite",
)
_SHOWN_DIFF = 28
_SECRET = "LENDSPAN_PASSWORD"


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    target = copy_demo(options.folder, counter=True, brands=True)
    if options.json:
        print_json({"folder": str(target), "survey": survey.as_document(take_survey(Tree.open(target)))})
        return 0
    walk(options, target)
    return 0


@dataclass(frozen=True)
class _Step:
    """One step of the walk: what it is for, the command line that is shown, what is run for it."""

    title: str
    shown: str
    runs: tuple[tuple[Module, tuple[str, ...]], ...] = ()
    preview: bool = False


def walk(options: argparse.Namespace, target: Path) -> None:
    """Show the main job: one name for another, taken back; then many flavors from one identity file."""
    from rich.text import Text

    common = ["--no-color"] if options.no_color else []
    os.environ[_SECRET] = PASSWORD
    say(options, f"The demo project was copied to {target}")
    for number, step in enumerate(_steps(target), 1):
        console = make_console(options)
        console.print()
        console.print(Text(f"{number}. {step.title}", style="bold"))
        console.print(Text(f"   $ onomaxis {step.shown}", style="cyan"), soft_wrap=True)
        console.print()
        if step.preview:
            _preview(options, target, common)
        for command, words in step.runs:
            command.execute(parse([*words, *common]))
    say(
        options,
        f"\nTry next:\n  cd {target}\n  onomaxis survey --all\n"
        "  onomaxis flavor add oakhollow counter --shown 'Oak Hollow Counter'\n"
        "  onomaxis rename --app org.lendspan.counter --id org.lendspan.desk --dry-run",
    )


def _steps(target: Path) -> list[_Step]:
    """Return what is shown, in order."""
    root, counter = str(target), str(target / "counter")
    wish = " ".join(word if " " not in word else f"'{word}'" for word in _WISH)
    key, picture = str(target / KEYSTORE), target.parent / "icon-proof.png"
    return [
        *_one_name(root, counter, wish),
        _Step(
            "Three neighbourhoods, three platforms, edited by hand: is it ready to be published?",
            "check",
            ((check, ("check", root)),),
        ),
        _Step(
            "Make it say what the identity file says: names, values, service files, icons.",
            "stamp",
            ((stamp, ("stamp", root, "--yes")),),
        ),
        _Step("And the app on the counter.", "stamp counter", ((stamp, ("stamp", counter, "--yes")),)),
        _Step("Is it right now?", "check", ((check, ("check", root)),)),
        _Step(
            "What is each neighbourhood called on each platform?",
            "flavor list",
            ((flavor, ("flavor", "list", root)),),
        ),
        _Step(
            "Which files trust the key that releases are signed with?",
            f"fingerprint {KEYSTORE} --password-env {_SECRET}",
            ((fingerprint, ("fingerprint", key, root, "--password-env", _SECRET)),),
        ),
        _Step(
            "How do the icons look on launchers, settings and stores?",
            f"proof --out {picture.name}",
            ((proof, ("proof", root, "--out", str(picture))),),
        ),
        _Step("Take all of it back.", "undo", ((undo, ("undo", root, "--yes")), (history, ("history", root)))),
    ]


def _one_name(root: str, counter: str, wish: str) -> list[_Step]:
    return [
        _Step(
            "What is the app on the counter's tablet called, and where is that written?",
            "survey counter",
            ((survey, ("survey", counter)),),
        ),
        _Step(
            "What would change if Lendspan were called Tool Shed? (the beginning of the diff)",
            f"rename {wish} --dry-run",
            preview=True,
        ),
        _Step("Change it.", f"rename {wish}", ((rename, ("rename", root, *_WISH, "--yes")),)),
        _Step("Take it back.", "undo", ((undo, ("undo", root, "--yes")),)),
    ]


def _preview(options: argparse.Namespace, target: Path, common: list[str]) -> None:
    from onomaxis.rename.rename import plan_rename
    from onomaxis.writing.preview import unified_diff

    wish = rename.wish_of(parse(["rename", str(target), *_WISH, *common]))
    plan = plan_rename(take_survey(Tree.open(target), wish.app), wish)
    lines = unified_diff(plan.changes).splitlines()
    console = make_console(options)
    print_diff(console, lines[:_SHOWN_DIFF])
    console.print(f"… {len(lines) - _SHOWN_DIFF} more lines", style="dim")
