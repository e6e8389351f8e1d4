"""How many small changes to the program its tests notice.

Run: python benchmarks/mutants.py [--number 300] [--seed 1] [--room writing ...] [--again FILE] [--killers FILE]
Which test reaches which line is measured first (build/reached, as long as two runs of the suite) and kept until it is
deleted. Then one process loads the program and its tests; for every change it forks, exchanges the code of one function
and runs the tests that reach the changed line, those that reach little else first, until one fails or their time is up.
A change on a line that no test reaches counts as unnoticed.
Sentences are left alone: their words are not what the tests hold. Printed are a table by room and every survivor; ``--again``
takes a list of survivors (a line each, as printed) and tries just these; with ``--killers`` no test is the last, and
the file says which tests noticed each change: one that never was the only one may be weaker than its neighbours.
"""

from __future__ import annotations

import argparse
import ast
import copy
import functools
import gc
import json
import os
import pkgutil
import random
import re
import resource
import signal
import subprocess
import sys
import tempfile
import time
import types
from collections import defaultdict
from collections.abc import Iterator
from importlib import import_module
from pathlib import Path
from typing import NamedTuple, TextIO

import coverage
import pytest

import onomaxis

ROOT = Path(__file__).parent.parent
SOURCE = Path(onomaxis.__file__).parent
REACHED = ROOT / "build" / "reached"
ROOMS = ("writing", "formats", "rename", "brands", "projects", "icons")
# Seconds of tests that one change may cost, by what they took when nothing was changed; and of a child in all.
BUDGET, LONGEST = 25.0, 90
MOST, BROAD = 80, 20


class Change(NamedTuple):
    """One small change: file, line, the function that holds it, what is done, and the number of the candidate."""

    path: str
    line: int
    function: str
    what: str
    number: int

    def __str__(self) -> str:
        return f"{self.path}:{self.line} {self.function} #{self.number} {self.what}"


OPPOSITE = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Add,
    ast.And: ast.Or,
    ast.Or: ast.And,
    ast.BitOr: ast.BitAnd,
    ast.BitAnd: ast.BitOr,
}


def changed(node: ast.AST) -> Iterator[tuple[str, ast.AST]]:
    """Yield what may be put in the place of a node: a word for it, and the new node."""
    if isinstance(node, ast.Compare) and type(node.ops[0]) in OPPOSITE:
        other = copy.deepcopy(node)
        other.ops[0] = OPPOSITE[type(node.ops[0])]()
        yield f"{ast.unparse(node)} -> {ast.unparse(other)}", other
    if isinstance(node, ast.BoolOp | ast.BinOp) and type(node.op) in OPPOSITE:
        other = copy.deepcopy(node)
        other.op = OPPOSITE[type(node.op)]()
        yield f"{ast.unparse(node)} -> {ast.unparse(other)}", other
    if isinstance(node, ast.BoolOp):
        yield f"{ast.unparse(node)} -> its first part", copy.deepcopy(node.values[0])
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
        yield f"{ast.unparse(node)} -> without not", copy.deepcopy(node.operand)
    if isinstance(node, ast.Constant) and isinstance(node.value, bool):
        yield f"{node.value} -> {not node.value}", ast.Constant(not node.value)
    elif isinstance(node, ast.Constant) and isinstance(node.value, int):
        yield f"{node.value} -> {node.value + 1}", ast.Constant(node.value + 1)
    elif isinstance(node, ast.Constant) and isinstance(node.value, str) and node.value and " " not in node.value:
        yield f"{node.value!r} -> {node.value + 'x'!r}", ast.Constant(node.value + "x")
    if isinstance(node, ast.IfExp):
        yield f"{ast.unparse(node)} -> always the first", copy.deepcopy(node.body)
    if isinstance(node, ast.If | ast.While):
        other = copy.deepcopy(node)
        other.test = ast.UnaryOp(ast.Not(), other.test)
        yield f"{type(node).__name__.lower()} {ast.unparse(node.test)} -> not", other
    if isinstance(node, ast.Return) and node.value is not None and not isinstance(node.value, ast.Constant):
        yield f"{ast.unparse(node)} -> return None", ast.Return(ast.Constant(None))
    if isinstance(node, ast.Expr) and isinstance(node.value, ast.Call):
        yield f"{ast.unparse(node)} -> left out", ast.Pass()
    if isinstance(node, ast.AugAssign):
        yield f"{ast.unparse(node)} -> left out", ast.Pass()
    if isinstance(node, ast.Continue):
        yield "continue -> break", ast.Break()
    if isinstance(node, ast.comprehension) and node.ifs:
        other = copy.deepcopy(node)
        other.ifs.pop()
        yield f"if {ast.unparse(node.ifs[-1])} -> left out", other


def _skipped(function: ast.AST) -> set[int]:
    """Return the nodes in which nothing is changed: docstrings, what is printed in an assertion, type hints."""
    found: set[int] = set()
    for node in ast.walk(function):
        parts: list[ast.AST] = []
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            parts += [
                item
                for item in (node.returns, *node.decorator_list, *(arg.annotation for arg in node.args.args))
                if item
            ]
            if ast.get_docstring(node, clean=False) is not None:
                parts.append(node.body[0])
        if isinstance(node, ast.AnnAssign):
            parts.append(node.annotation)
        if isinstance(node, ast.Assert):
            parts.append(node)
        if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "cast":
            parts.append(node.args[0])
        found |= {id(inner) for part in parts for inner in ast.walk(part)}
    return found


def functions(tree: ast.Module) -> Iterator[tuple[str, ast.FunctionDef | ast.AsyncFunctionDef]]:
    """Yield the functions of a module and of its classes, those within functions left to them."""

    def below(body: list[ast.stmt], lead: str) -> Iterator[tuple[str, ast.FunctionDef | ast.AsyncFunctionDef]]:
        for node in body:
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                yield lead + node.name, node
            elif isinstance(node, ast.ClassDef):
                yield from below(node.body, f"{lead}{node.name}.")

    yield from below(tree.body, "")


def candidates(path: Path) -> list[Change]:
    """Return every change that can be made to the functions of a file, in order."""
    found: list[Change] = []
    for name, function in functions(ast.parse(path.read_text("utf-8"))):
        skipped = _skipped(function)
        for node in ast.walk(function):
            if id(node) not in skipped:
                line = getattr(node, "lineno", 0) or getattr(getattr(node, "target", None), "lineno", function.lineno)
                for what, _ in changed(node):
                    found.append(
                        Change(
                            path.relative_to(SOURCE).as_posix(), line, name, what.replace("\n", " ")[:110], len(found)
                        )
                    )
    return found


def mutated(change: Change) -> types.CodeType:
    """Return the code of the changed function."""
    path = SOURCE / change.path
    tree = ast.parse(path.read_text("utf-8"))
    number = -1
    for name, function in functions(tree):
        skipped = _skipped(function)
        for node in list(ast.walk(function)):
            for _, other in [] if id(node) in skipped else changed(node):
                number += 1
                if number == change.number:
                    _exchange(function, node, ast.copy_location(other, node) if hasattr(node, "lineno") else other)
                    code = compile(ast.fix_missing_locations(tree), str(path), "exec")
                    return next(item for item in _codes(code) if item.co_qualname == name)
    raise LookupError(str(change))


def _exchange(root: ast.AST, old: ast.AST, new: ast.AST) -> None:
    for node in ast.walk(root):
        for name, value in ast.iter_fields(node):
            if value is old:
                setattr(node, name, new)
            elif isinstance(value, list) and any(item is old for item in value):
                setattr(node, name, [new if item is old else item for item in value])


def _codes(code: types.CodeType) -> Iterator[types.CodeType]:
    for item in code.co_consts:
        if isinstance(item, types.CodeType):
            yield item
            yield from _codes(item)


def reached() -> dict[str, dict[int, list[str]]]:
    """Return for every file of the program which tests reach each of its lines; measure it where that is not known."""
    if not REACHED.exists():
        REACHED.parent.mkdir(exist_ok=True)
        words = [
            "-n",
            "auto",
            "--dist",
            "worksteal",
            "--cov=onomaxis",
            "--cov-branch",
            "--cov-context=test",
            "--cov-report=",
        ]
        subprocess.run(
            [sys.executable, "-m", "pytest", *words],
            cwd=ROOT,
            env={**os.environ, "COVERAGE_FILE": str(REACHED)},
            check=True,
        )
    data = coverage.CoverageData(str(REACHED))
    data.read()
    found: dict[str, dict[int, list[str]]] = {}
    for name in data.measured_files():
        if name.startswith(str(SOURCE)):
            by_line = data.contexts_by_lineno(name)
            found[Path(name).relative_to(SOURCE).as_posix()] = {
                line: sorted({text.rpartition("|")[0] for text in contexts if text})
                for line, contexts in by_line.items()
            }
    return found


class Runner:
    """A plugin that takes the place of pytest's loop over the tests."""

    def __init__(
        self, changes: list[Change], known: dict[str, dict[int, list[str]]], out: TextIO, killers: Path | None = None
    ) -> None:
        self.out = out
        self.killers = killers
        self.changes = changes
        self.known = known
        self.failed = False
        self.seconds: dict[str, float] = defaultdict(float)
        self.verdicts: dict[Change, str] = {}

    def pytest_runtest_logreport(self, report: pytest.TestReport) -> None:
        self.failed = self.failed or report.failed
        self.seconds[report.nodeid] += report.duration

    def pytest_runtestloop(self, session: pytest.Session) -> bool:
        items = {item.nodeid: item for item in session.items}
        breadth: dict[str, int] = defaultdict(int)
        for lines in self.known.values():
            for tests in lines.values():
                for test in tests:
                    breadth[test] += 1
        wanted = {change: self._tests(change, items, breadth) for change in self.changes}
        needed = dict.fromkeys(test for tests in wanted.values() for test in tests)
        self.say(f"{len(self.changes)} changes, {len(needed)} tests in question")
        session.config._tmp_path_factory.getbasetemp()
        for test in self._tried([items[test] for test in needed]):
            self.say(f"left out, it fails by itself: {test}")
            needed.pop(test)
        gc.unfreeze()
        self._all({change: [test for test in tests if test in needed] for change, tests in wanted.items()}, items)
        return True

    def say(self, text: str) -> None:
        print(text, file=self.out, flush=True)

    def _tried(self, items: list[pytest.Item]) -> list[str]:
        """Run every test once as it is, spread over the processors; keep how long each took, return those that fail."""
        results = []
        for processor in (free := sorted(os.sched_getaffinity(0))):
            results.append(Path(tempfile.mkstemp()[1]))
            if not os.fork():
                os.sched_setaffinity(0, {processor})
                failed = []
                for item in items[free.index(processor) :: len(free)]:
                    self.failed = False
                    _run(item)
                    failed += [item.nodeid] if self.failed else []
                results[-1].write_text(json.dumps([failed, self.seconds]))
                os._exit(0)
        told = []
        for _ in results:
            os.wait()
        for path in results:
            failed, seconds = json.loads(path.read_text())
            self.seconds.update(seconds)
            told += failed
            path.unlink()
        return told

    def _tests(self, change: Change, items: dict[str, pytest.Item], breadth: dict[str, int]) -> list[str]:
        """Return the tests for a change, those first that reach little else; of very many the broadest last."""
        found = [test for test in self.known.get(change.path, {}).get(change.line, []) if test in items]
        found = [
            test
            for test in found
            if not items[test].get_closest_marker("processes") and not items[test].get_closest_marker("journeys")
        ]
        found.sort(key=lambda test: (breadth[test], test))
        return found if len(found) <= MOST else [*found[: MOST - BROAD], *found[-BROAD:]]

    def _all(self, wanted: dict[Change, list[str]], items: dict[str, pytest.Item]) -> None:
        children: dict[int, Change] = {}
        free = sorted(os.sched_getaffinity(0))
        processors = dict[int, int]()
        left = list(self.changes)
        while left or children:
            while left and free:
                change = left.pop(0)
                if not wanted[change]:
                    self._verdict(change, "not reached")
                    continue
                processor = free.pop()
                child = os.fork()
                if not child:
                    os.sched_setaffinity(0, {processor})
                    self._try(change, [items[test] for test in self._affordable(wanted[change])])
                children[child], processors[child] = change, processor
            if children:
                child, status = os.wait()
                free.append(processors.pop(child))
                code = os.waitstatus_to_exitcode(status)
                self._verdict(children.pop(child), {0: "survived", 7: "not made"}.get(code, "caught"))

    def _affordable(self, tests: list[str]) -> list[str]:
        spent, found = 0.0, []
        for test in tests:
            if spent + self.seconds[test] <= BUDGET or not found:
                spent += self.seconds[test]
                found.append(test)
        return found

    def _verdict(self, change: Change, verdict: str) -> None:
        self.verdicts[change] = verdict
        if verdict != "caught":
            self.say(f"{verdict}: {change}")

    def _try(self, change: Change, items: list[pytest.Item]) -> None:
        """In a child: exchange the function's code and run tests until one fails."""
        signal.alarm(3 * LONGEST)
        resource.setrlimit(resource.RLIMIT_CPU, (LONGEST, LONGEST))
        nowhere = os.open(os.devnull, os.O_WRONLY)
        os.dup2(nowhere, 1)
        os.dup2(nowhere, 2)
        code = 7
        try:
            if exchanged(change):
                code = 0
                for item in items:
                    self.failed = False
                    _run(item)
                    if self.failed:
                        code = 1
                        if self.killers is None:
                            break
                        with self.killers.open("a", encoding="utf-8") as out:
                            out.write(f"{item.nodeid}\t{change}\n")
        except BaseException:
            code = 1
        finally:
            os._exit(code)


def exchanged(change: Change) -> bool:
    """Exchange the code of the changed function wherever it is held; tell whether there was one."""
    code = mutated(change)
    found = False
    for item in gc.get_objects():
        if isinstance(item, functools._lru_cache_wrapper) and str(getattr(item, "__module__", "")).startswith(
            "onomaxis"
        ):
            item.cache_clear()
        if isinstance(item, types.FunctionType):
            old = item.__code__
            if (
                old.co_filename == code.co_filename
                and old.co_qualname == code.co_qualname
                and len(old.co_freevars) == len(code.co_freevars)
            ):
                item.__code__ = code
                found = True
    return found


def _run(item: pytest.Item) -> None:
    item.ihook.pytest_runtest_protocol(item=item, nextitem=None)


def chosen(rooms: list[str], number: int, seed: int, known: dict[str, dict[int, list[str]]]) -> list[Change]:
    """Choose changes at random: a function first, by its size, then one of its changes."""
    by_function: dict[tuple[str, str], list[Change]] = defaultdict(list)
    for room in rooms:
        for path in sorted((SOURCE / room).rglob("*.py")):
            for change in candidates(path):
                by_function[change.path, change.function].append(change)
    dice = random.Random(seed)
    names = sorted(by_function)
    weights = [min(len(by_function[name]), 12) for name in names]
    found: dict[Change, None] = {}
    while len(found) < number:
        found[dice.choice(by_function[dice.choices(names, weights)[0]])] = None
    return list(found)


def _candidates_of(path: str) -> list[Change]:
    return candidates(SOURCE / path) if (SOURCE / path).exists() else []


def again(path: str) -> list[Change]:
    """Return the changes that a list names."""
    found = []
    for line in Path(path).read_text("utf-8").splitlines():
        told = re.search(r"([\w/]+\.py):\d+ ([\w.]+) #(\d+) (.*)", line)
        if told:
            item = next(
                (item for item in _candidates_of(told[1]) if item.function == told[2] and item.what == told[4]), None
            )
            if item is None:
                print(f"no longer there: {line}")
            else:
                found.append(item)
    return found


def main() -> None:
    """Print what is noticed, room by room, and what is not."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--number", type=int, default=300)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--room", action="append", choices=ROOMS)
    parser.add_argument("--again", help="a list of changes, as this program prints them")
    parser.add_argument("--killers", type=Path, help="a file for the tests that notice each change")
    options = parser.parse_args()
    sys.dont_write_bytecode = True
    os.chdir(ROOT)
    known = reached()
    changes = (
        again(options.again)
        if options.again
        else chosen(options.room or list(ROOMS), options.number, options.seed, known)
    )
    files = sorted(
        {test.partition("::")[0] for change in changes for test in known.get(change.path, {}).get(change.line, [])}
    )
    for module in pkgutil.walk_packages(onomaxis.__path__, "onomaxis."):
        if not module.name.endswith("__main__"):
            import_module(module.name)
    out = os.fdopen(os.dup(1), "w")  # what pytest itself says is not asked for
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
    runner, begin = Runner(changes, known, out, options.killers), time.monotonic()
    words = ["-q", "-p", "no:cacheprovider", "-p", "no:xdist", *(name for name in files if Path(name).exists())]
    pytest.main(words, [runner])
    runner.say(f"\n{'room':<12}{'changes':>8}{'caught':>8}{'survived':>10}{'not reached':>13}{'noticed':>9}")
    rows: dict[str, list[str]] = defaultdict(list)
    for change, verdict in runner.verdicts.items():
        if verdict != "not made":
            rows[change.path.partition("/")[0]].append(verdict)
            rows["all"].append(verdict)
    for room, verdicts in sorted(rows.items(), key=lambda row: (row[0] == "all", row[0])):
        caught, survived, out = (verdicts.count(word) for word in ("caught", "survived", "not reached"))
        runner.say(f"{room:<12}{len(verdicts):>8}{caught:>8}{survived:>10}{out:>13}{caught / len(verdicts):>9.0%}")
    runner.say(f"{time.monotonic() - begin:.0f} s")


if __name__ == "__main__":
    main()
