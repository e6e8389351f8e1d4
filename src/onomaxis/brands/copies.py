"""Branded copies of a tree: each beside the original, which is never touched, and each what a stamp in place makes.

A copy holds the files that git would take (elsewhere those that the ignore rules leave), without repository and
journal. What is made stands in a mark beside it, so that a second call goes on where the first one ended.
"""

from __future__ import annotations

import contextlib
import errno
import json
import os
import shutil
import stat
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import BinaryIO, NamedTuple

from onomaxis.brands.handover import alone
from onomaxis.brands.stamp import stamp
from onomaxis.errors import InputError, RefusedError
from onomaxis.listing import git_answer
from onomaxis.surveys.survey import own_files
from onomaxis.tree import Tree, parent
from onomaxis.workers import MOST, spread
from onomaxis.writing.change import FileChange

# linux/fs.h, "FICLONE": the file shares its blocks with another until either is written.
_CLONE = 0x40049409
_LEFT_BEHIND = (".git", ".onomaxis")
_PLAIN = 0o644


class Copy(NamedTuple):
    """One branded copy: how many files it holds, how many of them are not as in the original.

    ``left`` are the places at which a copy for one brand alone still speaks of another.
    """

    flavor: str
    folder: str
    files: int
    changed: int
    left: tuple[str, ...] = ()


class CopyWish(NamedTuple):
    """What copies hold: nothing of other brands (``alone``), the fleet's own files too (``identity``)."""

    alone: bool = False
    identity: bool = False


def copy_brands(
    tree: Tree,
    flavors: Sequence[str],
    folder: Path,
    tick: Callable[[int], None] | None = None,
    wish: CopyWish = CopyWish(),  # noqa: B008
) -> list[Copy]:
    """Make a copy for each flavor in ``folder/FLAVOR``; finished ones are left alone. *tick* gets how many are done.

    Raises RefusedError for a folder inside the project, and for a place that something else stands in.
    """
    target = folder.absolute()
    _refuse_inside(tree.root, target)
    for flavor in flavors:
        _refuse_foreign(target, flavor)
    try:
        target.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError(f"the folder cannot be made: {error.strerror}", file=folder.as_posix()) from None
    files = _files(tree)
    _ = tree.files  # listed once, before the work is shared out

    def make(flavor: str) -> Copy:
        done = _finished(target, flavor, wish)
        return done if done is not None else _made(tree, files, target, flavor, wish)

    made = spread(list(flavors), make, tick, MOST)
    return [item._replace(folder=(folder / item.flavor).as_posix()) for item in made]


def _refuse_inside(root: Path, target: Path) -> None:
    real = Path(os.path.realpath(target))
    if real == root or real.is_relative_to(root):
        raise RefusedError(
            "the copies would stand inside the project, and be copied themselves",
            file=target.as_posix(),
            remedy="Give a folder outside of it.",
        )


def _refuse_foreign(target: Path, flavor: str) -> None:
    place = target / flavor
    if os.path.lexists(place) and (place.is_symlink() or not place.is_dir() or _mark(target, flavor) is None):
        raise RefusedError(
            "the folder holds something that Onomaxis did not copy there",
            file=place.as_posix(),
            remedy="Give another folder, or move it away.",
        )


def _mark_of(target: Path, flavor: str) -> Path:
    return target / f".onomaxis-copy.{flavor}.json"


def _mark(target: Path, flavor: str) -> Mapping[str, object] | None:
    """Return what is noted of a copy, None where nothing is."""
    try:
        found = json.loads(_mark_of(target, flavor).read_text("utf-8"))
    except (OSError, ValueError, RecursionError):
        return None
    return found if isinstance(found, dict) and found.get("format") == 1 else None


def _note(target: Path, flavor: str, **said: object) -> None:
    """Note something of a copy, whole or not at all."""
    place = _mark_of(target, flavor)
    staged = place.with_name(place.name + ".new")
    staged.write_text(json.dumps({"format": 1, **said}) + "\n", "utf-8")
    staged.replace(place)


def _finished(target: Path, flavor: str, wish: CopyWish) -> Copy | None:
    found = _mark(target, flavor)
    if found is None or found.get("state") != "done" or not (target / flavor).is_dir():
        return None
    if found.get("wish") != list(wish):
        return None
    numbers = [found.get(key) for key in ("files", "changed")]
    files, changed = (number if isinstance(number, int) else 0 for number in numbers)
    said = found.get("left")
    return Copy(flavor, "", files, changed, tuple(map(str, said)) if isinstance(said, list) else ())


def _made(tree: Tree, files: Sequence[str], target: Path, flavor: str, wish: CopyWish) -> Copy:
    """Make one copy anew. What is wrong with the flavor is told before anything is written."""
    plan = alone(tree, flavor) if wish.alone else stamp(tree, flavor)
    places = ((f"{item.file}:{item.line}" if item.line else item.file, item.reason) for item in plan.residue)
    changes, left = plan.changes, [f"{place}: {reason}" for place, reason in places]
    fleet = set() if wish.identity else set(own_files(tree))
    place = target / flavor
    _note(target, flavor, state="begun")
    if place.exists():
        shutil.rmtree(place)
    place.mkdir()
    gone = {change.source for change in changes if change.source and change.source != change.target}
    written = {change.target: change for change in changes if change.target}
    folders: set[str] = {""}
    plain = {"": True}
    count = 0
    for path in files:
        if path not in gone and path not in written and path not in fleet:
            count += _copied(tree.root, place, path, folders, plain)
    for path, change in written.items():
        _written(tree.root, place, path, change, folders)
        count += 1
    _note(target, flavor, state="done", wish=list(wish), files=count, changed=len(changes), left=left)
    return Copy(flavor, "", count, len(changes), tuple(left))


def _files(tree: Tree) -> list[str]:
    """Return what git would take: what a survey leaves out by its name (fetched dependencies) too."""
    listed = git_answer(tree.root, "ls-files", "-z", "--cached", "--others", "--exclude-standard") or b""
    found = {*tree.files, *(path for path in os.fsdecode(listed).split("\0") if path and not path.endswith("/"))}
    return sorted(path for path in found if not set(_LEFT_BEHIND) & set(path.split("/")))


def _copied(root: Path, place: Path, path: str, folders: set[str], plain: dict[str, bool]) -> int:
    """Copy one file or link; return how many were copied: what is in the index only, or a repository, is none.

    Nor is what the index names beyond a link: git holds it for deleted, and the link may lead anywhere.
    """
    source = root / path
    try:
        info = source.lstat()
    except OSError:
        return 0
    if not _is_plain(root, parent(path), plain):
        return 0
    if stat.S_ISLNK(info.st_mode):
        _make_folders(place, parent(path), folders)
        (place / path).symlink_to(source.readlink())
        return 1
    if not stat.S_ISREG(info.st_mode):
        return 0
    _make_folders(place, parent(path), folders)
    with source.open("rb") as read, _new(place / path, info.st_mode) as write:
        if not _cloned(read.fileno(), write.fileno()):
            shutil.copyfileobj(read, write, 1 << 20)
    return 1


def _written(root: Path, place: Path, path: str, change: FileChange, folders: set[str]) -> None:
    """Write a file that the stamp changes, with the permissions that its original has."""
    _make_folders(place, parent(path), folders)
    if change.link:
        (place / path).symlink_to(os.fsdecode(change.after or b""))
        return
    mode = (root / change.source).stat().st_mode if change.source else _PLAIN
    data = change.after if change.edited or change.source is None else change.before
    with _new(place / path, mode) as write:
        write.write(data or b"")


@contextlib.contextmanager
def _new(path: Path, mode: int) -> Iterator[BinaryIO]:
    flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_BINARY", 0)
    with open(os.open(path, flags, 0o600), "wb") as handle:
        yield handle
        if hasattr(os, "fchmod"):
            os.fchmod(handle.fileno(), mode & 0o777 | 0o200)


def _make_folders(place: Path, folder: str, folders: set[str]) -> None:
    if folder not in folders:
        _make_folders(place, parent(folder), folders)
        (place / folder).mkdir()  # the copy is new: what exists already is not a folder of this run
        folders.add(folder)


def _is_plain(root: Path, folder: str, known: dict[str, bool]) -> bool:
    """Tell whether a folder and those above it are no links."""
    if folder not in known:
        known[folder] = _is_plain(root, parent(folder), known) and not (root / folder).is_symlink()
    return known[folder]


def _cloned(source: int, target: int) -> bool:
    """Let a file share the blocks of another, where the file system can."""
    try:
        import fcntl
    except ImportError:
        return False
    try:
        fcntl.ioctl(target, _CLONE, source)
    except OSError as error:
        if error.errno in (errno.EOPNOTSUPP, errno.EXDEV, errno.EINVAL, errno.ENOTTY, errno.ENOSYS, errno.EPERM):
            return False
        raise
    return True
