"""Instructions that two fixed inputs cost, counted by callgrind: they do not drift with the machine as seconds do.

Run: python benchmarks/counted.py (needs Debian's valgrind)
One processor is given, so that nothing is done in a process that is not counted. The count of a bare Python that
imports argparse stands beside it.
"""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from onomaxis.demo import copy_demo
from run import make_tree

PROGRAM = [sys.executable, "-m", "onomaxis"]


def instructions(*words: str) -> int:
    """Return how many instructions a command executes; exits where it fails or valgrind is not there."""
    with tempfile.TemporaryDirectory(prefix="onomaxis-count-") as folder:
        tool = ["valgrind", "--tool=callgrind", f"--callgrind-out-file={folder}/out"]
        env = {**os.environ, "PYTHONHASHSEED": "0", "PYTHONDONTWRITEBYTECODE": ""}
        done = subprocess.run(
            [*tool, *words],
            env=env,
            capture_output=True,
            check=False,
            preexec_fn=lambda: os.sched_setaffinity(0, {0}),
        )
    found = re.search(rb"Collected : (\d+)", done.stderr)
    if found is None or done.returncode not in (0, 1):
        sys.exit(done.stderr.decode(errors="replace"))
    return int(found.group(1))


def main() -> None:
    """Print the counts, in millions."""
    if not shutil.which("valgrind"):
        sys.exit("valgrind is not installed: apt-get install valgrind")
    with tempfile.TemporaryDirectory(prefix="onomaxis-count-") as folder:
        demo = Path(folder) / "demo"
        copy_demo(str(demo))
        tree = Path(folder) / "tree"
        tree.mkdir()
        make_tree(tree, 2_000, 500)
        rows = {
            "import argparse": [sys.executable, "-c", "import argparse"],
            "survey of the demo": [*PROGRAM, "survey", str(demo), "--json"],
            "survey of 2,000 files, 500 of which mention the ID": [*PROGRAM, "survey", str(tree), "--json"],
        }
        for label, words in rows.items():
            subprocess.run(words, stdout=subprocess.DEVNULL, check=True)
            print(f"{label:<52}{instructions(*words) / 1e6:>10,.0f} million instructions", flush=True)


if __name__ == "__main__":
    main()
