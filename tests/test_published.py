"""What was published is sacred: an ID is not changed, a number not lowered, without a word that means just that."""

from __future__ import annotations

import os
import pty
import subprocess
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
    "another ID": (["rename", "--id", "org.tools.alderbank", "--flavor", "alderbank"], [ANDROID, APPLE], "its users would get no more updates"),
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
    assert "its users would get no more updates" in text and "Change it anyway?" in text
    assert os.waitstatus_to_exitcode(status) == code


def git(folder: Path, *words: str) -> str:
    done = subprocess.run(["git", "-c", "user.name=a", "-c", "user.email=a@b", "-C", str(folder), *words], check=True, capture_output=True, text=True)
    return done.stdout


def test_numbers_that_other_branches_took(tmp_path: Path) -> None:
    """The next number is beyond those of all ledgers that are named; a check heeds them; nothing is checked out."""
    project = published(tmp_path, ANDROID.replace(",7,", ",6,"))
    git(project, "checkout", "-q", "-b", "side")
    ledger = project / "onomaxis.ledger.csv"
    ledger.write_text("\n".join([HEAD, ANDROID.replace(",7,", ",6,"), ANDROID.replace(",7,", ",12,"), ""]))
    git(project, "commit", "-qam", "side")
    git(project, "update-ref", "refs/remotes/origin/main", "side")
    git(project, "checkout", "-q", "-")
    before = snapshot(project)

    def used(*more: str) -> list[str]:
        return [item["message"] for item in inline("check", project, "--json", *more).json["findings"] if item["code"] == "VERSION06"]

    assert used() == []
    for ref in ("side", "origin/main", "all"):
        assert [said.partition(" ")[0] for said in used("--ledger-ref", ref)] == ["Android"] and "12 was published" in used("--ledger-ref", ref)[0]
        told = inline("renumber", project, "--build", "next", "--ledger-ref", ref, "--dry-run", "--json")
        assert told.code == 0 and "CURRENT_PROJECT_VERSION = 13;" in told.json["diff"], told.out
    assert "CURRENT_PROJECT_VERSION = 8;" in inline("renumber", project, "--build", "next", "--dry-run", "--json").json["diff"]
    wrong = inline("check", project, "--ledger-ref", "nowhere")
    assert wrong.code == 2 and "nowhere" in wrong.err and snapshot(project) == before
    assert git(project, "status", "--porcelain") == ""


def test_a_ledger_after_a_merge(tmp_path: Path) -> None:
    """A number that both branches took is a finding, a row that was kept twice too; a merge that is not resolved is called that."""
    other = ANDROID.replace("2.4.0", "2.4.1")
    project = published(tmp_path, ANDROID, APPLE, other, APPLE)
    found = {item["message"]: item["at"] for item in inline("check", project, "--json").json["findings"] if item["code"] == "VERSION10"}
    assert found == {
        "build 7 of org.lendspan.alderbank on Android was published as 2.4.0 and as 2.4.1": [{"file": "onomaxis.ledger.csv", "line": line} for line in (2, 4)],
        "build 7 of org.lendspan.alderbank on iOS was published as 2.4.0, twice": [{"file": "onomaxis.ledger.csv", "line": line} for line in (3, 5)],
    }
    for mark in ("<<<<<<< HEAD", "=======", ">>>>>>> side", "||||||| base"):
        (project / "onomaxis.ledger.csv").write_text("\r\n".join([HEAD, ANDROID, mark, APPLE, ""]))
        done = inline("ledger", "list", project)
        assert done.code == 2 and "onomaxis.ledger.csv:3: a merge of the ledger is not resolved" in done.err
