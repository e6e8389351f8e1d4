"""Which files a root holds: asked of git in a work tree, walked elsewhere, by the same rules.

Links are listed like files and never followed. Submodules and other repositories within the root are read like any
other folder, each by its own rules.
"""

from __future__ import annotations

import os
import re
import subprocess
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from pathspec import GitIgnoreSpec

# Folders that hold tools' own files or fetched dependencies, never a project's identity.
SKIPPED_FOLDERS = frozenset(
    {
        ".git",
        ".hg",
        ".svn",
        ".onomaxis",
        ".gradle",
        ".idea",
        ".dart_tool",
        ".expo",
        ".cxx",
        ".kotlin",
        "node_modules",
        "Pods",
        "Carthage",
        "DerivedData",
        "xcuserdata",
        ".venv",
        "__pycache__",
    }
)
# Folders that hold build output where nothing says which files count.
_OUTPUT_FOLDERS = frozenset({"build", "out", "dist", ".build"})
# An editor's settings are its own, but those that a repository keeps are its users'.
_EDITOR = ".idea"
_DEEPEST = 12
# Settings under which git runs nothing that a repository's own configuration names, and takes no folder that merely
# looks like a repository for one (git-config, "core.fsmonitor", "core.hooksPath", "safe.bareRepository").
GIT = (
    "git",
    "-c",
    "core.fsmonitor=false",
    "-c",
    f"core.hooksPath={os.devnull}",
    "-c",
    "safe.bareRepository=explicit",
)

_Rules = tuple[tuple[str, "GitIgnoreSpec"], ...]


@dataclass
class Listing:
    """What was found: files and links (paths relative to the root), inner repositories, what a person should know.

    ``by_git`` tells whether git listed them; ``unread`` are those that git does not look for on the disk, because it
    was told that they are as in its index.
    """

    files: set[str] = field(default_factory=set)
    links: set[str] = field(default_factory=set)
    repositories: set[str] = field(default_factory=set)
    notices: list[str] = field(default_factory=list)
    by_git: bool = False
    unread: set[str] = field(default_factory=set)

    def take(self, folder: str, inner: Listing) -> None:
        """Take in what a repository at *folder* holds."""
        self.repositories.add(folder)
        for mine, other in ((self.files, inner.files), (self.links, inner.links)):
            mine.update(f"{folder}/{path}" for path in other)
        self.repositories.update(f"{folder}/{path}" for path in inner.repositories)
        self.notices += [f"{folder}: {notice}" for notice in inner.notices]


def git_environment() -> dict[str, str]:
    """The environment for git, without variables that would point it at another repository.

    What a repository lacks is never fetched: its configuration names the commands that would do so.
    """
    drop = ("GIT_DIR", "GIT_WORK_TREE", "GIT_INDEX_FILE")
    kept = {name: text for name, text in os.environ.items() if name not in drop}
    return {**kept, "GIT_OPTIONAL_LOCKS": "0", "GIT_NO_LAZY_FETCH": "1", "GIT_ALLOW_PROTOCOL": "none", "LC_ALL": "C"}


def in_repository(root: Path) -> bool:
    """Tell whether *root* may lie in a work tree, as git looks for one: in folders above it."""
    real = Path(os.path.realpath(root))
    return any(os.path.lexists(folder / ".git") for folder in (real, *real.parents))


def git_answer(root: Path, *words: str) -> bytes | None:
    """Return what git answers; None where there is no git, or no work tree."""
    if not in_repository(root):
        return None
    try:
        done = subprocess.run(
            [*GIT, "-C", os.fspath(root), *words], capture_output=True, check=False, env=git_environment()
        )
    except OSError:
        return None
    return done.stdout if done.returncode == 0 else None


class Lister:
    """Begins to list a root when it is made, and gives the result when it is asked."""

    def __init__(self, root: Path, depth: int = 0) -> None:
        self.root = root
        self.depth = depth
        # Two answers at once: every path, and what the index says of each one's kind.
        options = ["--cached", "--deleted", "--others", "--exclude-standard"]
        there = in_repository(root)
        self._paths = _git(root, "ls-files", "-z", "-v", *options) if there else None
        self._kinds = _git(root, "ls-files", "-z", "-s") if there else None

    def result(self) -> Listing:
        """Return what the root holds."""
        if self._paths is None or self._kinds is None:
            return walk(self.root, self.depth)
        answer, fault = self._paths.communicate()
        kinds, _ = self._kinds.communicate()
        if self._paths.returncode == 0:
            found = self._listed(answer, kinds)
            if found.files or found.repositories:
                return found
            return walk(self.root, self.depth)  # an outer repository ignores this folder as a whole
        found = walk(self.root, self.depth)
        if b"dubious ownership" in fault:
            found.notices.append(
                "git does not trust this repository (another user owns it): its ignore files are read without git, "
                "and uncommitted changes cannot be seen; git config --global --add safe.directory allows it"
            )
        return found

    def _listed(self, answer: bytes, kinds: bytes) -> Listing:
        text = os.fsdecode(answer)
        found = Listing(by_git=True)
        entries = text.split("\0")
        may_skip = any(f"{name}/" in text for name in SKIPPED_FOLDERS)
        gone: set[str] = set()
        absent = 0
        marked = any(f"\0{mark} " in text or text.startswith(f"{mark} ") for mark in "RSrsh")
        if may_skip or marked or "/\0" in text:
            for entry in entries:
                path, mark = entry[2:], entry[:1].upper()
                if not path or (may_skip and _left_out(path, mark)):
                    continue
                if mark != entry[0] or mark == "S":  # told to be as in the index, or not to be here
                    found.unread.add(path)
                if mark == "R":  # in the index, no longer on disk
                    gone.add(path)
                elif mark == "S" and not os.path.lexists(self.root / path):
                    absent += 1
                elif path[-1] == "/":
                    self._take(found, path[:-1])
                else:
                    found.files.add(path)
        else:
            found.files.update(entry[2:] for entry in entries if entry)
        found.files -= gone
        if absent:
            found.notices.append(f"a sparse checkout: {absent} files of the repository are not here and are not read")
        self._by_kind(found, kinds)
        new = [entry[2:] for entry in entries if entry[:1] == "?"]
        found.links.update(path for path in new if path in found.files and (self.root / path).is_symlink())
        return found

    def _by_kind(self, found: Listing, kinds: bytes) -> None:
        """Tell links and submodules, which the index keeps by their modes."""
        for entry in kinds.split(b"\0"):
            if entry[:6] not in (b"120000", b"160000"):
                continue
            path = os.fsdecode(entry.partition(b"\t")[2])
            if path in found.files and entry[:6] == b"120000":
                found.links.add(path)
            elif path in found.files:
                found.files.discard(path)
                self._take(found, path)

    def _take(self, found: Listing, folder: str) -> None:
        place = self.root / folder
        if not place.is_dir() or place.is_symlink() or self.depth >= _DEEPEST:
            return
        if (place / ".git").exists():
            found.take(folder, Lister(place, self.depth + 1).result())
        elif any(place.iterdir()):
            found.take(folder, walk(place, self.depth + 1))
        else:
            found.notices.append(f"{folder}: a submodule that is not fetched; it is not read")


def _git(root: Path, *words: str) -> subprocess.Popen[bytes] | None:
    try:
        return subprocess.Popen(
            [*GIT, "-C", os.fspath(root), *words],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            env=git_environment(),
        )
    except OSError:
        return None


def _left_out(path: str, status: str) -> bool:
    found = SKIPPED_FOLDERS.intersection(path.split("/"))
    return bool(found) and not (found == {_EDITOR} and status == "H")


def walk(root: Path, depth: int = 0) -> Listing:
    """List the files below *root* by its ignore files, following no link."""
    found = Listing()
    pending: list[tuple[str, _Rules]] = [("", ())]
    while pending:
        folder, rules = pending.pop()
        try:
            entries = sorted(os.scandir(root / folder), key=lambda entry: entry.name)
        except OSError:
            continue
        names = {entry.name: entry for entry in entries}
        if folder and ".git" in names and depth < _DEEPEST:
            found.take(folder, Lister(root / folder, depth + 1).result())
            continue
        ignore = names.get(".gitignore")
        if ignore is not None and ignore.is_file(follow_symlinks=False):
            rules = (*rules, (folder, _spec(root / folder / ".gitignore")))
        for entry in entries:
            path = f"{folder}/{entry.name}" if folder else entry.name
            if entry.is_symlink():
                if not ignored(path, rules) and not folder.endswith(_EDITOR):
                    found.files.add(path)
                    found.links.add(path)
            elif entry.is_dir(follow_symlinks=False):
                if not _skipped(entry.name, folder, bool(rules)) and not ignored(path + "/", rules):
                    pending.append((path, rules))
            elif folder.endswith(_EDITOR):
                continue
            elif entry.is_file(follow_symlinks=False) and not ignored(path, rules):
                found.files.add(path)
    return found


# So many stars in one segment of a pattern, or folders in one of its rows, and matching could take for ever.
_MOST_STARS = 3


def _spec(path: Path) -> GitIgnoreSpec:
    """Read an ignore file. A pattern that could take for ever to match is passed over: nothing is hidden by it."""
    from pathspec import GitIgnoreSpec

    data = b""
    with suppress(OSError):
        if path.is_file():  # a pipe would never end
            with path.open("rb") as handle:
                data = handle.read(1 << 20)
    text = data.removeprefix(b"\xef\xbb\xbf").decode("utf-8", "surrogateescape")
    lines = (re.sub(r"(?:\*\*/){2,}", "**/", re.sub(r"\*{3,}", "**", line)) for line in text.split("\n"))
    good = [
        line.rstrip("\r")
        for line in lines
        if line.count("**") <= _MOST_STARS
        and all(part.replace("**", "").count("*") <= _MOST_STARS for part in line.split("/"))
    ]
    try:
        return GitIgnoreSpec.from_lines(good)
    except ValueError:
        return GitIgnoreSpec.from_lines([line for line in good if _is_pattern(line)])


def _is_pattern(line: str) -> bool:
    from pathspec import GitIgnoreSpec

    try:
        GitIgnoreSpec.from_lines([line])
    except ValueError:
        return False
    return True


def _skipped(name: str, folder: str, ruled: bool) -> bool:
    """Tell whether a folder is left out by its name.

    Below ``src`` an output name is an ordinary package, and where ignore files speak, they say what is output.
    """
    if folder.endswith(_EDITOR):
        return name != "runConfigurations"
    if name in SKIPPED_FOLDERS:
        return name != _EDITOR
    return name in _OUTPUT_FOLDERS and not ruled and "src" not in folder.split("/")


def ignored(path: str, rules: _Rules) -> bool:
    """Tell whether ignore files leave a path out: the last pattern that matches in the nearest file decides.

    Source: git-scm.com, gitignore, "Pattern format" and "Description" (precedence). A folder's path ends in a slash.
    """
    for folder, spec in reversed(rules):
        relative = path[len(folder) + 1 :] if folder else path
        for pattern in reversed(tuple(spec.patterns)):
            if pattern.include is not None and _names(getattr(pattern, "regex", None), relative):
                return pattern.include
    return False


def _names(regex: re.Pattern[str] | None, path: str) -> bool:
    """Tell whether a pattern means *path* itself, not a folder above it: those were asked about before.

    *pathspec* marks the slash behind a folder that a pattern names as the group ``ps_d``.
    """
    if regex is None:
        return False
    if "ps_d" not in regex.groupindex:
        return regex.search(path.rstrip("/")) is not None
    return any(match.end("ps_d") in (-1, len(path)) for match in regex.finditer(path))
