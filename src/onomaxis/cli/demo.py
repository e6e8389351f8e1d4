"""``onomaxis demo``: the main job from beginning to end, on a copy of the demo project."""

from __future__ import annotations

import argparse
import os
from pathlib import Path

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


def walk(options: argparse.Namespace, target: Path) -> None:
    """Show the main job: one name for another, taken back; then many flavors from one identity file."""
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
    step(1, "What is the app on the counter's tablet called, and where is that written?", "survey counter")
    survey.execute(parse(["survey", str(target / "counter"), *common]))
    step(
        2,
        "What would change if Lendspan were called Tool Shed? (the beginning of the diff)",
        f"rename {said} --dry-run",
    )
    _preview(options, target, common)
    step(3, "Change it.", f"rename {said}")
    rename.execute(parse(["rename", str(target), *_WISH, "--yes", *common]))
    step(4, "Take it back.", "undo")
    undo.execute(parse(["undo", str(target), "--yes", *common]))
    step(5, "Three neighbourhoods, three platforms, edited by hand: is it ready to be published?", "check")
    check.execute(parse(["check", str(target), *common]))
    step(6, "Make it say what the identity file says: names, values, service files, icons.", "stamp")
    stamp.execute(parse(["stamp", str(target), "--yes", *common]))
    step(7, "And the app on the counter.", "stamp counter")
    stamp.execute(parse(["stamp", str(target / "counter"), "--yes", *common]))
    step(8, "Is it right now?", "check")
    check.execute(parse(["check", str(target), *common]))
    step(9, "What is each neighbourhood called on each platform?", "flavor list")
    flavor.execute(parse(["flavor", "list", str(target), *common]))
    step(
        10,
        "Which files trust the key that releases are signed with?",
        f"fingerprint {KEYSTORE} --password-env {_SECRET}",
    )
    os.environ[_SECRET] = PASSWORD
    key = str(target / KEYSTORE)
    fingerprint.execute(parse(["fingerprint", key, str(target), "--password-env", _SECRET, *common]))
    picture = target.parent / "icon-proof.png"
    step(11, "How do the icons look on launchers, settings and stores?", f"proof --out {picture.name}")
    proof.execute(parse(["proof", str(target), "--out", str(picture), *common]))
    step(12, "Take all of it back.", "undo")
    undo.execute(parse(["undo", str(target), "--yes", *common]))
    history.execute(parse(["history", str(target), *common]))
    say(
        options,
        f"\nTry next:\n  cd {target}\n  onomaxis survey --all\n"
        "  onomaxis flavor add oakhollow counter --shown 'Oak Hollow Counter'\n"
        "  onomaxis rename --app org.lendspan.counter --id org.lendspan.desk --dry-run",
    )


def _preview(options: argparse.Namespace, target: Path, common: list[str]) -> None:
    from onomaxis.rename.rename import plan_rename
    from onomaxis.writing.preview import unified_diff

    wish = rename.wish_of(parse(["rename", str(target), *_WISH, *common]))
    plan = plan_rename(take_survey(Tree.open(target), wish.app), wish)
    lines = unified_diff(plan.changes).splitlines()
    console = make_console(options)
    print_diff(console, lines[:_SHOWN_DIFF])
    console.print(f"… {len(lines) - _SHOWN_DIFF} more lines", style="dim")
