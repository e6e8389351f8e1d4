"""What the program reads and writes in projects of every kind is what it was: a digest for each project and command.

They know nothing of right and wrong: that is what all other tests are for. They notice a byte that comes out otherwise
where nobody looked. Where that is meant, say why in the change and renew them:

    make same                                              renews tests/same_bytes.txt
    python tests/test_same_bytes.py --show PROJECT WHAT    prints what a digest is made of, to be compared by eye

Words for people are left out, and pictures count by their form: another version of a library draws other bytes.
"""

from __future__ import annotations

import hashlib
import json
import re
import sys
from collections.abc import Callable, Iterator, Mapping
from functools import cache, partial
from pathlib import Path
from tempfile import TemporaryDirectory

import pytest

import compositions
import flavored
import hybrids
import icon_homes
import right
import test_dressed as dressed
from conftest import files
from onomaxis.brands.adopt import adopted
from onomaxis.brands.flavors import plan_flavor
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.brands.proposing import offers, tables
from onomaxis.brands.retirement import plan_retirement
from onomaxis.brands.seen_services import service_tables
from onomaxis.brands.stamp import stamp
from onomaxis.brands.subjects import load_identity, subjects
from onomaxis.checks.inspection import look_over
from onomaxis.cli.survey import as_document
from onomaxis.demo import copy_demo, copy_lockers
from onomaxis.errors import FaultError, OnomaxisError
from onomaxis.icons.headers import picture_file
from onomaxis.icons.plan import plan_icons
from onomaxis.icons.wish import IconWish
from onomaxis.identity.schema import NAME
from onomaxis.rename.by_variant import steps_of
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import read_projects, take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.change import FileChange, applied

KEPT = Path(__file__).with_name("same_bytes.txt")
ART = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 108 108"><path fill="#7a3e2b" d="M40,40h28v28h-28z"/></svg>'
NEW = FlavorWish("oakhollow", id="org.oakhollow.shelf", shown="Oak Hollow")
WISH = Wish(
    android_id="net.oak.shelf", ios_id="net.oak.shelf", both_id="net.oak.shelf", name="Oak & Shelf’s", version="3.1.0", build="410", project_name="OakShelf"
)
Contents = Mapping[str, str | bytes]


@cache
def of_demo(copy: Callable[[Path], object]) -> Contents:
    with TemporaryDirectory() as folder:
        copy(Path(folder) / "x")
        tree = Tree.open(Path(folder) / "x")
        return {path: tree.read(path) or b"" for path in tree.files}


PROJECTS: dict[str, Callable[[], Contents]] = {
    "demo": partial(of_demo, partial(copy_demo, brands=True)),
    "lockers": partial(of_demo, copy_lockers),
    **{f"right-{make.__name__}": make for make in (right.native, right.flutter, right.react_native, right.capacitor, right.expo, right.maui, right.cordova)},
    **{f"hybrid-{kind}": partial(hybrids.spelled, kind, "org.x.shed", "Shed", "1.2.0", "7") for kind in hybrids.KINDS},
    **{f"composed-{kind}": partial(lambda seed: compositions.composed(seed, compositions.first_called(seed)).data(), f"{kind}-1") for kind in compositions.KINDS},
    **{f"flavored-{seed}": partial(lambda seed: flavored.flavored(seed).files, seed) for seed in ("android-0", "android-17", "apple-3", "apple-25", "flutter-6", "both-8")},
    **{f"dressed-{style}": partial(lambda style: dressed.project(style, "variant")[1], style) for style in ("type-camel", "Brand Stage", *dressed.TARGETS)},
    **{f"icons-{kind}": partial(icon_homes.HOMES.get, kind, {}) for kind in icon_homes.HOMES},
}  # fmt: skip


def changes(found: tuple[FileChange, ...]) -> list[object]:
    """Return what a change writes: paths, and bytes of what is not a picture."""

    def shown(data: bytes | None) -> object:
        picture = picture_file(data) if data else None
        return list(picture) if picture else data.decode("utf-8", "backslashreplace") if data is not None else None

    return [[item.source, item.target, shown(item.after)] for item in found]


def written(tree: Tree) -> str:
    """Return the identity file that adopting a tree writes, with values and services."""
    found = subjects(read_projects(tree))
    text = adopted(found, {})
    return text + tables(offers(tree, found, text)) + service_tables(tree, found)


def varied(tree: Tree) -> Tree:
    """Return a tree with an identity file in which every text of the app is another one."""
    text = (tree.read(NAME) or b"").decode() or written(tree)
    lines = (line[:-1] + 'x"' if line.startswith(("name = ", "api", "server", "url")) and line.endswith('"') else line for line in text.splitlines())
    return tree.overlay({NAME: "\n".join(lines).encode()}, ())


def document(tree: Tree) -> object:
    found = as_document(take_survey(tree))
    quiet = ("reason", "message", "text")
    return {key: [{k: v for k, v in item.items() if k not in quiet} if isinstance(item, dict) else item for item in rows] for key, rows in found.items()}


def first_flavor(tree: Tree) -> str:
    file = load_identity(tree, strict=False)
    known = [name for project in read_projects(tree) for name in project.flavors]
    return next(iter((*(file.flavors if file is not None else ()), *known)), "")


def first_app(tree: Tree) -> str:
    """Return what tells the first app from others, where there are several."""
    apps = [app for project in read_projects(tree) if not project.umbrella for app in project.apps if app.id]
    modules = {(app.platform, app.project, app.module) for app in apps}
    several = len(modules) > len({platform for platform, *_ in modules})
    return next(app.id.text for app in apps if app.id) if several else ""


def renamed(tree: Tree, wish: Wish) -> object:
    """Return what a wish changes, step by step where a flavor is built in combinations alone."""
    found = []
    for one in steps_of(list(read_projects(tree)), wish).wishes:
        plan = plan_rename(take_survey(tree, one.app), one)
        found.append(changes(plan.changes))
        tree = applied(tree, plan.changes)
    return found


def drawn(tree: Tree, flavor: str = "") -> object:
    with TemporaryDirectory() as folder:
        art = Path(folder) / "art.svg"
        art.write_bytes(ART)
        plan = plan_icons(tree, list(read_projects(tree)), [IconWish(foreground=str(art), background="#204060", flavor=flavor)])
    return changes(plan.changes), sorted(warning.code for warning in plan.warnings)


WHAT: dict[str, Callable[[Tree], object]] = {
    "survey": document,
    "check": lambda tree: sorted((item.rule.code, item.flavor, item.at) for item in look_over(tree)[0]),
    "rename": lambda tree: renamed(tree, WISH._replace(app=first_app(tree))),
    "rename a flavor": lambda tree: renamed(tree, Wish(name="Oak & Shelf’s", flavor=first_flavor(tree))),
    "renumber a flavor": lambda tree: renamed(tree, Wish(version="3.1.0", build="410", flavor=first_flavor(tree))),
    "flavor add": lambda tree: changes(plan_flavor(tree, NEW).changes),
    "flavor retire": lambda tree: changes(plan_retirement(tree, first_flavor(tree)).changes),
    "adopt": lambda tree: written(tree.overlay({}, (NAME,))),
    "stamp": lambda tree: changes(stamp(varied(tree)).changes),
    "icons": drawn,
    "icons of a flavor": lambda tree: drawn(tree, first_flavor(tree)),
}


def made(project: str, what: str) -> str:
    """Return as text what a command makes of a project; the exit code where it is refused."""
    try:
        with TemporaryDirectory() as folder:
            found = WHAT[what](Tree.open(files(Path(folder) / "shed", dict(PROJECTS[project]()))))
    except FaultError:
        raise
    except OnomaxisError as error:
        found = f"refused with {error.exit_code}"
    text = found if isinstance(found, str) else json.dumps(found, indent=1, ensure_ascii=False)
    return re.sub(r"(?:[0-9A-F]{2}:){19,}[0-9A-F]{2}", "fingerprint", text)  # the demo makes its certificates anew


def digests(project: str) -> Iterator[str]:
    for what in WHAT if "icons" not in project else ("check", "icons", "icons of a flavor"):
        yield f"{project}  {what}  {hashlib.sha256(made(project, what).encode()).hexdigest()[:16]}"


DRAWN = tuple(name for name in PROJECTS if name.startswith(("icons-", "dressed-", "demo")))


@pytest.mark.pictures
@pytest.mark.parametrize("project", [name for name in PROJECTS if name not in DRAWN])
def test_the_same_bytes(project: str) -> None:
    kept = [line for line in KEPT.read_text("utf-8").splitlines() if line.startswith(f"{project}  ")]
    assert list(digests(project)) == kept, "where this is meant: make same"


@pytest.mark.pictures
@pytest.mark.parametrize("project", DRAWN)
def test_the_same_pictures(project: str) -> None:
    """What is drawn has tables of its own (test_icon_table)."""
    test_the_same_bytes(project)


if __name__ == "__main__":
    if sys.argv[1:2] == ["--write"]:
        KEPT.write_text("".join(f"{line}\n" for name in PROJECTS for line in digests(name)), "utf-8")
    else:
        print(made(*sys.argv[2:4]))
