"""``onomaxis demo``: the main job from beginning to end, on a copy of the demo project."""

from __future__ import annotations

import argparse
import contextlib
import io
import os
import subprocess
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from types import ModuleType as Module
from typing import NamedTuple

from onomaxis import late
from onomaxis.cli import (
    check,
    fingerprint,
    flavor,
    history,
    inspect,
    ledger,
    proof,
    rehearse,
    rename,
    stamp,
    survey,
    undo,
)
from onomaxis.cli.arguments import parse
from onomaxis.cli.layout import Cell, put
from onomaxis.cli.output import make_console, print_diff, print_json, say
from onomaxis.demo import KEYSTORE, PACKAGES, PASSWORD, copy_demo, copy_lockers, copy_packages
from onomaxis.surveys.survey import take_survey
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
_SHOWN_DIFF, _FIRST_OF_DIFF = 28, 8
_SECRET = "LENDSPAN_PASSWORD"


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    target = copy_demo(options.folder, counter=True, brands=True)
    if options.json:
        print_json({"folder": str(target), "survey": survey.as_document(take_survey(Tree.open(target)))})
        return 0
    walk(options, target)
    return 0


class _Step(NamedTuple):
    """One step of the walk: what it is for, the command line that is shown, what is run for it."""

    title: str
    shown: str
    runs: tuple[tuple[Module, tuple[str, ...]], ...] = ()
    preview: bool = False
    asks: tuple[tuple[str, dict[str, object]], ...] = ()
    ready: Callable[[], bool] = lambda: True
    """What is done before it unseen; a step that cannot be made ready is left out."""


def walk(options: argparse.Namespace, target: Path) -> None:
    """Show the main job: one name for another, taken back; then many flavors from one identity file."""
    from rich.text import Text

    coloured = options.color == "always" or sys.stdout.isatty()
    common = ["--no-color"] if options.no_color else ["--color", "always"] if coloured else []
    os.environ[_SECRET] = PASSWORD
    say(options, f"The demo project was copied to {target}")
    copy_packages(target)
    for number, step in enumerate((step for step in _steps(target) if step.ready()), 1):
        lines = _output(lambda step=step: _run(options, target, step, common))  # type: ignore[misc]
        if options.quiet:
            continue
        console = make_console(options)
        console.print()
        console.print(Text(f"{number}. {step.title}", style="bold"))
        console.print(Text(f"   $ onomaxis {step.shown}", style="cyan"), soft_wrap=True)
        for line in "\n".join(lines).rstrip().split("\n") if options.all or step.preview else _that_matter(lines):
            print(line)
    way = "" if options.all else " (onomaxis demo --all shows whole outputs)"
    say(
        options,
        f"\nTry next{way}:\n  cd {target}\n  onomaxis survey --all\n"
        "  onomaxis flavor add oakhollow counter --name 'Oak Hollow Counter'\n"
        "  onomaxis rename --app org.lendspan.counter --id org.lendspan.desk --dry-run",
    )


def _run(options: argparse.Namespace, target: Path, step: _Step, common: list[str]) -> None:
    if step.preview:
        _preview(options, target, common)
    if step.asks:
        _ask(options, target, step.asks)
    for command, words in step.runs:
        command.execute(parse([*words, *common]))


def _output(run: Callable[[], None]) -> list[str]:
    """Return the lines that a step prints, on either stream, in order; what it stops at is printed and told."""
    raw = io.BytesIO()
    stream = io.TextIOWrapper(raw, "utf-8", "replace", newline="", write_through=True)
    try:
        with contextlib.redirect_stdout(stream), contextlib.redirect_stderr(stream):
            run()
    except BaseException:
        sys.stdout.write(raw.getvalue().decode("utf-8", "replace"))
        raise
    return raw.getvalue().decode("utf-8", "replace").replace("\r\n", "\n").split("\n")


# Lines that are shown of a step, from its first finding, else from its beginning; and how it ended.
_FIRST = 4
# ECMA-48, "Select graphic rendition".
_COLOUR = late.compile(r"\x1b\[[\d;]*m")


def _that_matter(lines: Sequence[str]) -> list[str]:
    """Return the lines of an output that a walk shows."""
    told = [line for line in lines if line.strip()]
    bare = [_COLOUR.sub("", line) for line in told]
    start = next((number for number, line in enumerate(bare) if line.startswith("error ")), 0)
    end = next((number for number in range(len(bare) - 1, -1, -1) if bare[number].startswith("Done:")), len(told) - 1)
    left = end - _FIRST - (1 if start else 0)
    if left < 2:
        return told
    return [*told[: 1 if start else 0], *told[start : start + _FIRST], f"… {left} more lines", *told[end:]]


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
            "Apply the identity file: names, values, service files, icons.",
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
        *_fleet(root, target),
        *_environments(target),
        *_published(root, target),
        _Step(
            "Take all of it back: the ledger's row, and what was stamped.",
            "undo; onomaxis undo; onomaxis history",
            (*((undo, ("undo", root, "--yes")) for _ in range(2)), (history, ("history", root))),
        ),
    ]


def _fleet(root: str, folder: Path) -> list[_Step]:
    """Return what is for many brands: what holds for one, a branded copy, what a review sees of a change in it."""
    copies = folder.parent / f"{folder.name}-branded"
    copy = copies / "mossgate"
    return [
        _Step(
            "What holds for Mossgate, and which line says so?",
            "flavor show mossgate",
            ((flavor, ("flavor", "show", "mossgate", root)),),
        ),
        _Step(
            "A branded copy of the tree for Mossgate, beside the project.",
            f"stamp --flavor mossgate --into ../{copies.name}",
            ((stamp, ("stamp", root, "--flavor", "mossgate", "--into", str(copies))),),
        ),
        _Step(
            "Somebody renames it there. What does a review see, and what does a gate say?",
            "survey --since HEAD --guard name",
            ((survey, ("survey", str(copy), "--since", "HEAD", "--guard", "name")),),
            ready=lambda: _renamed_in_a_branch(copy),
        ),
    ]


def _environments(folder: Path) -> list[_Step]:
    """Return what is for brands that are built for several environments: what is selected, what is said once."""
    lockers = folder.parent / f"{folder.name}-lockers"
    root, shown = str(lockers), f"../{lockers.name}"
    return [
        _Step(
            "Another app has environments beside its neighbourhoods. What of it is built for staging?",
            f"survey {shown} --flavor staging",
            ((survey, ("survey", root, "--flavor", "staging")),),
            ready=lambda: copy_lockers(lockers),
        ),
        _Step(
            "Its identity file says staging's server once, and Mossgate's own: put them where each belongs.",
            f"stamp {shown}",
            ((stamp, ("stamp", root, "--yes")),),
        ),
        _Step(
            "What is Mossgate's staging app, and is it right?",
            f"check {shown} --flavor mossgate --flavor staging",
            ((check, ("check", root, "--flavor", "mossgate", "--flavor", "staging")),),
        ),
    ]


def _renamed_in_a_branch(copy: Path) -> bool:
    """Make a repository of a branded copy and rename a flavor in it; False where there is no git."""
    git = ["git", "-C", str(copy), "-c", "user.name=Lendspan", "-c", "user.email=shed@lendspan.invalid"]
    try:
        for words in (["init", "-q"], ["add", "-A"], ["commit", "-qm", "Mossgate"]):
            subprocess.run([*git, *words], check=True, capture_output=True)
    except (OSError, subprocess.CalledProcessError):
        return False
    wish = ("rename", str(copy), "--app", "org.lendspan.app", "--flavor", "mossgate", "--name", "The Moss Shed")
    with contextlib.redirect_stdout(io.StringIO()):
        return rename.execute(parse([*wish, "--yes", "--quiet"])) == 0


def _published(root: str, folder: Path) -> list[_Step]:
    """Return the way of built packages: registered, inspected, handed to the stand-in of a store, kept."""
    packages, state = folder / PACKAGES, str(folder / "stores")
    old, good, mixed, apple = (
        str(packages / name)
        for name in ("alderbank-40.aab", "alderbank-41.aab", "alderbank-mixed.aab", "alderbank-41.ipa")
    )
    app: dict[str, object] = {"platform": "android", "id": "org.lendspan.app.alderbank"}
    return [
        _Step(
            "Do a console of services and a developer portal know Alderbank? (stand-ins, over HTTP)",
            "standins --state stores",
            asks=(
                ("/services/push", app),
                ("/services/apps", app),
                ("/services/push", app),
                ("/services/file", app),
                ("/portal/ids", {"id": "org.lendspan.app.alderbank", "capabilities": ["push"]}),
                ("/portal/profiles", {"id": "org.lendspan.app.alderbank"}),
            ),
        ),
        _Step(
            "A build of Alderbank came back from CI: is it what the project says?",
            "inspect packages/alderbank-mixed.aab --against .",
            ((inspect, ("inspect", mixed, "--against", root)),),
        ),
        _Step(
            "It held Mossgate's service. And the ones that were built anew?",
            "inspect packages/alderbank-41.aab packages/alderbank-41.ipa --against .",
            ((inspect, ("inspect", good, apple, "--against", root)),),
        ),
        _Step(
            "What would a store say of the build of last week? (a simulation)",
            "rehearse packages/alderbank-40.aab --state stores",
            ((rehearse, ("rehearse", old, "--against", root, "--state", state)),),
        ),
        _Step(
            "And of these two? What is accepted goes into the ledger.",
            "rehearse packages/alderbank-41.aab packages/alderbank-41.ipa --state stores --ledger --yes",
            (
                (rehearse, ("rehearse", good, apple, "--against", root, "--state", state, "--ledger", "--yes")),
                (ledger, ("ledger", "list", root)),
            ),
        ),
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
        _Step(
            "Change it. Alderbank was published under the old name, so that is said twice.",
            f"rename {wish} --published",
            ((rename, ("rename", root, *_WISH, "--yes", "--published")),),
        ),
        _Step("Take it back.", "undo", ((undo, ("undo", root, "--yes")),)),
    ]


def _ask(options: argparse.Namespace, target: Path, questions: Sequence[tuple[str, dict[str, object]]]) -> None:
    """Serve the stand-ins for a moment, ask them, and show what they answer."""
    import json
    import threading
    import urllib.request

    from onomaxis.rehearsal.server import OfficeServer

    console = make_console(options)
    opener = urllib.request.build_opener(urllib.request.ProxyHandler({}))  # whatever stands in the environment
    with OfficeServer(target / "stores") as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        for path, body in questions:
            asked = urllib.request.Request(f"{server.address}{path}", json.dumps(body).encode(), method="POST")
            with opener.open(asked, timeout=10) as answer:
                said = json.loads(answer.read())
            shown = {key: value for key, value in said.items() if key not in ("format", "simulated")}
            if "profile" in shown:
                shown["profile"] = f"{shown['profile'][:40]}…"
            put(console, Cell(f"POST {path} ", "cyan"), Cell(json.dumps(body)), hang=2)
            text = json.dumps(shown, ensure_ascii=False)
            put(console, Cell(text if len(text) < _LONG else f"{text[:_LONG]} …", "dim"), indent=2)
        server.shutdown()


# Characters of an answer that are shown: a whole service file tells no more than its beginning.
_LONG = 200


def _preview(options: argparse.Namespace, target: Path, common: list[str]) -> None:
    from onomaxis.rename.rename import plan_rename
    from onomaxis.writing.preview import unified_diff

    wish = rename.wish_of(parse(["rename", str(target), *_WISH, *common]))
    plan = plan_rename(take_survey(Tree.open(target), wish.app), wish)
    lines = unified_diff(plan.changes).splitlines()
    console = make_console(options)
    shown = _SHOWN_DIFF if options.all else _FIRST_OF_DIFF
    print_diff(console, lines[:shown])
    console.print(f"… {len(lines) - shown} more lines", style="dim")
