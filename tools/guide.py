"""Run every command of the guide (docs/guide/) and write what comes out below it.

Run: python tools/guide.py [--check] [page ...]. With --check nothing is written; the exit code is 1 where one is old.

A page begins with ``<!-- project: demo -->`` (or ``brands``, ``counter``: the demo's Flutter app alone, ``lockers``,
or a framework, whose smallest project the tests make):
in a copy of it, committed to git, its commands run, one after the other. Lines in a ``console`` block that begin with
``$ `` are run; ``<!-- run: … -->`` runs unseen. Of long outputs the first lines are shown.
"""

from __future__ import annotations

import contextlib
import io
import os
import re
import shlex
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from hybrids import KINDS, spelled
from onomaxis.cli.main import main as program
from onomaxis.demo import copy_demo, copy_lockers, copy_packages

GUIDE = Path(__file__).parent.parent / "docs" / "guide"
# As many lines of an output are shown; a page may ask for others.
SHOWN = 12
_PIECES = re.compile(r"```console\n(?P<block>.*?)```|<!-- run: (?P<unseen>.*?) -->", re.DOTALL)
GIT = "git -c user.name=you -c user.email=you@lendspan.invalid"


def rendered(text: str, folder: Path) -> str:
    """Return a page with the outputs of its commands, run in a copy of its project below *folder*."""
    project = re.search(r"<!-- project: (\w+) -->", text)
    shown = re.search(r"<!-- lines: (\d+) -->", text)
    root = _copied(project[1] if project else "demo", folder)
    most = int(shown[1]) if shown else SHOWN

    def run(piece: re.Match[str]) -> str:
        if piece["unseen"]:
            _output(piece["unseen"], root)
            return piece[0]
        parts = []
        for line in piece["block"].splitlines():
            if line.startswith("$ "):
                lines = _output(line[2:], root).rstrip().splitlines()
                done = [text for text in lines[most:] if text.startswith("Done:")]
                parts += [line, *lines[:most], *(["…", *done] if len(lines) > most else [])]
        return "```console\n" + "\n".join(parts) + "\n```"

    return _PIECES.sub(run, text)


def _copied(name: str, folder: Path) -> Path:
    root = folder / "lendspan"
    if name == "lockers":
        copy_lockers(root)
    elif name == "counter":
        copy_demo(str(folder / "whole"), counter=True)
        shutil.copytree(folder / "whole" / "counter", root)
    elif name in KINDS:
        called = spelled(name, "org.lendspan.app", "Lendspan", "2.4.0", "41", "Lendspan", "lendspan")
        for path, text in called.items():
            (root / path).parent.mkdir(parents=True, exist_ok=True)
            (root / path).write_text(text, "utf-8")
    else:
        copy_demo(str(root), brands=name == "brands")
    if name == "brands":
        copy_packages(root)
    _output(f"git init -q . && git add -A && {GIT} commit -qm first", root)
    return root


def _output(line: str, root: Path) -> str:
    words = shlex.split(line) if line.startswith("onomaxis ") or line == "onomaxis" else []
    if not words or {"|", ">", "&&"} & set(words):
        line = line.replace("git commit", f"{GIT} commit")
        env = {**os.environ, **_ENVIRONMENT}
        done = subprocess.run(line, shell=True, cwd=root, env=env, capture_output=True, check=False)
        return (done.stdout + done.stderr).decode("utf-8", "replace")
    raw = io.BytesIO()
    out = io.TextIOWrapper(raw, "utf-8", newline="")
    with _standing(root), contextlib.redirect_stdout(out), contextlib.redirect_stderr(out):
        with contextlib.suppress(SystemExit):
            program(words[1:])
        out.flush()
    return raw.getvalue().decode("utf-8")


_PATH = f"{Path(sys.executable).parent}{os.pathsep}{os.environ.get('PATH', '')}"
_ENVIRONMENT = {"PATH": _PATH, "COLUMNS": "80", "NO_COLOR": "1", "GIT_CONFIG_GLOBAL": os.devnull, "PAGER": "cat"}


@contextlib.contextmanager
def _standing(root: Path) -> Iterator[None]:
    before, told, stdin = Path.cwd(), dict(os.environ), sys.stdin
    os.chdir(root)
    os.environ.update(_ENVIRONMENT)
    sys.stdin = io.StringIO()
    try:
        yield
    finally:
        sys.stdin = stdin
        os.chdir(before)
        os.environ.clear()
        os.environ.update(told)


def main(words: list[str]) -> int:
    """Write the pages, or say which are old."""
    named, old = [word for word in words if word != "--check"], []
    for page in sorted(GUIDE.glob("*.md")):
        if named and page.stem not in named:
            continue
        text = page.read_text("utf-8")
        with tempfile.TemporaryDirectory() as folder:
            new = rendered(text, Path(folder))
        if new != text:
            old.append(page.name)
            if "--check" not in words:
                page.write_text(new, "utf-8")
    print(*old, sep="\n")
    return int(bool(old) and "--check" in words)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
