"""Choose the cases of each test that ``make test`` runs: those that reach what no other case does, and two besides.

Run: python tools/seldom.py (as long as three runs of the suite). It measures which branches every case reaches,
writes tests/seldom.txt, and prints what is saved. ``make test-all`` runs every case, and so does naming a file.
"""

from __future__ import annotations

import contextlib
import heapq
import os
import sqlite3
import subprocess
import sys
import xml.etree.ElementTree as ET
from collections import defaultdict
from collections.abc import Mapping, Sequence, Set
from pathlib import Path

ROOT = Path(__file__).parent.parent
BUILD = ROOT / "build" / "seldom"
CHOSEN = ROOT / "tests" / "seldom.txt"
# Of a test with fewer cases all are run; of each at least so many.
LEAST = 3
# Of these every case is run: each holds what one project's files become, or that one rule speaks.
WHOLE = ("test_same_bytes.py::test_the_same_bytes", "test_checks.py::test_each_rule_speaks")
Reached = Mapping[str, Set[int]]


def collected() -> dict[str, list[str]]:
    """Return the cases of every test, in order."""
    words = [sys.executable, "-m", "pytest", "-o", "addopts=-q", "--every-case", "--collect-only"]
    out = subprocess.run(words, cwd=ROOT, check=True, capture_output=True, text=True).stdout
    found: dict[str, list[str]] = defaultdict(list)
    for line in out.splitlines():
        if line.startswith("tests/") and "::" in line:
            found[line.partition("[")[0]].append(line)
    return found


def measured() -> tuple[Reached, Mapping[str, float]]:
    """Run the suite; return what each case reaches, as numbers of branches, and the seconds that it takes.

    The tables are those of coverage.py's documentation, "The coverage database": its own calls ask file by file.
    """
    BUILD.mkdir(parents=True, exist_ok=True)
    words = "-n auto --dist worksteal --cov=onomaxis --cov-branch --cov-context=test --cov-report=".split()
    data, times = BUILD / "coverage", BUILD / "times.xml"
    subprocess.run(
        [sys.executable, "-m", "pytest", "--every-case", f"--junitxml={times}", *words],
        cwd=ROOT,
        env={**os.environ, "COVERAGE_FILE": str(data)},
        check=True,
    )
    numbers: dict[tuple[str, int, int], int] = {}
    reached: dict[str, set[int]] = defaultdict(set)
    asked = "SELECT context, path, fromno, tono FROM arc JOIN context ON context.id = context_id"
    asked += " JOIN file ON file.id = file_id"
    with contextlib.closing(sqlite3.connect(data)) as found:
        for context, *branch in found.execute(asked):
            reached[context.partition("|")[0]].add(numbers.setdefault(tuple(branch), len(numbers)))
    seconds = {
        f"{case.get('classname', '').replace('.', '/')}.py::{case.get('name')}": float(case.get("time", 0))
        for case in ET.parse(times).iter("testcase")
    }
    return reached, seconds


def chosen(every: Mapping[str, Sequence[str]], reached: Reached, seconds: Mapping[str, float]) -> set[str]:
    """Return the cases to run: some of each test, then whatever still reaches most for its time."""

    def cost(case: str) -> float:
        return seconds.get(case, 0.05) + 0.05

    kept: set[str] = set()
    seen: set[int] = set()
    for test, cases in every.items():
        own: set[int] = set()
        for _ in cases if test.endswith(WHOLE) else cases[:LEAST]:
            rest = {case: len(reached.get(case, set()) - own) + 1 for case in cases if case not in kept}
            case = max(rest, key=lambda case: rest[case] / cost(case))
            kept.add(case)
            own |= reached.get(case, set())
        seen |= own
    heap = [(0.0, case) for cases in every.values() for case in cases if case not in kept]
    heap = [(-len(reached.get(case, set()) - seen) / cost(case), case) for _, case in heap]
    heapq.heapify(heap)
    while heap:
        _, case = heapq.heappop(heap)
        worth = -len(reached.get(case, set()) - seen) / cost(case)
        if worth and heap and worth > heap[0][0]:
            heapq.heappush(heap, (worth, case))
        elif worth:
            kept.add(case)
            seen |= reached[case]
    return kept


def written(every: Mapping[str, Sequence[str]], kept: Set[str]) -> str:
    """Return the choice as text: for each test of which not all cases are run, how many there are, and which."""
    lines = []
    for test, cases in sorted(every.items()):
        numbers = [number for number, case in enumerate(cases) if case in kept]
        if len(numbers) < len(cases):
            lines.append(f"{test.removeprefix('tests/')} {len(cases)}: {' '.join(map(str, numbers))}\n")
    return "".join(lines)


def main() -> None:
    """Measure, choose, write."""
    every, (reached, seconds) = collected(), measured()
    kept = chosen(every, reached, seconds)
    CHOSEN.write_text(written(every, kept), "utf-8")
    whole, usual = sum(seconds.values()), sum(seconds.get(case, 0) for case in kept)
    print(f"{len(kept)} of {sum(map(len, every.values()))} cases; {usual:.0f} of {whole:.0f} seconds")


if __name__ == "__main__":
    main()
