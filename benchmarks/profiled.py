"""Where the time of the main commands goes: a profile of each, on trees that are made for it.

Run: python benchmarks/profiled.py [COMMAND ...] (default survey rename check stamp), or make profile
"""

from __future__ import annotations

import contextlib
import cProfile
import io
import os
import pstats
import sys
import tempfile
from pathlib import Path

import brands
import run
from onomaxis.cli.main import main as program

LINES = 25
FILES, TOUCHED, FLAVORS = 4_000, 1_000, 60
COMMANDS = {
    "survey": ("files", "--json"),
    "rename": ("files", "--id", "org.lendspan.tools", "--json", "--yes"),
    "check": ("flavors", "--json"),
    "stamp": ("flavors", "--json", "--dry-run"),
}


def profile(words: list[str]) -> pstats.Stats:
    """Run a command in this process, its output unseen; return where its time went."""
    profiler = cProfile.Profile()
    with (
        open(os.devnull, "w", encoding="utf-8") as nowhere,
        contextlib.redirect_stdout(nowhere),
        contextlib.suppress(SystemExit),
    ):
        profiler.runcall(program, words)
    told = io.StringIO()
    stats = pstats.Stats(profiler, stream=told).strip_dirs().sort_stats("tottime")
    stats.print_stats(LINES)
    print(told.getvalue().strip())
    return stats


def main() -> None:
    """Make the two trees and print a profile of each command: by the time spent in the function itself."""
    chosen = sys.argv[1:] or list(COMMANDS)
    if unknown := [name for name in chosen if name not in COMMANDS]:
        sys.exit(f"no profile of {', '.join(unknown)}: one of {', '.join(COMMANDS)}")
    with tempfile.TemporaryDirectory(prefix="onomaxis-profile-") as folder:
        files, flavors = Path(folder) / "files", Path(folder) / "flavors"
        files.mkdir()
        run.make_tree(files, FILES, TOUCHED)
        brands.make(flavors, FLAVORS)
        for name in chosen:
            tree, *options = COMMANDS[name]
            what = f"{FILES:,} files" if tree == "files" else f"{FLAVORS} flavors"
            print(f"\n== {name}: {what}")
            profile([name, str(files if tree == "files" else flavors), *options])


if __name__ == "__main__":
    main()
