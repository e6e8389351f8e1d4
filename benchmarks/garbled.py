"""Every command on projects of which one file is broken: what it says, what it leaves, and that it comes back.

    python benchmarks/garbled.py [--cases N] [--seed S]

Each case breaks one file of a project in one way and runs one command in a folder of its own. It counts as a finding
when the command ends with a traceback or code 4, takes more than a minute of processor time, writes though it only
reads, or when ``undo`` does not give every byte back. Prints each finding, then the table of what was tried.
"""

from __future__ import annotations

import argparse
import contextlib
import io
import random
import re
import shutil
import signal
import sys
import tempfile
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from functools import cache
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

from flavored import SEEDS, flavored
from hybrids import KINDS, spelled
from onomaxis.cli.main import main
from onomaxis.demo import copy_demo

Way = Callable[[bytes, random.Random], bytes]


def _lines(data: bytes, dice: random.Random) -> tuple[list[bytes], int, int]:
    lines = data.splitlines(keepends=True) or [b""]
    one, other = sorted(dice.randrange(len(lines)) for _ in range(2))
    return lines, one, other


def _swapped(data: bytes, dice: random.Random) -> bytes:
    lines, one, other = _lines(data, dice)
    return b"".join([*lines[:one], *lines[other:], *lines[one:other]])


def _doubled(data: bytes, dice: random.Random) -> bytes:
    lines, one, other = _lines(data, dice)
    return b"".join([*lines[: other + 1], *lines[one : other + 1], *lines[other + 1 :]])


def _unmerged(data: bytes, dice: random.Random) -> bytes:
    lines, one, other = _lines(data, dice)
    part = lines[one : other + 1]
    return b"".join(
        [*lines[:one], b"<<<<<<< ours\n", *part, b"=======\n", *part, b">>>>>>> theirs\n", *lines[other + 1 :]]
    )


def _one_of(pattern: bytes, news: list[bytes]) -> Way:
    def way(data: bytes, dice: random.Random) -> bytes:
        found = list(re.finditer(pattern, data))
        if not found:
            return data
        match = dice.choice(found)
        return data[: match.start()] + dice.choice(news) + data[match.end() :]

    return way


def _flipped(data: bytes, dice: random.Random) -> bytes:
    at = dice.randrange(len(data) or 1)
    return data[:at] + bytes([dice.randrange(256)]) + data[at + 1 :]


WAYS: dict[str, Way] = {
    "nothing broken": lambda data, dice: data,
    "cut off": lambda data, dice: data[: dice.randrange(len(data) or 1)],
    "a byte flipped": _flipped,
    "lines swapped": _swapped,
    "lines doubled": _doubled,
    "an unresolved merge": _unmerged,
    "a text becomes something else": _one_of(rb"\"[^\"\n]*\"|'[^'\n]*'", [b"7", b"null", b"[]", b"{}", b'""', b"x.y()"]),
    "a number becomes something else": _one_of(rb"\b\d+\b", [b'"seven"', b"-1", b"9" * 30, b"1e9", b"null", b"[1]"]),
    "a bracket goes": _one_of(rb"[{}()\[\]<>]", [b""]),
    "a bracket comes": _one_of(rb"\n", [b"}\n", b"{\n", b")\n", b"]\n", b"<a>\n"]),
    "another encoding": lambda data, dice: data.decode("latin-1").encode(dice.choice(["utf-16", "utf-16-le", "utf-8-sig", "utf-32"])),
    "a byte of another encoding": lambda data, dice: data.replace(b" ", b"\xe9", 1),
    "empty": lambda data, dice: b"",
    "only blanks": lambda data, dice: b"\n \t\n",
    "another file's": lambda data, dice: b'{"a": [1, {"b": null}]}',
}  # fmt: skip

READS = (
    "survey --json", "survey --all", "check", "check --publish --json", "report --out {out}", "flavor list", "flavor list --json", "history",
    "check --only flavors --only references", "ledger list", "flavor show {flavor}", "rename --id org.y.barn --dry-run", "proof --out {out}.png",
)  # fmt: skip
WRITES = (
    "rename --id org.y.barn --name Barn --version 3.0.0 --build 99", "rename --name Barn --flavor {flavor}", "rename --project-name Barn", "renumber --version minor --build +1",
    "renumber --every-flavor --build +1", "adopt", "stamp", "stamp --flavor {flavor}", "flavor add oakhollow --id org.y.oakhollow --shown Oak", "flavor retire {flavor}",
    "rename --name Barn --version 3.0.0 --build 99 --platform android", "rename --name Barn --id org.y.barn --platform ios", "renumber --build +1 --platform ios",
    "rename --name Barn --version 3.0.0 --app org.x.shed", "icons --background #123456 --platform ios", "icons --background #123456", "ledger add", "rename --id org.y.barn --keep-code --prose --services rewrite",
)  # fmt: skip


@cache
def projects() -> dict[str, tuple[dict[str, bytes], str]]:
    """Return the files of each project that is broken, and a flavor of it."""
    found: dict[str, tuple[dict[str, bytes], str]] = {}
    for name, more in (("demo", {}), ("counter", {"counter": True}), ("brands", {"brands": True})):
        with tempfile.TemporaryDirectory() as folder:
            found[name] = (_files(copy_demo(folder + "/d", **more)), "mossgate")
    for kind in KINDS:
        made = spelled(kind, "org.x.shed", "Shed", "1.2.0", "7")
        found[kind] = (
            {path: text.encode() if isinstance(text, str) else text for path, text in made.items()},
            "mossgate",
        )
    for seed in list(SEEDS)[::9]:
        project = flavored(seed)
        made = {path: text.encode() if isinstance(text, str) else text for path, text in project.files.items()}
        found[f"flavored {seed}"] = (made, "mossgate")
    return found


def _files(root: Path) -> dict[str, bytes]:
    return {
        path.relative_to(root).as_posix(): path.read_bytes() for path in sorted(root.rglob("*")) if path.is_file()
    }


def _said(words: list[str]) -> tuple[int, str]:
    out = io.TextIOWrapper(io.BytesIO(), "utf-8", newline="")
    err = io.TextIOWrapper(io.BytesIO(), "utf-8", newline="")
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            code = main(words)
        except SystemExit as stop:
            code = int(stop.code or 0)
    err.flush()
    return code, err.buffer.getvalue().decode("utf-8", "replace")


def tried(number: int, seed: int) -> tuple[str, str, str, int, str]:
    """Run one case: project, way, command, exit code, what is wrong (nothing where nothing is)."""
    dice = random.Random(f"{seed} {number}")
    name = dice.choice(sorted(projects()))
    contents, flavor = projects()[name]
    texts = [path for path, data in contents.items() if b"\0" not in data and data]
    path, way = dice.choice(texts), dice.choice(sorted(WAYS))
    writes = dice.random() < 0.6
    line = dice.choice(WRITES if writes else READS)
    base = Path(tempfile.mkdtemp(dir="/dev/shm" if Path("/dev/shm").is_dir() else None))
    root = base / "p"
    try:
        for file, data in {**contents, path: WAYS[way](contents[path], dice)}.items():
            (root / file).parent.mkdir(parents=True, exist_ok=True)
            (root / file).write_bytes(data)
        words = [word.format(out=base / "out.html", flavor=flavor) for word in line.split()]
        at = 2 if words[0] in ("flavor", "ledger") else 1
        words = (
            [*words[:at], *words[at:], str(root)]
            if words[0] == "flavor" and words[1] != "list"
            else [*words[:at], str(root), *words[at:]]
        )
        before = _files(root)

        def late(*_: object) -> None:
            raise TimeoutError

        signal.signal(signal.SIGVTALRM, late)
        signal.setitimer(signal.ITIMER_VIRTUAL, 60)
        try:
            code, said = _said([*words, *(["--yes"] if writes else [])])
        except TimeoutError:
            return name, way, line, -1, f"takes more than a minute: {path}"
        except Exception as error:
            return name, way, line, -1, f"{path}: {error!r}"
        finally:
            signal.setitimer(signal.ITIMER_VIRTUAL, 0)
        now = {file: data for file, data in _files(root).items() if not file.startswith(".onomaxis/")}
        wrong = f"{path}: {said.strip()[:300]}" if code == 4 or "Traceback" in said else ""
        if now != before and (not writes or code):
            wrong = wrong or f"{path}: wrote, with code {code}"
        if now != before and not wrong:
            undone, said = _said(["undo", str(root), "--yes"])
            back = {file: data for file, data in _files(root).items() if not file.startswith(".onomaxis/")}
            wrong = "" if back == before and not undone else f"{path}: undo gave {undone}: {said.strip()[:200]}"
        return name, way, line, code, wrong
    finally:
        shutil.rmtree(base, ignore_errors=True)


def results(cases: int, seed: int) -> Iterator[tuple[str, str, str, int, str]]:
    """Try the cases on all processors."""
    with ProcessPoolExecutor() as pool:
        yield from pool.map(tried, range(cases), [seed] * cases, chunksize=8)


def run() -> int:
    """Print the findings and the table. Returns 1 where there are findings."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--cases", type=int, default=2000)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    codes: Counter[int] = Counter()
    by_way: Counter[str] = Counter()
    findings = 0
    for name, way, line, code, wrong in results(options.cases, options.seed):
        codes[code] += 1
        by_way[way] += 1
        if wrong:
            findings += 1
            print(f"{name} | {way} | {line} | {code} | {wrong}", flush=True)
    print(f"{options.cases} cases, {findings} findings; exit codes {dict(sorted(codes.items()))}")
    print(", ".join(f"{way}: {number}" for way, number in sorted(by_way.items())))
    return 1 if findings else 0


if __name__ == "__main__":
    sys.exit(run())
