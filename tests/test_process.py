"""The installed program as a user starts it: processes, streams, exit codes, signals, pipes, terminals, completion."""

from __future__ import annotations

import fcntl
import json
import os
import shlex
import signal
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest

from conftest import commit_all, files, onomaxis, process, snapshot
from hybrids import KINDS, spelled
from onomaxis.demo import ART, KEYSTORE, PASSWORD
from onomaxis.demo.brandmaking import make_keystore

pytestmark = [pytest.mark.processes, pytest.mark.skipif(os.name == "nt", reason="pseudo terminals and signals are POSIX things")]
PROGRAM = [sys.executable, "-m", "onomaxis"]


def _signals() -> None:
    """Give a child the signals that a shell would: some CI systems start everything with SIGINT ignored."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)


def _own_terminal() -> None:
    _signals()
    fcntl.ioctl(0, 0x540E, 0)  # TIOCSCTTY: Ctrl-C reaches the child


LAUNCHER = {
    "app/src/main/AndroidManifest.xml": '<manifest xmlns:android="http://schemas.android.com/apk/res/android">\n'
    '    <application android:label="@string/app_name" android:icon="@mipmap/ic_launcher"/>\n</manifest>\n',
    "app/src/main/res/mipmap-anydpi-v26/ic_launcher.xml": "<adaptive-icon/>\n",
}


@pytest.mark.usefixtures("processors")
def test_the_installed_program(small: Callable[..., Path]) -> None:
    """Every command's main road as a user starts it: a process of its own, its exit code, its two streams."""
    demo = files(small(), LAUNCHER)
    store = demo.parent / KEYSTORE
    make_keystore(store)
    roads = [
        ["--version"],
        ["--help"],
        ["survey", demo],
        ["rename", demo, "--id", "org.lendspan.shed"],
        ["undo", demo],
        ["icons", demo, "--foreground", ART / "ladder-foreground.svg", "--background", "#2E6B4F"],
        ["proof", demo, "--out", demo.parent / "p.png"],
        ["adopt", demo],
        ["stamp", demo],
        ["ledger", "add", demo],
        ["fingerprint", store, demo, "--password-env", "P"],
    ]
    for words in roads:
        done = process(*words, env={"P": PASSWORD})
        assert done.code == 0 and (done.out or done.err), (words, done.err)
    assert process("check", demo, "--publish").code == 1 and process("survey", demo / "gone").code == 2


def test_who_is_asked(tmp_path: Path) -> None:
    """An answer that waits is read; without one, only what version control keeps is written unasked."""
    script = tmp_path / "app/build.gradle"
    files(
        tmp_path,
        {
            "app/build.gradle": "apply plugin: 'com.android.application'\nandroid { defaultConfig { applicationId 'org.x' } }\n",
            "app/src/main/AndroidManifest.xml": "<manifest/>\n",
        },
    )
    old = script.read_bytes()
    words = ["rename", tmp_path, "--id", "org.y"]
    for answer, said in (("n\n", "stopped"), ("no\n", "stopped"), ("other\n", "stopped"), (None, "--yes"), ("", "--yes")):
        done = process(*words, yes=False, answer=answer)
        assert done.code == 3 and said in done.err and script.read_bytes() == old
    assert process(*words, yes=False, answer="y\n").code == 0 and b"org.y" in script.read_bytes()
    assert process("undo", tmp_path, yes=False).code == 0 and script.read_bytes() == old
    commit_all(tmp_path)
    assert process(*words, yes=False).code == 0
    commit_all(tmp_path)
    script.write_bytes(script.read_bytes() + b"// mine\n")
    done = process("rename", tmp_path, "--id", "org.z", "--allow-dirty", yes=False)
    assert done.code == 3 and "does not keep" in done.err


def test_ctrl_c_while_asking(small: Callable[..., Path]) -> None:
    """Without a yes on the terminal nothing is written; Ctrl-C ends with the code for refused."""
    if os.name == "nt":
        pytest.skip("pseudo terminals are a POSIX thing")
    import pty

    root = small()
    before = snapshot(root)
    for answer in (b"n\n", b"\x03", b"y\n"):
        leader, follower = pty.openpty()
        process = subprocess.Popen(
            [sys.executable, "-m", "onomaxis", "rename", str(root), "--name", "Shed"],
            stdin=follower,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            start_new_session=True,
            preexec_fn=_own_terminal,
        )
        assert process.stderr is not None
        err = b""
        while not err.endswith(b"[y/N] "):
            err += os.read(process.stderr.fileno(), 4096)
        os.write(leader, answer)
        _, rest = process.communicate(timeout=30)
        err += rest
        assert process.returncode == (0 if answer == b"y\n" else 3), err
        assert (snapshot(root) == before) == (answer != b"y\n")
        os.close(leader)
        os.close(follower)


@pytest.mark.parametrize("kind", KINDS)
def test_each_kind_once(tmp_path: Path, kind: str) -> None:
    """Each kind of project is surveyed and renamed by a process of its own."""
    root = files(tmp_path / "x", spelled(kind, "org.x.shed", "Shed", "1.2", "7"))
    found = json.loads(process("survey", root, "--json").out)
    assert {app["id"] for app in found["apps"]} == {"org.x.shed"} and process("rename", root, "--name", "Barn", "--quiet").code == 0


# What is asked, and the exit code that answers it.
CODES = [
    (["survey"], 0), (["check", "--only", "names"], 0), (["check", "--only", "ids", "--publish"], 1), (["rename"], 2), (["rename", "--nonsense"], 2),
    (["rename", "--flavor", "none", "--name", "X"], 2), (["rename", "--name", "Shed", "--build", "x"], 2), (["stamp"], 2), (["undo"], 2),
    (["proof", "--size", "x"], 2),
]  # fmt: skip


@pytest.mark.parametrize(("words", "code"), CODES, ids=lambda item: " ".join(item) if isinstance(item, list) else str(item))
def test_exit_codes(small: Callable[..., Path], words: list[str], code: int) -> None:
    """The exit code is the design's; what went wrong stands on standard error, nothing on standard output."""
    root = small("com.example.app")
    run = process if words[0] in ("survey", "undo") else onomaxis
    done = run(words[0], root, *words[1:])
    assert done.code == code, done.err
    assert bool(done.out) == (code < 2) and bool(done.err) == (code >= 2)


@pytest.mark.parametrize(
    "env",
    [{"PYTHONIOENCODING": "ascii"}, {"LC_ALL": "C", "PYTHONUTF8": "0", "PYTHONCOERCECLOCALE": "0"}, {"PYTHONIOENCODING": "latin-1"}],
    ids=lambda env: next(iter(env)),
)
def test_terminals_of_any_encoding(small: Callable[..., Path], env: dict[str, str]) -> None:
    """A name that the terminal cannot show is escaped, in what is shown alone; the file holds it, JSON is UTF-8."""
    root, name = small(), "Voilà \u202e 👩\u200d👧 שלום"
    done = subprocess.run([*PROGRAM, "rename", str(root), "--name", name, "--yes"], env={**os.environ, **env}, capture_output=True, check=False)
    assert done.returncode == 0 and b"Traceback" not in done.stderr, done.stderr
    shown = subprocess.run([*PROGRAM, "survey", str(root)], env={**os.environ, **env}, capture_output=True, check=True)
    assert b"org.lendspan.app" in shown.stdout
    data = subprocess.run([*PROGRAM, "survey", str(root), "--json"], env={**os.environ, **env}, capture_output=True, check=True).stdout
    assert json.loads(data.decode("utf-8"))["apps"][0]["name"] == name


@pytest.mark.parametrize("words", [["survey", "--all"], ["survey", "--json"], ["rename", "--id", "org.y", "--dry-run"], ["history"]], ids=" ".join)
def test_a_reader_that_goes_away(small: Callable[..., Path], words: list[str]) -> None:
    """A closed pipe ends the program without a word: ``onomaxis survey | head -1``."""
    root = small(extra={f"app/src/main/java/org/lendspan/app/T{n}.kt": "package org.lendspan.app\n" for n in range(300)})
    running = subprocess.Popen([*PROGRAM, words[0], str(root), *words[1:]], stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    assert running.stdout is not None and running.stderr is not None
    running.stdout.close()
    err = running.stderr.read().decode()
    running.wait(timeout=30)
    assert "Traceback" not in err and "Broken pipe" not in err and running.returncode in (0, 2)


def test_interrupted_while_it_reads(small: Callable[..., Path]) -> None:
    """Ctrl-C at any time ends with code 3 and one line; nothing is changed."""
    root = small()
    before = snapshot(root)
    script = """
import os, signal, sys
from onomaxis import tree
from onomaxis.cli.main import run
left, read = [int(sys.argv.pop(1))], tree.Tree.read
def interrupted(self, path):
    left[0] -= 1
    if not left[0]:
        os.kill(os.getpid(), signal.SIGINT)
    return read(self, path)
tree.Tree.read = interrupted
run()
"""
    for at in (1, 2, 5, 9):
        words = [sys.executable, "-c", script, str(at), "rename", str(root), "--id", "org.y", "--yes"]
        done = subprocess.run(words, capture_output=True, check=False, preexec_fn=_signals)
        assert done.returncode == 3 and b"nothing was changed" in done.stderr and snapshot(root) == before, (at, done.stderr)


@pytest.mark.parametrize(
    ("line", "expected"),
    [
        ("onomaxis ren", {"rename", "renumber"}),
        ("onomaxis flavor re", {"retire"}),
        ("onomaxis check --onl", {"--only"}),
        ("onomaxis check --only si", {"signing"}),
    ],
)
def test_completion(tmp_path: Path, line: str, expected: set[str]) -> None:
    """The shell's completion is answered by the program, on the stream that it listens to."""
    out = tmp_path / "answers"
    env = {
        **os.environ,
        "_ARGCOMPLETE": "1",
        "_ARGCOMPLETE_IFS": "\n",
        "COMP_LINE": line,
        "COMP_POINT": str(len(line)),
        "_ARGCOMPLETE_STDOUT_FILENAME": str(out),
        "_ARGCOMPLETE_SUPPRESS_SPACE": "1",
    }
    done = subprocess.run(PROGRAM, env=env, capture_output=True, check=False)
    assert done.returncode == 0, done.stderr
    assert {item.strip() for item in out.read_text().split("\n") if item.strip()} == expected


@pytest.mark.parametrize("columns", [40, 80, 132])
def test_on_a_terminal(small: Callable[..., Path], columns: int) -> None:
    """On a terminal there is colour; NO_COLOR and --no-color take it away; no line is longer than the terminal is wide."""
    import pty
    import re
    import struct
    import termios

    def shown(*words: str, **env: str) -> str:
        leader, follower = pty.openpty()
        fcntl.ioctl(follower, termios.TIOCSWINSZ, struct.pack("HHHH", 40, columns, 0, 0))
        running = subprocess.Popen([*PROGRAM, *words], stdin=follower, stdout=follower, stderr=follower, env={**os.environ, "TERM": "xterm-256color", **env})
        os.close(follower)
        data = b""
        while True:
            try:
                part = os.read(leader, 65536)
            except OSError:
                break
            if not part:
                break
            data += part
        running.wait(timeout=30)
        os.close(leader)
        return data.decode("utf-8", "replace")

    root = small()
    colored = shown("survey", str(root))
    assert "\x1b[" in colored
    for plain in (shown("survey", str(root), "--no-color"), shown("survey", str(root), NO_COLOR="1")):
        assert not re.search(r"\x1b\[[0-9;]*3[0-9]", plain)
    if columns >= 80:
        texts = re.sub(r"\x1b\[[0-9;]*[A-Za-z]", "", colored).replace("\r", "").split("\n")
        assert max(map(len, texts)) <= columns, max(texts, key=len)


def test_a_folder_that_is_gone(tmp_path: Path) -> None:
    """A shell that stands in a removed folder gets plain words, and the help all the same."""
    folder = tmp_path / "gone"
    folder.mkdir()
    said = f"cd {shlex.quote(str(folder))} && rmdir {shlex.quote(str(folder))} && {shlex.quote(sys.executable)} -m onomaxis"
    done = subprocess.run(["sh", "-c", f"{said} survey"], capture_output=True, text=True, check=False)
    assert done.returncode == 2 and "onomaxis: the current folder is gone\n  Go to a folder that exists." in done.stderr
