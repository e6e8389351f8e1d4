"""The library as others use it: its examples run, its results are frozen, its errors are the program's; and history."""

from __future__ import annotations

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
from onomaxis.report.drawing import history_drawing
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
    # The command reads its rooms while git lists the files, not before.
    code = "import onomaxis.cli.survey, sys; print(*(f'onomaxis.{x}' in sys.modules for x in ('library', 'surveys.survey'))); onomaxis.survey; print('onomaxis.library' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.split() == ["False", "False", "True"]
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


def test_histories_that_cannot_be_told(tmp_path: Path) -> None:
    """No repository, an unknown facet, --facet alone: exit 2; a project that never was called otherwise says so."""
    root = shop(tmp_path / "x")
    assert onomaxis("survey", root, "--history", "--facet", "colour").code == 2
    assert onomaxis("survey", root, "--facet", "id").code == 2
    assert "No commit changed" in onomaxis("survey", root, "--history", "--facet", "build").out
    (root / ".git").rename(tmp_path / "gone")
    assert onomaxis("survey", root, "--history").code == 2


def test_versions_over_time_are_drawn(tmp_path: Path) -> None:
    """The drawing is the same for the same history, names every app, and stands in the report; icons show then and now."""
    root = grown(tmp_path / "x")
    events = package.timeline(root)
    drawn = history_drawing(events)
    assert drawn is not None and drawn == history_drawing(package.timeline(root)) and history_drawing([]) is None
    for panel in drawn.panels:  # every point stands at its value and day, within the diagram
        for curve in panel.curves:
            assert all(drawn.left <= x <= drawn.right and panel.top <= y <= panel.bottom for x, y in curve.points)
            assert [x for x, _ in curve.points] == sorted(x for x, _ in curve.points) and curve.path.count("H") == max(0, len(curve.points) - 1)
    done = onomaxis("report", root, "--history", "--since", "HEAD~3", "--out", tmp_path / "r.html")
    page = (tmp_path / "r.html").read_text()
    assert done.code == 0 and 'id="history"' in page and all(curve.path in page for panel in drawn.panels for curve in panel.curves)
    (root / "app/src/main/res/mipmap-hdpi/ic_launcher.png").write_bytes((root / "ios/App/Assets.xcassets/AppIcon.appiconset/icon.png").read_bytes() + b"x")
    onomaxis("report", root, "--since", "HEAD", "--out", tmp_path / "s.html")
    assert "The icon then" in (tmp_path / "s.html").read_text() and "The icon now" in (tmp_path / "s.html").read_text()
