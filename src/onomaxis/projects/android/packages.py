"""Code packages: which there are, which files hold them, and how their folders move."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from onomaxis import late
from onomaxis.formats.escapes import encode
from onomaxis.formats.source import flat
from onomaxis.model import Disagreement, Move, Note
from onomaxis.tree import Tree, join, parent

SOURCE_ENDINGS = (".kt", ".java", ".groovy", ".aidl", ".kts")
_PACKAGE = late.compile(
    rb"^(?:\xef\xbb\xbf)?(?>(?:\s++|//[^\n]*+\n|/\*(?>(?:[^*]++|\*(?!/))*)\*/|#![^\n]*+\n|@\w++[^\n]*+\n)*)"
    rb"package\s+([A-Za-z_`][\w.`\x80-\xff]*)"
)


class SourceFile(NamedTuple):
    """One source file: its package as written (without backticks), and the source root if the folder follows it."""

    path: str
    package: str
    root: str | None


@dataclass(frozen=True)
class CodeIndex:
    """The packages and top-level names of the sources below a Gradle build.

    ``placed`` are files that are no sources and lie where their package would: resources, schemas, queries.
    """

    files: tuple[SourceFile, ...]
    packages: frozenset[str]
    contents: Mapping[str, bytes]
    placed: tuple[SourceFile, ...] = ()

    def is_code(self, token: str) -> bool:
        """Tell whether a dotted token names a package of the tree, or a class in one, or a member of a class."""
        if token in self.packages:
            return True
        parts = token.partition("$")[0].split(".")
        names = [".".join(parts[:count]) for count in range(len(parts), 1, -1)]
        if any(name in self._stems for name in names):
            return True
        known = any(name in self.packages for name in names)
        return known and any(name in self._declared for name in names)

    @cached_property
    def _stems(self) -> frozenset[str]:
        """The classes that files are named after; of a bundle in several languages, the bundle."""
        found = {
            f"{file.package}.{file.path.rpartition('/')[2].rpartition('.')[0]}"
            for file in (*self.files, *self.placed)
        }
        return frozenset(found | {name.rpartition("_")[0] for name in found if _LANGUAGE.search(name)})

    @cached_property
    def _declared(self) -> frozenset[str]:
        """Every name that a file declares; read only when a token is neither a package nor a file's name."""
        return frozenset(
            f"{file.package}.{name}" for file in self.files for name in _declared_names(self.contents[file.path])
        )


def declared_package(data: bytes) -> str:
    """Return the package that a source file declares, or an empty string."""
    match = _PACKAGE.match(flat(data))
    return match[1].decode("utf-8", "replace").replace("`", "") if match else ""


def index_sources(
    folder: str, prefixes: Iterable[str], held: Mapping[str, bytes], placed: Iterable[SourceFile] = ()
) -> CodeIndex:
    """Index the sources below *folder* whose package is one of *prefixes* or lies below one.

    *held* are the files whose bytes hold an identifier of the project: no other source can matter.
    """
    placed = tuple(placed)
    wanted = tuple(prefixes)
    files: list[SourceFile] = []
    packages: set[str] = set()
    for path, data in held.items():
        if not path.endswith(SOURCE_ENDINGS) or (folder and not path.startswith(folder + "/")):
            continue
        package = declared_package(data)
        if not any(within(package, prefix) for prefix in wanted):
            continue
        files.append(SourceFile(path, package, _root(path, package)))
        packages.update(_chain(package, wanted))
    for file in placed:
        packages.update(_chain(file.package, wanted))
    return CodeIndex(tuple(files), frozenset(packages), held, placed)


# A bundle's file for one language (java.util.ResourceBundle): name_de, name_pt_BR.
_LANGUAGE = late.compile(r"_[a-z]{2,3}(?:_[A-Z]{2})?\Z")
# Folders of a source set whose paths are the platform's own, or a picture's: no packages.
_NO_PACKAGES = ("res", "assets", "jniLibs", "cpp", "jni", "baselineProfiles")


def placed_files(tree: Tree, folder: str, prefixes: Iterable[str]) -> Iterator[SourceFile]:
    """Yield the files of a module that are no sources, and lie in folders that spell a package of *prefixes*.

    Their tools and the code that loads them go by that path: database queries, resource bundles, schemas.
    """
    tails = {f"/{prefix.replace('.', '/')}/" for prefix in prefixes if "." in prefix}
    base = join(folder, "src")
    for path in tree.below(base):
        if path.endswith(SOURCE_ENDINGS):
            continue
        inner = path[len(base) + 1 :].split("/", 2)
        if len(inner) < 3 or inner[1] in _NO_PACKAGES:
            continue
        if any(f"/{inner[2]}".startswith(tail) for tail in tails):
            root = f"{base}/{inner[0]}/{inner[1]}"
            yield SourceFile(path, parent(inner[2]).replace("/", "."), root)


def main_package(tree: Tree, folder: str, namespace: str) -> str:
    """Return the package that the main sources of the module at *folder* live in: the namespace if any do.

    Few files are read: only when the topmost source lies outside the namespace are all of them asked.
    """
    paths = list(tree.below(join(folder, "src/main"))) or list(tree.below(join(folder, "src")))
    tail = f"/{namespace.replace('.', '/')}/"
    if any(tail in path for path in paths):
        return namespace
    sources = [path for path in paths if path.endswith((".kt", ".java"))]
    if not sources:
        return namespace
    sources.sort(key=lambda path: (path.count("/"), path))
    first = declared_package(tree.read(sources[0]) or b"")
    if within(first, namespace):
        return namespace
    packages = [package for path in sources if (package := declared_package(tree.read(path) or b""))]
    if any(within(package, namespace) for package in packages):
        return namespace
    common = _common(packages) if packages else ""
    return common if common.count(".") >= 1 else namespace


def stale_test_packages(tree: Tree, folder: str, known: Iterable[str]) -> tuple[tuple[str, str], ...]:
    """Return the packages of a module's tests, each with a file of it, where none lies in a package of the module.

    Generators leave example tests behind in the package of their own template.
    """
    base = join(folder, "src")
    start, end = len(base) + 1, len(base) + 1 + max(map(len, _TESTS))
    tests = [path for path in tree.below(base) if path[start:end].lower().startswith(_TESTS)]
    paths = [path for path in tests if path.endswith((".kt", ".java"))]
    if not paths or len(paths) > _MOST_EXAMPLES:
        return ()
    packages = {package: path for path in paths if (package := declared_package(tree.read(path) or b""))}
    own = tuple(known)
    if any(within(package, name) or within(name, package) for package in packages for name in own):
        return ()
    common = _common(sorted(packages))
    if "." in common:
        return ((common, paths[0]),)
    return tuple(sorted((name, path) for name, path in packages.items() if "." in name))


# Source sets of tests, and how many files examples are at most: a real suite has a package of its own choice.
_TESTS = ("test", "androidtest")
_MOST_EXAMPLES = 4

_DECLARED_NAME = late.compile(
    rb"^[ \t]*(?:[a-z]+[ \t]+)*(?:class|interface|object|enum|record|@interface|typealias)[ \t]+(?:class[ \t]+)?"
    rb"([A-Za-z_]\w*)",
    re.MULTILINE,
)


def _declared_names(data: bytes) -> set[str]:
    return {match[1].decode("ascii") for match in _DECLARED_NAME.finditer(flat(data))}


def _chain(package: str, prefixes: tuple[str, ...]) -> set[str]:
    """Return the package and the packages above it, down to a wanted prefix."""
    parts = package.split(".")
    names = {".".join(parts[:count]) for count in range(1, len(parts) + 1)}
    return {name for name in names if any(within(name, prefix) for prefix in prefixes)}


def within(name: str, prefix: str) -> bool:
    """Tell whether *name* is *prefix* or below it."""
    return name == prefix or name.startswith(prefix + ".")


def _root(path: str, package: str) -> str | None:
    folder = parent(path)
    tail = package.replace(".", "/")
    if folder == tail:
        return ""
    return folder[: -len(tail) - 1] if folder.endswith("/" + tail) else None


def _common(packages: list[str]) -> str:
    parts = [package.split(".") for package in packages]
    shared = []
    for segments in zip(*parts, strict=False):
        if len(set(segments)) > 1:
            break
        shared.append(segments[0])
    return ".".join(shared)


class Relocation(NamedTuple):
    """The moves that follow from a package's new name, and what stands in the way."""

    moves: tuple[Move, ...]
    clashes: tuple[Note, ...]


def relocate(tree: Tree, index: CodeIndex, old: str, new: str, foreign: tuple[str, ...] = ()) -> Relocation:
    """Move every file below the folders of package *old* to those of *new*, in each source root that holds it.

    Packages in *foreign* belong to another app and stay.
    """
    files = (*index.files, *index.placed)
    mine = [f for f in files if within(f.package, old) and not any(within(f.package, name) for name in foreign)]
    roots = sorted({file.root for file in mine if file.root is not None})
    old_tail, new_tail = old.replace(".", "/"), new.replace(".", "/")
    moves: list[Move] = []
    for root in roots:
        base = f"{root}/{old_tail}" if root else old_tail
        target = f"{root}/{new_tail}" if root else new_tail
        staying = {file.path for file in index.files} - {file.path for file in mine}
        for path in tree.below(base):
            if path not in staying:
                moves.append(Move(path, target + path[len(base) :]))
    return Relocation(tuple(moves), tuple(_clashes(tree, index, moves, old, new)))


# Files beside the sources that are named after a class: generated native headers and what implements them.
_NATIVE_ENDINGS = (".h", ".hpp", ".c", ".cc", ".cpp")


def renamed_files(tree: Tree, index: CodeIndex, folder: str, old: str, new: str) -> Iterator[Move]:
    """Yield the files below *folder* whose own name, or whose folder's, spells a class of package *old*.

    That are service files (``META-INF/services/a.b.Service``), database schemas (``schemas/a.b.Database/1.json``) and
    native headers (``a_b_Class.h``).
    """
    mangled = encode("jni", old) + "_"
    for path in tree.below(folder):
        above, _, name = path.rpartition("/")
        if above.endswith("META-INF/services") or "/schemas/" in path:
            parts = [_renamed(part, index, old, new) for part in path.split("/")]
            if "/".join(parts) != path:
                yield Move(path, "/".join(parts))
        elif name.startswith(mangled) and name.endswith(_NATIVE_ENDINGS):
            rest = name[len(mangled) :]
            if index.is_code(f"{old}.{rest.partition('.')[0].partition('_')[0]}"):
                yield Move(path, join(above, f"{encode('jni', new)}_{rest}"))


def _renamed(segment: str, index: CodeIndex, old: str, new: str) -> str:
    return new + segment[len(old) :] if within(segment, old) and index.is_code(segment) else segment


def _clashes(tree: Tree, index: CodeIndex, moves: list[Move], old: str, new: str) -> Iterable[Note]:
    """Yield what a move would overwrite or merge with."""
    leaving = {move.source for move in moves}
    targets: dict[str, str] = {}
    for move in moves:
        if move.target in tree.known and move.target not in leaving:
            yield Note(move.target, f"it exists already, and {move.source} would move there")
        elif move.target not in leaving and (tree.root / move.target).exists() and not _same(tree, move):
            yield Note(move.target, f"it exists already, though it is ignored, and {move.source} would move there")
        folded = move.target.casefold()
        if folded in targets and targets[folded] != move.target:
            yield Note(move.target, f"it differs from {targets[folded]} only in case")
        targets[folded] = move.target
    arriving = {parent(move.target) for move in moves}
    staying = defaultdict(list)
    for path in tree.files:
        if path.endswith(SOURCE_ENDINGS) and parent(path) in arriving and path not in leaving:
            staying[parent(path)].append(path)
    for folder, paths in sorted(staying.items()):
        first = paths[0].rpartition("/")[2]
        yield Note(folder, f"the folder holds sources of its own ({first}): {old} would merge into {new}")


def _same(tree: Tree, move: Move) -> bool:
    """Tell whether source and target are one file: a case-only rename where case does not count."""
    try:
        return (tree.root / move.source).samefile(tree.root / move.target)
    except OSError:
        return False


def misplaced(index: CodeIndex, package: str) -> list[Disagreement]:
    """Name the sources of *package* whose folder does not follow their package line."""
    found = []
    for file in index.files:
        folder = parent(file.path)
        tail = file.package.replace(".", "/")
        shortened = tail.removeprefix(package.replace(".", "/")).lstrip("/")
        follows = file.root is not None or not shortened or folder.endswith("/" + shortened)
        if within(file.package, package) and not follows:
            found.append(
                Disagreement("folder-differs", f"{file.path} declares package {file.package}", ((file.path, 1),))
            )
    return found
