"""The writing core on its own: every order of moves, every step broken, disks without case, entries from elsewhere."""

from __future__ import annotations

import errno
import json
import os
import shutil
import stat
import subprocess
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import pytest

from conftest import commit_all, files, onomaxis, snapshot
from onomaxis.errors import InputError, OnomaxisError, RefusedError
from onomaxis.paths import fault_of
from onomaxis.tree import Tree
from onomaxis.writing.change import FileChange, joined
from onomaxis.writing.disk import ASIDE, STAGED, Disk
from onomaxis.writing.journal import Journal, digest
from onomaxis.writing.links import with_links
from onomaxis.writing.preview import patch
from onomaxis.writing.recover import recover, waiting
from onomaxis.writing.undo import undo, undo_changes
from onomaxis.writing.write import Labels, carry_out, locked


@dataclass(frozen=True)
class Link:
    """A link in a tree that a test makes."""

    target: str


def lay(root: Path, contents: dict[str, bytes | Link]) -> Path:
    """Make files and links below *root*."""
    for name, content in contents.items():
        path = root / name
        path.parent.mkdir(parents=True, exist_ok=True)
        if isinstance(content, Link):
            path.symlink_to(content.target)
        else:
            path.write_bytes(content)
    return root


class Faulty(Disk):
    """A disk that breaks at one step: an error, an interrupt, or the end of the process."""

    def __init__(self, root: Path, wanted: int, how: str) -> None:
        super().__init__(root)
        self.wanted, self.how, self.count = wanted, how, 0

    def step(self, name: str, relative: str) -> None:
        self.count += 1
        if self.count != self.wanted:
            return
        if self.how == "kill":
            os._exit(9)
        if self.how == "interrupt":
            raise KeyboardInterrupt
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC), str(self.root / relative))


class Caseless(Disk):
    """A disk on which case does not count but is kept, as on the Mac's and Windows' usual ones."""

    def name(self, relative: str) -> str:
        found = ""
        for part in Path(super().name(relative)).relative_to(self.root).parts:
            folder = self.root / found
            names = [path.name for path in folder.iterdir()] if folder.is_dir() else []
            alike = next((name for name in names if name.casefold() == part.casefold()), part)
            found = f"{found}/{alike}".lstrip("/")
        return str(self.root / found)

    def rename(self, source: str, target: str) -> None:
        self.step("rename", source)
        above, _, last = target.rpartition("/")
        Path(self.name(source)).rename(f"{self.name(above) if above else self.root}/{last}")

    def unhindered(self) -> Disk:
        return Caseless(self.root)


def change(source: str | None, target: str | None, before: bytes | None = b"", after: bytes | None = b"", link: bool = False) -> FileChange:
    return FileChange(source, target, before, after, link)


TREE: dict[str, bytes | Link] = {"a": b"A", "b": b"B", "c": b"C", "p/q/x.kt": b"X", "p/q/y.kt": b"Y", "p/other": b"O", "p/q/to": Link("../other"), "z": b"Z"}
CHANGES: dict[str, Sequence[FileChange]] = {
    "edits": [change("a", "a", b"A", b"A2"), change("p/q/x.kt", "p/q/x.kt", b"X", b"X2")],
    "moves with edits": [
        change("p/q/x.kt", "r/s/x.kt", b"X", b"X2"),
        change("p/q/y.kt", "r/s/y.kt", b"Y", b"Y"),
        change("p/q/to", "r/s/to", b"../other", b"../../p/other", True),
    ],
    "a row": [change("a", "b", b"A", b"A2"), change("b", "c", b"B", b"B"), change("c", "d/e", b"C", b"C")],
    "a swap": [change("a", "b", b"A", b"A"), change("b", "a", b"B", b"B")],
    "a swap with edits": [change("a", "b", b"A", b"A2"), change("b", "a", b"B", b"B2")],
    "a circle and a row": [change("a", "b", b"A", b"A"), change("b", "c", b"B", b"B"), change("c", "a", b"C", b"C"), change("z", "y", b"Z", b"Z2")],
    "made where one left": [change("a", "n/a", b"A", b"A"), change(None, "a", None, b"new")],
    "made alike where one left": [change("a", "n/a", b"A", b"A"), change(None, "a", None, b"A")],
    "moved where one went": [change("a", None, b"A", None), change("b", "a", b"B", b"B2")],
    "all at once": [
        change("a", "b", b"A", b"A2"), change("b", "a", b"B", b"B"), change("c", None, b"C", None), change(None, "k/new", None, b"N"),
        change("p/q/x.kt", "k/x.kt", b"X", b"X"), change("p/q/y.kt", "k/y.kt", b"Y", b"Y2"),
        change("p/q/to", "k/to", b"../other", b"../p/other", True), change("z", "c", b"Z", b"Z"),
    ],
}  # fmt: skip


def state(root: Path) -> dict[str, object]:
    """Return what stands below *root*, of links their targets."""
    return {name: value for name, (value, _) in snapshot(root).items()}


def wanted(changes: Sequence[FileChange]) -> dict[str, bytes]:
    """Return what the files shall be, told without the writing core."""
    left = {name: value.target.encode() if isinstance(value, Link) else value for name, value in TREE.items()}
    for item in changes:
        if item.source is not None:
            left.pop(item.source, None)
    return left | {item.target: item.after for item in changes if item.target is not None and item.after is not None}


def plain(root: Path) -> dict[str, bytes]:
    found = {}
    for path in root.rglob("*"):
        name = path.relative_to(root).as_posix()
        if not name.startswith(".onomaxis") and (path.is_symlink() or path.is_file()):
            found[name] = str(path.readlink()).encode() if path.is_symlink() else path.read_bytes()
    return found


def forked(work: Callable[..., object], *given: object) -> int:
    """Do *work* in a process of its own; return how it ended."""
    child = os.fork()
    if child == 0:
        try:
            work(*given)
            os._exit(0)
        except BaseException:
            os._exit(1)
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])


@pytest.mark.parametrize("name", CHANGES)
def test_every_order_arrives_and_goes_back(tmp_path: Path, name: str) -> None:
    """Rows, swaps, circles, files made where others left: what stands is what was planned, and undo is exact."""
    root = lay(tmp_path / "t", TREE)
    before = state(root)
    with locked(root):
        written = carry_out(root, CHANGES[name], Labels(name))
    assert plain(root) == wanted(CHANGES[name]) and written.left == ()
    assert not [path for path in root.rglob("*") if path.name.endswith((STAGED, ASIDE))]
    entry = Journal(root).entry(written.id)
    assert entry.own and entry.state == "done"
    with locked(root):
        undo(root, entry, undo_changes(root, entry))
    assert state(root) == before


@pytest.mark.parametrize("name", CHANGES)
@pytest.mark.parametrize("how", ["kill", "full", "interrupt"])
@pytest.mark.faults
def test_every_step_broken(tmp_path: Path, name: str, how: str) -> None:
    """Whatever step fails: the old tree at once, or after the recovery, which may itself be killed at every step."""
    changes = CHANGES[name]
    start = lay(tmp_path / "start", TREE)
    (start / ".onomaxis").mkdir()  # the lock's, made before the steps that are counted
    (start / ".onomaxis/.gitignore").write_bytes(b"*\n")
    counting = Faulty(shutil.copytree(start, tmp_path / "count", symlinks=True), 0, how)
    carry_out(counting.root, changes, Labels(name), disk=counting)
    before, after = state(start), state(counting.root)
    root = tmp_path / "t"
    seen = set()
    for step in range(1, counting.count + 1):
        shutil.rmtree(root, ignore_errors=True)
        shutil.copytree(start, root, symlinks=True)
        if how == "kill":
            assert forked(carry_out, root, changes, Labels(name), None, Faulty(root, step, how)) == 9
            again = step % 7 + 1  # and the recovery is killed too, at another step each time
            while (entry := waiting(root)) is not None:
                forked(recover, root, entry, Faulty(root, again, "kill"))
                again += 1
                assert again < 99
        else:
            with pytest.raises(InputError if how == "full" else KeyboardInterrupt):
                carry_out(root, changes, Labels(name), disk=Faulty(root, step, how))
        seen.add("before" if state(root) == before else "after" if state(root) == after else f"neither at {step}")
    assert seen <= {"before", "after"} and "before" in seen


# What is done to the disk between the entry and its mark, in this order; every folder whose entries change is flushed.
CALLS = {
    "edits": "stage a, stage p/q/x.kt, flush a+, flush p/q/x.kt+, replace a, replace p/q/x.kt, flush ., flush p/q",
    "moves with edits": "make folder r, make folder r/s, stage r/s/x.kt, stage r/s/to, flush r/s/x.kt+, rename p/q/y.kt, rename p/q/x.kt, rename p/q/to, "
    "replace r/s/x.kt, replace r/s/to, remove folder p/q, flush ., flush p, flush r, flush r/s",
    "a swap with edits": "stage b, stage a, flush b+, flush a+, rename a, rename b, stage TURNED, flush TURNED+, replace TURNED, flush ., flush ENTRY, "
    "rename a=, replace b, replace a, flush .",
    "moved where one went": "stage a, flush a+, remove a, rename b, replace a, flush .",
}
BEFORE = (
    "make folder HOME, make folder HOME/journal, make folder ENTRY, stage ENTRY/old.bin, flush ENTRY/old.bin+, replace ENTRY/old.bin, flush HOME, "
    "flush HOME/journal, flush ENTRY, stage ENTRY/seal, flush ENTRY/seal+, replace ENTRY/seal, flush ENTRY, stage ENTRY/entry.json, "
    "flush ENTRY/entry.json+, replace ENTRY/entry.json, flush ENTRY, "
)
AFTER = ", stage ENTRY/done, flush ENTRY/done+, replace ENTRY/done, flush ENTRY"


@pytest.mark.parametrize("name", CALLS)
def test_every_call_of_the_disk(tmp_path: Path, name: str, flushed: list[str]) -> None:
    """Old bytes and entry are durable before the first file changes, all of it is before the mark stands."""
    root = lay(tmp_path / "t", TREE)
    with locked(root):
        flushed.clear()

        class Recorded(Disk):
            def step(self, name: str, relative: str) -> None:
                flushed.append(f"{name} {root.resolve() / relative}")

        carry_out(root, CHANGES[name], Labels(name), disk=Recorded(root))
    told = ", ".join(item if " " in item else f"flush {item}" for item in flushed).replace(f"{root.resolve()}/", "").replace(str(root.resolve()), ".")
    for text, short in ((".onomaxis/journal/0001/turned", "TURNED"), (".onomaxis/journal/0001", "ENTRY"), (STAGED, "+"), (ASIDE, "="), (".onomaxis", "HOME")):
        told = told.replace(text, short)
    assert told == BEFORE + CALLS[name] + AFTER


def test_a_folder_of_ones_own_that_was_begun(tmp_path: Path) -> None:
    """Whatever an ended run left of the tool's own folder, the next one goes on from there."""
    for left in ((), (f".gitignore{STAGED}",), (".gitignore", f".gitignore{STAGED}"), ("lock",), ("journal/0001/old.bin",)):
        root = lay(tmp_path / str(len(str(left))), {"a": b"A", **{f".onomaxis/{name}": b"" for name in left}})
        (root / ".onomaxis").mkdir(exist_ok=True)
        with locked(root):
            carry_out(root, [change("a", "a", b"A", b"A2")], Labels("x"))
        assert (root / "a").read_bytes() == b"A2" and (root / ".onomaxis/.gitignore").read_bytes() == (b"" if ".gitignore" in left else b"*\n")


def test_a_fault_after_the_end_is_no_fault(tmp_path: Path) -> None:
    """Once the entry is marked as done the change stands, whatever fails then, and is reported as done."""
    root = lay(tmp_path / "t", TREE)
    for number in range(31):
        (root / "a").write_bytes(b"A")
        carry_out(root, [change("a", "a", b"A", b"A2")], Labels(str(number)))
    (root / "a").write_bytes(b"A")

    class Broken(Disk):
        def step(self, name: str, relative: str) -> None:
            if name == "drop":
                raise OSError(errno.EIO, "broken")

    assert carry_out(root, [change("a", "a", b"A", b"A2")], Labels("x"), disk=Broken(root)).id == "0032"
    assert (root / "a").read_bytes() == b"A2" and Journal(root).entry("32").state == "done"


def test_a_folder_that_stays_is_said(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """An emptied folder that the disk will not let go is named; the change stands all the same."""
    root = lay(tmp_path / "t", {"p/x": b"X"})
    with monkeypatch.context() as patch:
        patch.setattr(os, "rmdir", lambda name: (_ for _ in ()).throw(PermissionError(13, "denied")))
        assert carry_out(root, [change("p/x", "q/x", b"X", b"X")], Labels("x")).left == ("p",)


CASES = {
    "a folder": ({"com/Example/app/F.kt": b"F"}, [("com/Example/app/F.kt", "com/example/app/F.kt")]),
    "a folder and below": (
        {"com/Example/app/F.kt": b"F", "com/Example/app/G.kt": b"G"},
        [("com/Example/app/F.kt", "com/example/shed/F.kt"), ("com/Example/app/G.kt", "com/example/shed/G.kt")],
    ),
    "two levels": ({"Com/Example/F.kt": b"F"}, [("Com/Example/F.kt", "com/example/F.kt")]),
    "a file": ({"app/main.kt": b"F"}, [("app/main.kt", "app/Main.kt")]),
    "not all of it": ({"com/Example/F.kt": b"F", "com/Example/G.kt": b"G"}, [("com/Example/F.kt", "com/example/x/F.kt")]),
}


@pytest.mark.parametrize("name", CASES)
def test_case_alone_on_a_disk_without_case(tmp_path: Path, name: str) -> None:
    """Folders and files that change in case alone get the new spelling; every broken step gives the old one back."""
    contents, moves = CASES[name]
    start = lay(tmp_path / "start", contents)
    changes = [change(a, b, contents[a], contents[a] + b"2") for a, b in moves]
    root = shutil.copytree(start, tmp_path / "t")
    disk = Caseless(root)
    written = carry_out(root, changes, Labels(name), disk=disk)
    assert written.left == ()
    kept = {path: data for path, data in contents.items() if path not in dict(moves)}
    spelled = {b if name != "not all of it" else b.replace("example", "Example"): contents[a] + b"2" for a, b in moves}
    assert plain(root) == {**kept, **spelled}

    class Broken(Caseless):
        left = 0

        def step(self, name: str, relative: str) -> None:
            self.left -= 1
            if self.left == 0:
                raise OSError(errno.ENOSPC, "full", str(self.root / relative))

    before = state(start)
    for step in range(1, 60):
        shutil.rmtree(root)
        shutil.copytree(start, root)
        broken = Broken(root)
        broken.left = step
        try:
            carry_out(root, changes, Labels(name), disk=broken)
        except InputError:
            assert state(root) == before, step
        else:
            break
    assert step > 8


def test_removed_and_made_is_one_edit() -> None:
    """What one change takes away and another makes anew at the same path is an edit; two gifts to one path are refused."""
    assert joined([change("a", None, b"A", None), change(None, "a", None, b"N")]) == (change("a", "a", b"A", b"N"),)
    assert joined([change("a", None, b"A", None), change(None, "a", None, b"A")]) == ()
    for pair in ([change("a", "c", b"A", b"A"), change("b", "c", b"B", b"B")], [change(None, "../x", None, b"")], [change(None, ".git/hooks/x", None, b"")]):
        with pytest.raises(RefusedError):
            joined(pair)


PATHS = [
    ("a/b.kt", True), ("a b/ü.kt", True), ("..a/b", True), (".gitignore", True), ("a/.github/x", True), ("", False), ("/a", False), ("..", False),
    ("a/../../b", False), ("a/../b", False), ("./a", False), ("a//b", False), ("a/", False), ("C:/a", False), ("c:a", False), ("\\a", False),
    ("a\0b", False), (".git/hooks/post-checkout", False), ("sub/.GIT/config", False), (".git /x", False), (".g\u200cit/config", False), (7, False),
    (None, False), (["a"], False),
]  # fmt: skip


@pytest.mark.parametrize(("path", "good"), PATHS)
def test_the_gate_for_paths(path: object, good: bool) -> None:
    """A path from a file is one below the root, or it is not used."""
    assert (fault_of(path) == "") is good


# -- what may have come with the repository

RECORD = {"source": "a", "target": "a", "before": digest(b"evil"), "after": digest(b"A"), "mode": 0o4777, "start": 0, "length": 4, "link": False}
ENTRY = {
    "format": 1,
    "id": "0001",
    "title": "rename: x",
    "records": [RECORD],
    "folders": [],
    "removed_folders": [],
    "identity_before": "",
    "identity_after": "",
    "undoes": "",
    "respelled": [],
}
HOSTILE: dict[str, object] = {
    "out by dots": {**ENTRY, "records": [{**RECORD, "source": "../evil"}]},
    "absolute": {**ENTRY, "records": [{**RECORD, "source": "/tmp/evil"}]},
    "into git": {**ENTRY, "records": [{**RECORD, "source": ".git/hooks/post-commit"}]},
    "over a link": {**ENTRY, "records": [{**RECORD, "source": "out/evil"}]},
    "onto a link": {**ENTRY, "records": [{**RECORD, "source": "link"}]},
    "a folder out": {**ENTRY, "removed_folders": [["../evil", 0o777]]},
    "a folder over a link": {**ENTRY, "removed_folders": [["out/evil", 0o777]]},
    "a new spelling out": {**ENTRY, "respelled": [["a", "../evil"]]},
    "a move out": {**ENTRY, "records": [{**RECORD, "source": "a", "target": "../evil"}]},
    "a link as content": {**ENTRY, "records": [{**RECORD, "source": "new", "link": True}]},
    "an executable": {**ENTRY, "records": [{**RECORD, "source": "new", "target": None, "after": ""}]},
    "the journal itself": {**ENTRY, "records": [{**RECORD, "source": ".onomaxis/journal/0001/done"}]},
    "no object": [1, 2],
    "no keys": {"format": 1},
    "a number for a path": {**ENTRY, "records": [{**RECORD, "source": 7}]},
    "another id": {**ENTRY, "id": "0002"},
    "control characters": {**ENTRY, "title": "\x1b[2J"},
    "deep": "[" * 5000,
    "a huge number": {**ENTRY, "records": [{**RECORD, "length": 10**30}]},
    "cut off": '{"format": 1, "id": "00',
    "no text": b"\xff\xfe\x00",
}


@pytest.fixture
def hostile(tmp_path: Path) -> Path:
    """A project with links, and beside it what nobody may touch."""
    (tmp_path / "outside").mkdir()
    (tmp_path / "outside/kept").write_bytes(b"kept")
    contents: dict[str, bytes | Link] = {"a": b"A", "out": Link("../outside"), "link": Link("../outside/kept")}
    root = lay(tmp_path / "t", contents)
    script = "apply plugin: 'com.android.application'\nandroid {\n    namespace 'org.x'\n    defaultConfig { applicationId 'org.x' }\n}\n"
    return files(root, {"app/build.gradle": script, "settings.gradle": "include ':app'\n", "app/src/main/AndroidManifest.xml": "<manifest/>\n"})


def entry_in(root: Path, content: object, done: bool) -> None:
    folder = root / ".onomaxis/journal/0001"
    folder.mkdir(parents=True)
    data = content if isinstance(content, bytes) else content.encode() if isinstance(content, str) else json.dumps(content).encode()
    (folder / "entry.json").write_bytes(data)
    (folder / "old.bin").write_bytes(b"evil")
    if done:
        (folder / "done").write_bytes(b"")


@pytest.mark.parametrize(("start", "good"), [((1 << 48) - 1, True), (0, True), (True, False), (1 << 48, False), (-1, False), (1.0, False), ("1", False)])
def test_numbers_of_an_entry(hostile: Path, start: object, good: bool) -> None:
    """A whole number of bytes, not larger than any file: else the entry is none."""
    entry_in(hostile, {**ENTRY, "records": [{**RECORD, "start": start}]}, True)
    assert (Journal(hostile).load("0001") is not None) is good


def test_links_that_a_change_concerns(tmp_path: Path) -> None:
    """A link that moves and says the same, one that stays and is written anew, one that is removed, one that nobody touches."""
    links = {"p/beside": "x.kt", "far": "p/x.kt", "gone": "p/x.kt", "still": "q/y.kt"}
    root = lay(tmp_path / "t", {"p/x.kt": b"X", "q/y.kt": b"Y", **{path: Link(text) for path, text in links.items()}})
    moves = [change("p/x.kt", "r/x.kt"), change("p/beside", "r/beside", b"x.kt", b"x.kt", True), change("gone", None, b"p/x.kt", None, True)]
    found = {(item.source, item.target, item.after) for item in with_links(Tree.open(root), moves)}
    assert found == {("p/x.kt", "r/x.kt", b""), ("p/beside", "r/beside", b"x.kt"), ("far", "far", b"r/x.kt"), ("gone", None, None)}
    stays = [change("a", "a", b"A", b"B"), change("still", "still", b"q/y.kt", b"q/z.kt", True)]
    assert with_links(Tree.open(root), stays) == tuple(stays)


READING = [["survey"], ["check"], ["history"], ["flavor", "list"], ["ledger", "list"]]


@pytest.mark.parametrize("name", HOSTILE)
@pytest.mark.parametrize("done", [False, True])
@pytest.mark.faults
def test_an_entry_that_came_with_the_repository(hostile: Path, name: str, done: bool) -> None:
    """No command writes because of it; no command fails because of it; taken on purpose it stays inside the root."""
    entry_in(hostile, HOSTILE[name], done)
    before, outside = snapshot(hostile), snapshot(hostile.parent / "outside")
    journal = sorted((hostile / ".onomaxis").rglob("*"))
    for words in READING:
        assert onomaxis(*words, hostile).code in (0, 1, 2) and snapshot(hostile) == before
    assert sorted((hostile / ".onomaxis").rglob("*")) == journal
    assert onomaxis("undo", hostile).code in (2, 3) and snapshot(hostile) == before
    assert onomaxis("rename", hostile, "--id", "org.y", "--quiet").code == 0
    assert onomaxis("undo", hostile, "--quiet").code == 0 and snapshot(hostile) == before
    done_ = onomaxis("undo", hostile, "--foreign-entry", "--change", "1", "--despite-changes")
    assert done_.code in (0, 2, 3), done_.err
    assert snapshot(hostile.parent / "outside") == outside and not (hostile.parent / "evil").exists() and not Path("/tmp/evil").exists()
    assert not list((hostile / ".git").rglob("*")) and (hostile / "link").is_symlink()
    for path in hostile.rglob("*"):
        assert path.is_symlink() or path.is_dir() or not path.stat().st_mode & (stat.S_IXUSR | stat.S_ISUID), path


def test_an_entry_of_this_checkout_and_of_others(hostile: Path, tmp_path: Path) -> None:
    """What I made here is taken back unasked; a copy of the folder, a commit or another user's key make it foreign."""
    assert onomaxis("rename", hostile, "--id", "org.y", "--quiet").code == 0
    copy = shutil.copytree(hostile, tmp_path / "copy", symlinks=True)
    refused = onomaxis("undo", copy)
    assert refused.code == 3 and "--foreign-entry" in refused.err and "seal" in refused.err
    assert onomaxis("undo", copy, "--foreign-entry", "--quiet").code == 0
    assert "org.x" in (copy / "app/build.gradle").read_text()
    (hostile / ".onomaxis/.gitignore").unlink()
    commit_all(hostile)
    refused = onomaxis("undo", hostile)
    assert refused.code == 3 and "version control" in refused.err
    other = onomaxis("history", hostile, "--json", env={"XDG_STATE_HOME": tmp_path / "none"}).json["changes"]
    assert [item["own"] for item in other] == [False]


def test_no_state_folder(hostile: Path, tmp_path: Path) -> None:
    """Where no key can be kept, changes are made all the same, and taking one back is asked for."""
    (tmp_path / "state").write_bytes(b"a file, not a folder")
    env = {"XDG_STATE_HOME": tmp_path / "state"}
    assert onomaxis("rename", hostile, "--id", "org.y", "--quiet", env=env).code == 0
    assert onomaxis("undo", hostile, env=env).code == 3
    assert onomaxis("undo", hostile, "--foreign-entry", "--quiet", env=env).code == 0


def interrupted(root: Path) -> None:
    """Leave a change half done."""
    changes = [change("a", "b/a", b"A", b"A2")]
    assert forked(carry_out, root, changes, Labels("half"), None, Faulty(root, 12, "kill")) == 9
    assert waiting(root) is not None


def test_reading_commands_never_write(hostile: Path) -> None:
    """They say that an interrupted change waits and how to finish it; a preview refuses; undo takes just that back."""
    with locked(hostile):
        carry_out(hostile, [change(None, "n", None, b"N")], Labels("whole"))
        interrupted(hostile)
    everything = sorted((path, path.lstat().st_mtime_ns) for path in hostile.rglob("*"))
    for words in [*READING, ["proof", "--out", hostile.parent / "p.png"]]:
        done = onomaxis(words[0], *words[1:], hostile) if words[0] != "proof" else onomaxis("proof", hostile, *words[1:])
        assert done.code in (0, 1, 2)
        if words[0] != "history":
            assert "an interrupted change waits" in done.err and "onomaxis undo" in done.err
    assert sorted((path, path.lstat().st_mtime_ns) for path in hostile.rglob("*")) == everything
    refused = onomaxis("rename", hostile, "--id", "org.y", "--dry-run")
    assert refused.code == 3 and "onomaxis undo" in refused.err
    assert onomaxis("undo", hostile, "--dry-run").code == 0
    done = onomaxis("undo", hostile, "--json")
    assert done.json["undone"] == "0002" and (hostile / "n").exists() and (hostile / "a").read_bytes() == b"A" and not (hostile / "b").exists()


def test_a_writing_command_takes_back_first(hostile: Path) -> None:
    """The next command that writes brings back the old tree, says so, and goes on from there."""
    with locked(hostile):
        interrupted(hostile)
    done = onomaxis("rename", hostile, "--id", "org.y")
    assert done.code == 0 and "an interrupted change (half) was taken back" in done.err
    assert (hostile / "a").read_bytes() == b"A" and "org.y" in (hostile / "app/build.gradle").read_text()


@pytest.mark.parametrize("spot", [".onomaxis", ".onomaxis/journal", ".onomaxis/lock", "app/build.gradle.onomaxis-staged", "app"])
def test_links_where_something_is_written(hostile: Path, spot: str) -> None:
    """A link where the journal, the lock, a staged file or a folder shall be: nothing is written through it."""
    outside = hostile.parent / "outside"
    target = outside / "kept"
    path = hostile / spot
    if spot == "app":
        shutil.move(path, outside / "app")
        target = outside / "app"
    elif spot in (".onomaxis", ".onomaxis/journal"):
        target = outside
    path.parent.mkdir(exist_ok=True)
    path.symlink_to(target)
    before = snapshot(outside)
    done = onomaxis("rename", hostile, "--id", "org.y")
    assert done.code in (2, 3), done.err
    assert snapshot(outside) == before and path.is_symlink()


def test_a_long_name_can_be_written(tmp_path: Path) -> None:
    """A name as long as the file system takes has room beside it for what is staged."""
    name = "n" * 250
    root = lay(tmp_path / "t", {name: b"A"})
    carry_out(root, [change(name, name, b"A", b"B")], Labels("long"))
    assert (root / name).read_bytes() == b"B" and [path.name for path in root.iterdir() if path.is_file()] == [name]


def test_what_stands_in_the_way(tmp_path: Path) -> None:
    """A file where a folder shall be, a taken place, a vanished source: refused, and nothing is written."""
    root = lay(tmp_path / "t", {"a": b"A", "b": b"B"})
    for item in (
        change("a", "b/c", b"A", b"A"),
        change("a", "b", b"A", b"A"),
        change("x", "y", b"A", b"A"),
        change(None, "a", None, b"N"),
        change("a", "a", b"other", b"N"),
    ):
        with pytest.raises(OnomaxisError):
            carry_out(root, [item], Labels("x"))
        assert plain(root) == {"a": b"A", "b": b"B"} and not Journal(root).ids()


# -- the patch

OLD_BYTES: dict[str, bytes | Link] = {
    "latin-1.txt": "Größe A\nzwei\n".encode("latin-1"),
    "wide.strings": '"k" = "A";\n'.encode("utf-16"),
    "dos.txt": b"one\r\nA\r\nthree\r\n",
    "mixed.txt": b"a\r\nA\nb\rc\n",
    "no end.txt": b"first\nA",
    "gains end": b"A",
    "loses end": b"A\n",
    'odd "name"\t.txt': b"A\n",
    "bin/picture.png": bytes(range(256)) * 9,
    "sp ace/ü.txt": "A ü\n".encode(),
    "away": b"gone\n",
    "empty": b"",
    "long.txt": b"".join(b"line %d\n" % n for n in range(5000)),
}
PATCH = [
    *(
        change(name, name, data, data.replace(b"A", b"BB"))
        for name, data in OLD_BYTES.items()
        if isinstance(data, bytes) and b"A" in data and name not in ("wide.strings", "bin/picture.png", "gains end", "loses end", "sp ace/ü.txt")
    ),
    change("wide.strings", "wide.strings", OLD_BYTES["wide.strings"], '"k" = "Voilà";\n'.encode("utf-16")),
    change("gains end", "gains end", b"A", b"A\n"),
    change("loses end", "loses end", b"A\n", b"A"),
    change("sp ace/ü.txt", "n ew/ä.txt", "A ü\n".encode(), "B ü\n".encode()),
    change("bin/picture.png", "bin/other.png", bytes(range(256)) * 9, bytes(range(255, -1, -1)) * 9),
    change("away", None, b"gone\n", None),
    change("empty", None, b"", None),
    change(None, "made/new.txt", None, b"new\r\nfile"),
    change(None, "made/none", None, b""),
    change(None, "made/p.bin", None, b"\0\1\2"),
    change("long.txt", "long.txt", OLD_BYTES["long.txt"], b"".join(b"line %d\n" % n if n % 900 else b"LINE %d\n" % n for n in range(5000))),
]


def test_the_patch_is_what_is_written(tmp_path: Path) -> None:
    """git applies the patch, and it leads to the very tree that the writing core makes."""
    root, other = lay(tmp_path / "a", OLD_BYTES), lay(tmp_path / "b", OLD_BYTES)
    done = subprocess.run(["git", "apply", "-"], cwd=other, input=patch(PATCH), capture_output=True)
    assert done.returncode == 0, done.stderr
    carry_out(root, PATCH, Labels("all"))
    assert plain(other) == plain(root)
    back = subprocess.run(["git", "apply", "-R", "-"], cwd=other, input=patch(PATCH), capture_output=True)
    assert back.returncode == 0 and plain(other) == dict(OLD_BYTES.items()), back.stderr
