"""What all tests share: the installed program, the demo as a git repository, snapshots, judges."""

from __future__ import annotations

import contextlib
import ctypes
import gc
import hashlib
import io
import json
import os
import shlex
import shutil
import subprocess
import sys
import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import NoReturn

import pytest
from filelock import FileLock
from hypothesis import HealthCheck, settings

from advice import misadvised
from onomaxis import workers
from onomaxis.cli.main import main
from onomaxis.demo import copy_demo
from onomaxis.tree import Tree

# Processes that the tests start find compiled modules, as those of an installed program do.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
os.environ.setdefault("PYTHONPYCACHEPREFIX", str(Path(__file__).parent.parent / "build" / "bytecode"))
sys.dont_write_bytecode, sys.pycache_prefix = False, os.environ["PYTHONPYCACHEPREFIX"]

# Nobody's own settings of git have a say in the tests.
os.environ |= {"GIT_CONFIG_GLOBAL": os.devnull, "GIT_CONFIG_NOSYSTEM": "1"}
# Folders of tests lie in memory where there is enough of it, and programs there can be started.
_SHARED = Path("/dev/shm")


def _in_memory() -> bool:
    try:
        found = os.statvfs(_SHARED)
    except (OSError, AttributeError):
        return False
    return found.f_bavail * found.f_frsize > 4 << 30 and not found.f_flag & getattr(os, "ST_NOEXEC", 8) and os.access(_SHARED, os.W_OK)


if _in_memory():
    os.environ.setdefault("PYTEST_DEBUG_TEMPROOT", str(_SHARED))

# Java's tools run for a moment only: what makes long runs quick would take longer than they do.
os.environ.setdefault("JAVA_TOOL_OPTIONS", "-XX:TieredStopAtLevel=1 -XX:+UseSerialGC -XX:-UsePerfData")

# The program runs without the collector of cycles, in the tests it runs seldom.
gc.set_threshold(200_000, 20, 50)

# A release runs everything (make test-all): every seed and three times the examples, anew each time. Otherwise the
# examples are the same in every run, and no clock decides.
THOROUGH = bool(os.environ.get("ONOMAXIS_TEST_ALL"))
settings.register_profile("usual", max_examples=34, deadline=None, derandomize=True, database=None, suppress_health_check=[HealthCheck.too_slow])
settings.register_profile("thorough", settings.get_profile("usual"), max_examples=100, derandomize=False)
settings.load_profile("thorough" if THOROUGH else "usual")


def examples(most: int) -> settings:
    """Return how often a property is tried: *most* times in a release's run, else a third of it."""
    return settings(max_examples=most if THOROUGH else most // 3)


GIT = ["git", "-c", "user.name=test", "-c", "user.email=test@invalid", "-c", "core.autocrlf=false"]


@dataclass(frozen=True)
class Result:
    """What one run of the program gave."""

    code: int
    out: str
    err: str

    @property
    def json(self) -> dict:
        document = json.loads(self.out)
        assert next(iter(document)) == "format" and document["format"] == 1
        return document


WRITING = ("rename", "renumber", "icons", "adopt", "stamp", "flavor", "ledger", "undo")


def words_of(words: tuple[object, ...], yes: bool) -> list[str]:
    """Return the command line; commands that write are told that this was meant, as a CI job would say it."""
    line = [str(word) for word in words]
    asks = bool(line) and line[0] in WRITING and "--yes" not in line and line[1:2] not in (["list"], ["show"])
    return [*line, "--yes"] if yes and asks and "--help" not in line else line


def process(*words: object, cwd: Path | None = None, env: dict | None = None, yes: bool = True, answer: str | None = None) -> Result:
    """Run the installed program in a process of its own, as a user does."""
    said = {"stdin": subprocess.DEVNULL} if answer is None else {"input": answer}
    done = subprocess.run(
        [sys.executable, "-m", "onomaxis", *words_of(words, yes)],
        cwd=cwd,
        env={**os.environ, **(env or {})},
        capture_output=True,
        text=True,
        encoding="utf-8",
        check=False,
        **said,
    )
    assert "Traceback" not in done.stderr, done.stderr
    return Result(done.returncode, done.stdout, done.stderr)


def onomaxis(*words: object, cwd: Path | None = None, env: dict | None = None, yes: bool = True, answer: str | None = None, encoding: str = "utf-8") -> Result:
    """Run the program's entry point in this process, with streams of its own."""
    out, err = (io.TextIOWrapper(io.BytesIO(), encoding, newline="") for _ in range(2))
    reader = io.TextIOWrapper(io.BytesIO((answer or "").encode()), "utf-8")
    with pytest.MonkeyPatch.context() as patch, contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        patch.setattr(sys, "stdin", reader)
        for name, value in (env or {}).items():
            patch.setenv(name, str(value))
        if cwd is not None:
            patch.chdir(cwd)
        try:
            code = main(words_of(words, yes))
        except SystemExit as stop:  # the parser ends so after --help and --version
            code = int(stop.code or 0)
    streams = []
    for stream in (out, err):
        stream.flush()
        said = stream.buffer.getvalue().decode(encoding, "strict" if encoding == "utf-8" else "replace")
        streams.append(said.replace("\r\n", "\n") if stream is err else said)
    assert "Traceback" not in streams[1], streams[1]
    wrong = misadvised([str(word) for word in words], streams[1])
    assert not wrong, wrong
    return Result(code, *streams)


inline = onomaxis


def commit_all(folder: Path) -> None:
    """Make *folder* a git repository, or commit everything in it."""
    if not (folder / ".git").exists():
        subprocess.run([*GIT, "init", "-q", "--template="], cwd=folder, check=True)
    subprocess.run([*GIT, "add", "-A"], cwd=folder, check=True)
    subprocess.run([*GIT, "commit", "-qm", "state", "--allow-empty"], cwd=folder, check=True)


def snapshot(folder: Path) -> dict[str, tuple[str, int]]:
    """Return digest and mode of every file, and every folder, outside version control and the journal."""
    found: dict[str, tuple[str, int]] = {}
    for path in sorted(folder.rglob("*")):
        name = path.relative_to(folder).as_posix()
        if name.split("/")[0] in (".git", ".onomaxis"):
            continue
        if path.is_symlink():
            found[name] = (f"link {path.readlink()}", 0)
        elif path.is_dir():
            found[name + "/"] = ("", 0)
        else:
            data = path.read_bytes() if path.is_file() else b"neither file nor folder"
            found[name] = (hashlib.sha256(data).hexdigest(), path.stat().st_mode)
    return found


def text_of(path: Path) -> str:
    """Return a file's text; those with a byte order mark of UTF-16 are read so."""
    data = path.read_bytes()
    return data.decode("utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8")


def files(folder: Path, contents: dict[str, str | bytes]) -> Path:
    """Write files below *folder*; text becomes UTF-8 with the line ends it has."""
    for name, content in contents.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content if isinstance(content, bytes) else content.encode("utf-8"))
    return folder


def judge(name: str) -> str:
    """Return the path of a judge; skip the test where it is missing, fail where it must be there."""
    found = shutil.which(name)
    if not found:
        missing(name)
    return str(found)


def missing(name: str) -> NoReturn:
    """Skip the test for want of a tool; fail where everything must be there."""
    if os.environ.get("ONOMAXIS_NO_SKIP"):
        pytest.fail(f"{name} is not installed, and no test may be skipped here")
    pytest.skip(f"{name} is not installed")


def least(work: Callable[[], object], enough: float, tries: int = 3) -> float:
    """Return the processor seconds that *work* takes, the least of some tries: none more once it took *enough* or less.

    A collection of the whole heap, or a neighbour that takes the caches, is no fault of the work.
    """
    found = float("inf")
    for _ in range(tries):
        begin = time.process_time()
        work()
        found = min(found, time.process_time() - begin)
        if found <= enough:
            break
    return found


@dataclass(frozen=True)
class Trap:
    """A program that a repository names, and that nobody may run: it leaves a trace."""

    path: Path
    trace: Path

    @property
    def word(self) -> str:
        """The path as a word of a shell's line."""
        return shlex.quote(str(self.path))

    def sprung(self) -> bool:
        """Tell whether it was run since it was asked last."""
        found = self.trace.exists()
        self.trace.unlink(missing_ok=True)
        return found


@pytest.fixture
def trap(tmp_path: Path) -> Trap:
    """A trap that works wherever the tests run: it has been sprung once."""
    made = Trap(tmp_path / "trap set.sh", tmp_path / "trap sprung")
    made.path.write_text(f"#!/bin/sh\ntouch {shlex.quote(str(made.trace))}\nexit 1\n")
    made.path.chmod(0o755)
    subprocess.run(["sh", "-c", made.word], check=False)
    assert made.sprung()
    return made


Templates = Callable[[str, Callable[[Path], object]], Path]


@pytest.fixture(scope="session")
def template(tmp_path_factory: pytest.TempPathFactory) -> Templates:
    """Return a folder by its name, which *make* fills once for all workers of a run; tests copy it."""
    base = tmp_path_factory.getbasetemp()
    shared = base.parent if "PYTEST_XDIST_WORKER" in os.environ else base

    def folder(name: str, make: Callable[[Path], object]) -> Path:
        made, done = shared / f"template-{name}", shared / f"template-{name}.done"
        with FileLock(f"{made}.lock"):
            if not done.exists():
                make(made)
                done.touch()
        return made

    return folder


def committed_demo(folder: Path) -> None:
    """Make the demo, committed to git."""
    copy_demo(str(folder))
    commit_all(folder)


@pytest.fixture
def demo(tmp_path: Path, template: Templates) -> Path:
    """A copy of the demo project, committed to git."""
    return Path(shutil.copytree(template("demo", committed_demo), tmp_path / "lendspan", symlinks=True))


@pytest.fixture
def branded(tmp_path: Path, template: Templates) -> Path:
    """A copy of the white-labelled demo, with its faults; no version control."""
    made = template("branded", lambda folder: copy_demo(str(folder), brands=True))
    return Path(shutil.copytree(made, tmp_path / "x", symlinks=True))


def memory(contents: Mapping[str, str | bytes]) -> Tree:
    """Return a tree that is nowhere but in memory."""
    data = {path: text if isinstance(text, bytes) else text.encode("utf-8") for path, text in contents.items()}
    return Tree.of(data)


@pytest.fixture
def small(tmp_path: Path) -> Callable[..., Path]:
    """Make a small Android project with given identity; extra files may replace its own."""

    def make(app_id: str = "org.lendspan.app", extra: dict[str, str | bytes] | None = None, code: str = "") -> Path:
        package = code or app_id
        folder = package.replace(".", "/")
        contents: dict[str, str | bytes] = {
            "settings.gradle": 'include ":app"\n',
            "app/build.gradle": (
                f"apply plugin: 'com.android.application'\nandroid {{\n    namespace '{package}'\n"
                f"    defaultConfig {{\n        applicationId '{app_id}'\n        versionCode 1\n"
                '        versionName "1.0"\n    }\n}\n'
            ),
            "app/src/main/AndroidManifest.xml": (
                '<manifest xmlns:android="http://schemas.android.com/apk/res/android">\n'
                '    <application android:label="@string/app_name" android:name=".App"/>\n</manifest>\n'
            ),
            "app/src/main/res/values/strings.xml": '<resources>\n    <string name="app_name">Old</string>\n</resources>\n',
            f"app/src/main/java/{folder}/App.kt": f"package {package}\n\nimport {package}.sub.Part\n\nclass App\n",
            f"app/src/main/java/{folder}/sub/Part.kt": f'package {package}.sub\n\nval part = "{package}.sub.Part"\n',
        }
        root = tmp_path / "small"
        files(root, {**contents, **(extra or {})})
        return root

    return make


def pytest_collection_finish() -> None:
    """What is there now stays: the collector need not look through it again."""
    gc.collect()
    gc.freeze()


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--every-case", action="store_true", help="run the cases too that reach nothing of their own (tests/seldom.txt)")


def pytest_configure(config: pytest.Config) -> None:
    """Give each worker of a run a processor of its own: programs that share theirs would only be in each other's way.

    Whoever names files or words gets every case of them; the workers are told, because they know of files alone.
    """
    worker, pin = os.environ.get("PYTEST_XDIST_WORKER", ""), getattr(os, "sched_setaffinity", None)
    if worker and pin is not None:
        usable = sorted(os.sched_getaffinity(0))
        pin(0, {usable[int(worker.removeprefix("gw")) % len(usable)]})
    if not worker:
        whole = config.args_source == config.ArgsSource.TESTPATHS and not config.option.keyword
        os.environ["ONOMAXIS_TEST_USUAL"] = "1" if whole and not THOROUGH and not config.getoption("--every-case") else ""


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Leave out what tests/seldom.txt does not name of a test's cases, where it has as many as when they were chosen."""
    if not os.environ.get("ONOMAXIS_TEST_USUAL"):
        return
    cases: dict[str, list[pytest.Item]] = {}
    for item in items:
        cases.setdefault(item.nodeid.partition("[")[0].removeprefix("tests/"), []).append(item)
    left = set[pytest.Item]()
    for line in Path(__file__).with_name("seldom.txt").read_text("utf-8").splitlines():
        head, _, numbers = line.rpartition(": ")
        test, _, most = head.rpartition(" ")
        every = cases.get(test, [])
        if len(every) == int(most):
            left.update(set(every) - {every[int(number)] for number in numbers.split()})
    if left:
        config.hook.pytest_deselected(items=list(left))
        items[:] = [item for item in items if item not in left]


@pytest.fixture(scope="module", autouse=True)
def _memory_given_back(request: pytest.FixtureRequest) -> Iterator[None]:
    """After the tests of pictures, give the pieces of memory back that large arrays came and went in."""
    yield
    if any(mark.name == "pictures" for mark in request.node.iter_markers()) and sys.platform == "linux":
        gc.collect()
        ctypes.CDLL(None).malloc_trim(0)


@pytest.fixture
def processors(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Let a test, and the programs that it starts, spread their work over two processors at least."""
    monkeypatch.setattr(workers, "_processors", lambda: max(2, os.cpu_count() or 1))
    before = os.sched_getaffinity(0) if hasattr(os, "sched_getaffinity") else set()
    if before:
        os.sched_setaffinity(0, range(os.cpu_count() or 1))
    yield
    if before:
        os.sched_setaffinity(0, before)


@pytest.fixture(autouse=True)
def flushed(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """Let nothing wait for the disk: what would have been made durable is noted, in its order."""
    said: list[str] = []
    monkeypatch.setattr(os, "fsync", lambda handle: said.append(str(Path(f"/proc/self/fd/{handle}").resolve())))
    monkeypatch.setattr(os, "sync", lambda: said.append("everything"), raising=False)
    return said


@pytest.fixture(autouse=True)
def _own_state(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    """Keep the user's state folder out of the tests; one for all tests of a run."""
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path_factory.getbasetemp() / "state"))
