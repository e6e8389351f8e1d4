"""``onomaxis demo``: the main job from beginning to end, on a copy of the demo project."""

from __future__ import annotations

import argparse
from pathlib import Path

from onomaxis.cli import history, icons, proof, rename, survey, undo
from onomaxis.cli.arguments import parse
from onomaxis.cli.output import make_console, print_diff, print_json, say
from onomaxis.demo import copy_demo
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
_NEXT = ("--app", "org.lendspan.toolshed")
_ICONS = (*_NEXT, "--foreground", "art/ladder-foreground.svg", "--background", "#7A3E2B")
_FLAVORS = ("alderbank", "mossgate", "pennywick")
_FLAVOR_ICONS = (*_NEXT, "--foreground", "art/{flavor}.svg", "--background", "#F4ECD8", "--platform", "android")
_SHOWN_DIFF = 28


def _art(target: Path, words: tuple[str, ...]) -> list[str]:
    return [str(target / word) if word.startswith("art/") else word for word in words]


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    target = copy_demo(options.folder, counter=True)
    if options.json:
        print_json({"folder": str(target), "survey": survey.as_document(take_survey(Tree.open(target)))})
        return 0
    walk(options, target)
    return 0


def walk(options: argparse.Namespace, target: Path) -> None:
    """Show survey, preview, rename, survey again, icons, their proof, undo."""
    common = ["--no-color"] if options.no_color else []
    said = " ".join(word if " " not in word else f"'{word}'" for word in _WISH)

    def step(number: int, title: str, command: str) -> None:
        from rich.text import Text

        console = make_console(options)
        console.print()
        console.print(Text(f"{number}. {title}", style="bold"))
        console.print(Text(f"   $ onomaxis {command}", style="cyan"), soft_wrap=True)
        console.print()

    say(options, f"The demo project was copied to {target}")
    step(1, "What is the app called, and where is that written?", "survey")
    survey.execute(parse(["survey", str(target), *common]))
    step(2, "What would change for another name? (the beginning of the diff)", f"rename {said} --dry-run")
    _preview(options, target, common)
    step(3, "Change it.", f"rename {said}")
    rename.execute(parse(["rename", str(target), *_WISH, "--yes", *common]))
    step(4, "What is it called now?", "survey")
    survey.execute(parse(["survey", str(target), *common]))
    step(5, "Draw the new icon into every slot of both platforms.", f"icons {' '.join(_ICONS)}")
    icons.execute(parse(["icons", str(target), *_art(target, _ICONS), "--yes", *common]))
    flavors = [word for name in _FLAVORS for word in ("--flavor", name)]
    step(6, "Each neighbourhood gets an icon of its own.", f"icons {' '.join((*_FLAVOR_ICONS, *flavors))}")
    icons.execute(parse(["icons", str(target), *_art(target, _FLAVOR_ICONS), *flavors, "--yes", *common]))
    picture = target.parent / "icon-proof.png"
    step(7, "How does it look on launchers, settings and stores?", f"proof --out {picture.name}")
    proof.execute(parse(["proof", str(target), "--out", str(picture), *common]))
    step(8, "Take all of it back.", "undo")
    for _ in range(3):
        undo.execute(parse(["undo", str(target), "--yes", *common]))
    history.execute(parse(["history", str(target), *common]))
    say(
        options,
        f"\nTry next:\n  cd {target}\n  onomaxis survey --all\n"
        "  onomaxis rename --app org.lendspan.counter --id org.lendspan.desk --dry-run",
    )


def _preview(options: argparse.Namespace, target: Path, common: list[str]) -> None:
    from onomaxis.changes.preview import unified_diff
    from onomaxis.changes.rename import plan_rename

    wish = rename.wish_of(parse(["rename", str(target), *_WISH, *common]))
    plan = plan_rename(take_survey(Tree.open(target), wish.app), wish)
    lines = unified_diff(plan.changes).splitlines()
    console = make_console(options)
    print_diff(console, lines[:_SHOWN_DIFF])
    console.print(f"… {len(lines) - _SHOWN_DIFF} more lines", style="dim")
