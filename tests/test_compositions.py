"""Two hundred projects put together at random: what they are called is what was put in, and a rename reaches just that."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from compositions import SEEDS, App, Called, Project, composed, first_called
from conftest import Result, commit_all, files, onomaxis, snapshot
from judges import check_lists, parse_errors
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import Survey, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.change import applied

NEW = Called("net.oakhollow.shelf", "Oak Shelf", "3.1.0", "410")
WISH = Wish(android_id=NEW.id, ios_id=NEW.id, both_id=NEW.id, name=NEW.name, version=NEW.version, build=NEW.build)


def told(survey: Survey) -> list[App]:
    return sorted(
        (app.platform, app.flavor, *(value.text if value else "?" for value in (app.id, app.name, app.version, app.build)))  # type: ignore[misc]
        for app in survey.apps
    )


@pytest.mark.parametrize("seed", SEEDS)
def test_what_was_put_in_is_what_is_said_and_changed(seed: str) -> None:
    """Every app's ID, name, version and build number, through whatever leads to it; names in other languages.

    The tree after a rename is the tree that the same choices make for the new identity, byte for byte.
    """
    project = composed(seed, first_called(seed))
    survey = take_survey(Tree.of(project.data()))
    assert told(survey) == sorted(project.apps), project.said
    disagreements = {item.code for item in survey.disagreements} - {"localized-name-shadows"}
    assert not survey.unresolved and not disagreements, project.said
    spoken = {(owner.scope.locale, owner.value) for item in survey.projects for owner in item.owners if owner.scope.locale}
    assert spoken == set(project.languages.items()), project.said
    if project.app:
        survey = take_survey(survey.tree, project.app)
    plan = plan_rename(survey, WISH._replace(app=project.app))
    later = applied(survey.tree, plan.changes)
    after = {path: later.read(path) or b"" for path in later.known}
    wanted = composed(seed, NEW)
    assert sorted(after) == sorted(wanted.files), project.said
    for path, data in wanted.data().items():
        assert after[path] == data or plain(path, after[path], project) == plain(path, data, project), (path, project.said)
    assert told(take_survey(Tree.of(after))) == sorted(wanted.apps)


def plain(path: str, data: bytes, project: Project) -> bytes:
    """Return a file without the way in which it spells the shown name, where that may differ."""
    if path not in project.names and not any(path.endswith(name) for name in project.names):
        return data
    data = re.sub(rb"<!DOCTYPE resources .*\n", b"", data)
    data = re.sub(rb'(<string name="(?:app|shown)[a-z_]*">)(?!@string/).*?(</string>)', rb"\1\2", data)
    return re.sub(rb'(CFBundleDisplayName = |SHOWN_NAME = )"?Oak Shelf"?;', rb"\1;", data)


@pytest.mark.parametrize("seed", SEEDS[::4])
def test_there_and_back_on_disk(tmp_path: Path, seed: str) -> None:
    """As a user does it: the files parse for their judges, the same command changes nothing, undo and the way back are exact."""
    project = composed(seed, first_called(seed))
    root = files(tmp_path, project.data())
    commit_all(root)
    before = snapshot(root)
    first = first_called(seed)

    def rename(called: Called, app: str) -> Result:
        words = ("--id", called.id, "--name", called.name, "--version", called.version, "--build", called.build)
        return onomaxis("rename", root, *words, *(("--app", app) if app else ()), "--allow-dirty", "--json")

    done = rename(NEW, project.app)
    assert done.code == 0, (done.out, project.said)
    check_lists(root)
    assert not any(parse_errors(root).values())
    later = project.app.replace(first.id, NEW.id).replace(first.name, NEW.name)
    assert rename(NEW, later).json["files"] == []
    assert rename(first, later).code == 0
    made = "builds=android" in project.said  # iOS had no number of its own, and got one
    assert (snapshot(root) == before) is not made, project.said
    assert onomaxis("undo", root, "--allow-dirty").code == 0 and onomaxis("undo", root, "--allow-dirty").code == 0
    assert snapshot(root) == before
