"""All or nothing: killed, full disk, interrupt at every write step; locks, changes in between, undo's care."""

from __future__ import annotations

import os
import re
import shutil
import stat
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest

from conftest import commit_all, onomaxis, snapshot, words_of
from onomaxis.errors import RefusedError
from onomaxis.model import Edit
from onomaxis.tree import Tree
from onomaxis.writing.change import FileChange
from onomaxis.writing.changeset import Changeset
from onomaxis.writing.journal import Journal
from onomaxis.writing.write import Labels, carry_out, locked

pytestmark = pytest.mark.faults

RENAME = ["--id", "org.lendspan.app.shed", "--name", "Shed", "--locale-name", "de=Schuppen", "--quiet"]
KILLER = [sys.executable, str(Path(__file__).with_name("killer.py"))]


def broken(how: str, step: int, *words: object) -> subprocess.CompletedProcess[str]:
    done = subprocess.run([*KILLER, how, str(step), *words_of(words, yes=True)], capture_output=True, text=True, check=False, stdin=subprocess.DEVNULL)
    assert "Traceback" not in done.stderr, done.stderr
    return done


def steps_of(*words: object) -> int:
    return int(re.search(r"steps: (\d+)", broken("kill", 0, *words).stderr)[1])


@pytest.mark.parametrize("command", ["rename", "undo"])
@pytest.mark.parametrize("how", ["kill", "full", "interrupt"])
def test_the_program_broken_while_it_writes(small: Callable[..., Path], how: str, command: str) -> None:
    """The whole program stopped at steps from first to last (tests/test_writing.py breaks every one of the core's)."""
    root = small()
    words: list[object] = ["rename", root, *RENAME]
    if command == "undo":
        onomaxis("rename", root, *RENAME)
        words = ["undo", root, "--quiet"]
    start = shutil.copytree(root, root.with_name("start"), symlinks=True)
    before = snapshot(root)
    total = steps_of(*words)
    after = snapshot(root)
    assert before != after and total > 20
    for step in (1, total // 2, total - 4):
        for path in (root, root.with_name("gone")):
            shutil.rmtree(path, ignore_errors=True)
        shutil.copytree(start, root, symlinks=True)
        done = broken(how, step, *words)
        if how == "kill":
            assert done.returncode == -9
            onomaxis("renumber", root, "--build", "1", "--quiet")  # whatever writes next takes it back first
        else:
            assert done.returncode in ((2, 0) if how == "full" else (3, 0)), done.stderr
        assert snapshot(root) in (before, after), f"step {step}"
        assert onomaxis(*words).code == 0 and snapshot(root) == after


def test_a_file_changed_after_a_crash_is_not_overwritten(small: Callable[..., Path]) -> None:
    """Recovery keeps what a person wrote meanwhile and says where the old bytes are."""
    root = small()
    total = steps_of("rename", shutil.copytree(root, root.with_name("count")), *RENAME)
    assert broken("kill", total - 6, "rename", root, *RENAME).returncode == -9
    script = root / "app/build.gradle"
    script.write_text(script.read_text() + "// mine\n")
    done = onomaxis("undo", root)
    assert done.code == 3 and "old.bin" in done.err and "// mine" in script.read_text()


def test_second_writer_is_refused(small: Callable[..., Path]) -> None:
    """While one run holds the lock another says so and changes nothing."""
    root = small()
    before = snapshot(root)
    with locked(root):
        done = onomaxis("rename", root, *RENAME)
    assert done.code == 3 and "another run" in done.err and snapshot(root) == before


def test_a_file_that_changes_between_survey_and_write(small: Callable[..., Path]) -> None:
    """A file that vanishes or changes after it was read stops the whole change."""
    root = small()
    tree = Tree.open(root)
    path = "app/build.gradle"
    changes = Changeset((Edit(path, 0, 5, b"APPLY"),)).resolve(tree)
    for spoil in (lambda p: p.write_text("other"), lambda p: p.unlink()):
        spoil(root / path)
        before = snapshot(root)
        with locked(root), pytest.raises(RefusedError):
            carry_out(root, changes, Labels("test"))
        assert snapshot(root) == before


def test_overlapping_edits_are_refused(small: Callable[..., Path]) -> None:
    """Two edits that meet are a refusal when the plan is built, not a surprise on disk."""
    tree = Tree.open(small())
    for one, other in (((0, 5), (4, 6)), ((0, 5), (0, 5)), ((2, 3), (0, 5))):
        edits = (Edit("app/build.gradle", *one, b"x"), Edit("app/build.gradle", *other, b"y"))
        with pytest.raises(RefusedError):
            Changeset(edits).resolve(tree)


def test_undo_looks_before_it_overwrites(demo: Path) -> None:
    """Undo refuses when files changed since, restores when told, and can be taken back itself."""
    before = snapshot(demo)
    onomaxis("rename", demo, "--name", "Shed")
    changed = snapshot(demo)
    strings = demo / "android/app/src/main/res/values/strings.xml"
    mine = strings.read_text().replace("Your loan", "My loan")
    strings.write_text(mine)
    refused = onomaxis("undo", demo)
    assert refused.code == 3 and "strings.xml" in refused.err and strings.read_text() == mine
    strings.write_text(mine.replace("My loan", "Your loan"))
    assert snapshot(demo) == changed
    assert onomaxis("undo", demo).code == 0 and snapshot(demo) == before
    assert onomaxis("undo", demo).code == 2
    assert onomaxis("undo", demo, "--change", "9").code == 2
    onomaxis("rename", demo, "--name", "Barn")
    strings.unlink()
    assert onomaxis("undo", demo).code == 3
    assert onomaxis("undo", demo, "--despite-changes").code == 0 and snapshot(demo) == before
    titles = [change["title"] for change in onomaxis("history", demo, "--json").json["changes"]]
    assert titles == ["rename: name Shed", "undo of 0001", "rename: name Barn", "undo of 0003"]


def test_uncommitted_changes_are_not_touched(demo: Path) -> None:
    """Foreign uncommitted changes stop a rename that touches them, and no other; our own do not."""
    script = demo / "android/app/build.gradle.kts"
    script.write_text(script.read_text() + "// mine\n")
    done = onomaxis("rename", demo, "--id", "org.lendspan.shed")
    assert done.code == 3 and "build.gradle.kts" in done.err and "--allow-dirty" in done.err
    assert onomaxis("rename", demo, "--name", "Shed").code == 0
    assert onomaxis("rename", demo, "--name", "Barn").code == 0
    assert onomaxis("rename", demo, "--id", "org.lendspan.shed", "--allow-dirty").code == 0
    commit_all(demo)
    for mark in ("--assume-unchanged", "--skip-worktree"):  # of such a file git says nothing
        held = script.read_bytes()
        script.write_bytes(held + b"// mine\n")
        subprocess.run(["git", "update-index", mark, "android/app/build.gradle.kts"], cwd=demo, check=True)
        done = onomaxis("renumber", demo, "--build", "+1", "--flavor", "mossgate")
        assert done.code == 3 and "build.gradle.kts" in done.err, done.err
        subprocess.run(["git", "update-index", f"--no-{mark[2:]}", "android/app/build.gradle.kts"], cwd=demo, check=True)
        script.write_bytes(held)
    assert onomaxis("renumber", demo, "--build", "+1", "--flavor", "mossgate").code == 0
    assert onomaxis("rename", demo, "--name", "Hut").code == 0  # another file: what the change before left is still one's own
    assert onomaxis("renumber", demo, "--build", "+1", "--flavor", "mossgate").code == 0
    commit_all(demo)
    new = demo / "android/app/src/main/java/org/lendspan/shed/New.kt"
    new.write_text("package org.lendspan.shed\n")
    assert onomaxis("rename", demo, "--id", "org.lendspan.barn").code == 3


@pytest.mark.skipif(os.name == "nt", reason="permissions of folders are those of POSIX")
def test_permissions_of_folders_survive_a_move(small: Callable[..., Path]) -> None:
    """A private folder stays private, one of a group stays the group's, where its files move to and when they come back."""
    root = small(extra={"app/src/main/java/org/lendspan/app/data/Data.kt": "package org.lendspan.app.data\n"})
    code = root / "app/src/main/java"

    def modes() -> list[int]:
        return sorted(stat.S_IMODE(path.stat().st_mode) for path in code.rglob("*") if path.is_dir())

    for folder, mode in (("org", 0o750), ("org/lendspan", 0o2770), ("org/lendspan/app/data", 0o700)):
        (code / folder).chmod(mode)
    before = modes()
    assert onomaxis("rename", root, "--id", "com.shed.barn").code == 0
    assert modes() == before and stat.S_IMODE((code / "com/shed/barn/data").stat().st_mode) == 0o700
    assert onomaxis("undo", root).code == 0 and modes() == before


def test_a_move_onto_something_is_refused(small: Callable[..., Path]) -> None:
    """A target folder that exists, ignored or not, and packages that would merge, stop the move."""
    other = "package org.lendspan.shed\n"
    root = small(extra={"app/src/main/java/org/lendspan/shed/Other.kt": other})
    before = snapshot(root)
    done = onomaxis("rename", root, "--id", "org.lendspan.shed")
    assert done.code == 3 and "would merge" in done.err
    (root / "app/src/main/java/org/lendspan/shed/App.kt").write_text(other)
    done = onomaxis("rename", root, "--id", "org.lendspan.shed")
    assert done.code == 3 and "exists already" in done.err
    shutil.rmtree(root / "app/src/main/java/org/lendspan/shed")
    assert onomaxis("rename", root, "--id", "org.lendspan.shed", "--dry-run").code == 0
    del before["app/src/main/java/org/lendspan/shed/Other.kt"], before["app/src/main/java/org/lendspan/shed/"]
    assert snapshot(root) == before


def test_the_journal_is_bounded_and_ignored(small: Callable[..., Path]) -> None:
    """Old entries go; git never sees the journal."""
    demo = small()
    commit_all(demo)
    for number in range(33):
        before = (demo / "settings.gradle").read_bytes()
        change = FileChange("settings.gradle", "settings.gradle", before, before + b"// %d\n" % number)
        carry_out(demo, [change], Labels(f"line {number}", "", ""))
    kept = [entry.id for entry in Journal(demo).entries()]
    assert len(kept) == 30 and kept[-1] == "0033"
    status = subprocess.run(["git", "status", "--porcelain"], cwd=demo, capture_output=True, text=True).stdout
    assert ".onomaxis" not in status
