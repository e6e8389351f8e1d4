"""What was published is sacred: an ID is not changed, a number not lowered, without a word that means just that."""

from __future__ import annotations

import os
import pty
import sys
from collections.abc import Sequence
from pathlib import Path

import pytest

import shop
from conftest import commit_all, inline, snapshot

HEAD = "date,platform,flavor,id,version,build,fingerprint,digest"


def published(folder: Path, *rows: str) -> Path:
    """Return the shop with a ledger, committed."""
    project = shop.write(folder / "project", shop.project())
    (project / "onomaxis.ledger.csv").write_text("\n".join([HEAD, *rows, ""]))
    commit_all(project)
    return project


ANDROID = "2026-05-01,android,alderbank,org.lendspan.alderbank,2.4.0,7,,"
APPLE = "2026-05-02,ios,alderbank,org.lendspan.alderbank,2.4.0,7,,"
CASES: dict[str, tuple[Sequence[str], Sequence[str], str]] = {
    "another ID": (["rename", "--id", "org.tools.alderbank", "--flavor", "alderbank"], [ANDROID, APPLE], "gets no update"),
    "another ID on one platform": (["rename", "--ios-id", "org.tools.alderbank", "--flavor", "alderbank"], [ANDROID, APPLE], "iOS alderbank"),
    "a lower build": (["renumber", "--build", "5"], [ANDROID], "build 5"),
    "a retired flavor": (["flavor", "retire", "alderbank"], [ANDROID], "is gone"),
}


@pytest.mark.parametrize("name", CASES)
def test_nobody_changes_what_was_published_without_meaning_it(tmp_path: Path, name: str) -> None:
    words, rows, said = CASES[name]
    project = published(tmp_path, *rows)
    line = [*words[:1], project, *words[1:]] if words[0] != "flavor" else [*words, project]
    before = snapshot(project)
    done = inline(*line)  # --yes is among the words
    assert done.code == 3 and said in done.err and "onomaxis.ledger.csv:" in done.err and "--published" in done.err, done.err
    assert snapshot(project) == before
    refused = inline(*line, "--json")
    assert refused.json["error"]["file"] == "onomaxis.ledger.csv" and refused.json["error"]["line"] in (2, 3)
    assert inline(*line, "--dry-run").code == 0 and snapshot(project) == before
    assert inline(*line, "--published").code == 0 and snapshot(project) != before


def test_a_stamp_that_would_change_a_published_id_is_refused(tmp_path: Path) -> None:
    project = published(tmp_path, ANDROID)
    file = project / "onomaxis.toml"
    lines = [line for line in file.read_text().splitlines() if not line.startswith("names")]
    file.write_text("\n".join(lines).replace('id = "org.lendspan.alderbank"', 'id = "org.lendspan.alder"'))
    commit_all(project)
    done = inline("stamp", project)
    assert done.code == 3 and "onomaxis.ledger.csv:2" in done.err and "org.lendspan.alder:" in done.err
    assert inline("stamp", project, "--published").code == 0


FREE = {
    "a name": (["rename", "--name", "Alder", "--flavor", "alderbank"], [ANDROID]),
    "another flavor's ID": (["rename", "--id", "org.tools.moss", "--flavor", "mossgate"], [ANDROID, APPLE]),
    "an ID that was published long before": (
        ["rename", "--id", "org.tools.alderbank", "--flavor", "alderbank"],
        ["2026-05-01,android,alderbank,org.lendspan.old,1.0,1,,"],
    ),
    "a higher build": (["renumber", "--build", "8"], [ANDROID, APPLE]),
    "a build above what was published": (["renumber", "--build", "6"], [ANDROID.replace(",7,", ",5,")]),
}


@pytest.mark.parametrize("name", FREE)
def test_all_else_goes_on_as_before(tmp_path: Path, name: str) -> None:
    words, rows = FREE[name]
    project = published(tmp_path, *rows)
    assert inline(words[0], project, *words[1:]).code == 0


@pytest.mark.processes
@pytest.mark.parametrize(("answer", "code"), [("n", 3), ("y", 0)])
def test_a_person_is_asked_with_what_would_happen(tmp_path: Path, answer: str, code: int) -> None:
    project = published(tmp_path, ANDROID, APPLE)
    parent, child = pty.openpty()
    words = [sys.executable, "-m", "onomaxis", "rename", str(project), "--id", "org.tools.alderbank", "--flavor", "alderbank", "--yes"]
    pid = os.fork()
    if pid == 0:  # pragma: no cover - the other process
        os.login_tty(child) if hasattr(os, "login_tty") else [os.setsid(), *(os.dup2(child, number) for number in range(3))]
        os.execv(words[0], words)
    os.close(child)
    said = b""
    while b"[y/N]" not in said:
        said += os.read(parent, 4096)
    os.write(parent, f"{answer}\n".encode())
    while True:
        try:
            part = os.read(parent, 4096)
        except OSError:
            break
        if not part:
            break
        said += part
    _, status = os.waitpid(pid, 0)
    text = " ".join(said.decode().split())
    assert "whoever has it gets no update" in text and "Change it all the same?" in text
    assert os.waitstatus_to_exitcode(status) == code
