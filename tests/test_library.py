"""The library as others use it: its examples run, its results are frozen, its errors are the program's; and history."""

from __future__ import annotations

import base64
import doctest
import subprocess
import sys
from pathlib import Path

import pytest

import onomaxis as package
from conftest import commit_all, onomaxis
from onomaxis import library
from onomaxis.demo import copy_demo
from onomaxis.errors import InputError, RefusedError
from onomaxis.history.timeline import Event, commits
from onomaxis.report.drawing import history_picture
from test_history import BUILD, all_of, shop, sub


def examples() -> list[doctest.DocTest]:
    return [test for test in doctest.DocTestFinder().find(library, "library") if test.examples]


@pytest.mark.parametrize("example", examples(), ids=lambda test: test.name)
def test_the_examples_of_the_documentation_run(tmp_path: Path, example: doctest.DocTest) -> None:
    """Each docstring's example is run on the demo project."""
    example.globs["project"] = copy_demo(str(tmp_path / "demo"))
    said: list[str] = []
    runner = doctest.DocTestRunner()
    runner.run(example, out=said.append)
    assert runner.failures == 0 and runner.tries > 0, "".join(said)


def test_names_of_the_package() -> None:
    """What the package gives out is the library's; nothing of it is loaded before it is asked for."""
    for name in package.__all__:
        assert getattr(package, name) is getattr(library, name)
    with pytest.raises(AttributeError):
        _ = package.nothing
    code = "import onomaxis, sys; print('onomaxis.library' in sys.modules); onomaxis.survey; print('onomaxis.library' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.split() == ["False", "True"]
    import onomaxis.surveys.survey  # noqa: F401 - no room of ours takes a function's place

    assert callable(package.survey) and callable(package.check) and callable(package.inspect)


def test_results_cannot_be_changed_and_errors_are_the_programs(tmp_path: Path) -> None:
    """Frozen data; a folder that is none, a wish that cannot be, uncommitted files: errors with words."""
    demo = copy_demo(str(tmp_path / "demo"))
    found = package.survey(demo)
    with pytest.raises(AttributeError):
        found.apps[0].flavor = "x"
    with pytest.raises((AttributeError, TypeError)):
        found.projects = ()
    with pytest.raises(InputError, match="no such folder"):
        package.survey(tmp_path / "none")
    with pytest.raises(InputError):
        package.plan(demo, package.Wish(android_id="1.bad"))
    commit_all(Path(demo))
    change = package.plan(demo, package.Wish(build="77"))
    path = next(item.source for item in change.changes if item.source)
    (Path(demo) / path).write_bytes((Path(demo) / path).read_bytes() + b"\n")
    with pytest.raises(RefusedError):
        library.write(demo, package.plan(demo, package.Wish(build="77")))


# -- history


def grown(root: Path) -> Path:
    made = shop(root)
    sub(BUILD, "versionCode = 7", "versionCode = 8")(made)
    commit_all(made)
    (made / "readme.txt").write_text("nothing of it\n")
    commit_all(made)
    all_of(sub(BUILD, 'versionName = "1.2"', 'versionName = "1.3"'), sub("app/src/mossgate/res/values/strings.xml", "Mossgate", "Moss"))(made)
    commit_all(made)
    return made


def test_when_what_apps_are_called_changed(tmp_path: Path) -> None:
    """The newest first, commit by commit; a facet alone; what touches no identity is not told; a branch counts as its merge."""
    root = grown(tmp_path / "x")
    every = onomaxis("survey", root, "--history", "--json").json["history"]
    told = [(e["platform"], e["flavor"], e["facet"], e["before"], e["after"]) for e in every]
    assert told[:3] == [
        ("android", "alderbank", "version", "1.2", "1.3"),
        ("android", "mossgate", "name", "Mossgate", "Moss"),
        ("android", "mossgate", "version", "1.2", "1.3"),
    ]
    assert {row[1:] for row in told[3:5]} == {(name, "build", "7", "8") for name in ("alderbank", "mossgate")}
    assert len(told) == 10 and {row[2:4] for row in told[5:]} == {("app", None)}
    names = [commit.name for commit in commits(root)]
    assert len(names) == 4 and [every[0]["commit"], every[3]["commit"], every[5]["commit"]] == [names[0], names[2], names[3]]
    only = onomaxis("survey", root, "--history", "--facet", "build", "--json").json["history"]
    assert [e["after"] for e in only] == ["8", "8"]
    said = onomaxis("survey", root, "--history").out
    assert "Android mossgate: name Mossgate → Moss" in said and "Android alderbank: comes as org.lendspan.app.alderbank" in said
    git = ["git", "-C", str(root), "-c", "user.name=a", "-c", "user.email=a@b"]
    subprocess.run([*git, "checkout", "-qb", "side"], check=True)
    sub(BUILD, "versionCode = 8", "versionCode = 9")(root)
    commit_all(root)
    subprocess.run([*git, "checkout", "-q", "-"], check=True)
    (root / "readme.txt").write_text("more\n")
    commit_all(root)
    subprocess.run([*git, "merge", "-q", "--no-edit", "side"], check=True, capture_output=True)
    merged = onomaxis("survey", root, "--history", "--facet", "build", "--json").json["history"]
    assert [e["after"] for e in merged] == ["9", "9", "8", "8"] and merged[0]["commit"] == commits(root)[0].name


def test_histories_that_cannot_be_told(tmp_path: Path) -> None:
    """No repository, an unknown facet, --facet alone: exit 2; a project that never was called otherwise says so."""
    root = shop(tmp_path / "x")
    assert onomaxis("survey", root, "--history", "--facet", "colour").code == 2
    assert onomaxis("survey", root, "--facet", "id").code == 2
    assert "No commit changed" in onomaxis("survey", root, "--history", "--facet", "build").out
    (root / ".git").rename(tmp_path / "gone")
    assert onomaxis("survey", root, "--history").code == 2


def drawn_lines(apps: int, same: bool) -> int:
    """Return how many lines a drawing of so many apps holds, the axes' own among them."""
    told = [Event("c" * 40, "2026-01-02", "bump", "android", f"m{at}", "", "version", "1.0", "1.1" if same else f"1.{at}") for at in range(apps)]
    return base64.b64decode(history_picture(told).partition(",")[2]).count(b"2d_")


def test_apps_that_move_together_are_one_line_and_one_row(tmp_path: Path) -> None:
    """Lines that lie on each other are drawn once, a fleet of differing ones in part; a change of all apps is one row with their names."""
    assert drawn_lines(300, True) == drawn_lines(1, True) < drawn_lines(5, False)
    assert drawn_lines(5, False) < drawn_lines(300, False) < 3 * drawn_lines(12, False)
    demo = copy_demo(str(tmp_path / "demo"))
    commit_all(demo)
    assert onomaxis("renumber", demo, "--version", "9.9.0", "--build", "99", "--yes").code == 0
    assert onomaxis("report", demo, "--since", "HEAD", "--out", tmp_path / "r.html").code == 0
    rows = (tmp_path / "r.html").read_text().partition('id="changes"')[2].split("<tr>")[2:]
    assert len(rows) < 5 and all("<summary>and " in row for row in rows)
    assert any("alderbank" in row.partition("<summary>")[2] and "99</td>" in row for row in rows)


def test_versions_over_time_are_drawn(tmp_path: Path) -> None:
    """The drawing is the same for the same history, names every app, and stands in the report; icons show then and now."""
    root = grown(tmp_path / "x")
    events = package.timeline(root)
    drawn = history_picture(events)
    assert drawn == history_picture(package.timeline(root)) and drawn.startswith("data:image/svg+xml;base64,") and history_picture([]) == ""
    done = onomaxis("report", root, "--history", "--since", "HEAD~3", "--out", tmp_path / "r.html")
    page = (tmp_path / "r.html").read_text()
    assert done.code == 0 and 'id="history"' in page and drawn in page
    (root / "app/src/main/res/mipmap-hdpi/ic_launcher.png").write_bytes((root / "ios/App/Assets.xcassets/AppIcon.appiconset/icon.png").read_bytes() + b"x")
    onomaxis("report", root, "--since", "HEAD", "--out", tmp_path / "s.html")
    assert "The icon then" in (tmp_path / "s.html").read_text() and "The icon now" in (tmp_path / "s.html").read_text()
