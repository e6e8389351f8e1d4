"""The brand that a tree is: where the build knows no flavors, one tree becomes one brand after the other."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence

from onomaxis.brands.readings import Reading, read_values
from onomaxis.brands.subjects import Subject, load_identity, subjects_of
from onomaxis.brands.worn import differences
from onomaxis.errors import OnomaxisError, RefusedError
from onomaxis.flavor_names import same_flavor
from onomaxis.identity.file import Brand, IdentityFile
from onomaxis.projects.project import Project
from onomaxis.surveys.flavors import known_flavor
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree

# What tells brands apart, the surest first.
_TELLING = ("id", "name", "names", "code-package")


def becomes_brands(file: IdentityFile | None, subjects: Sequence[Subject]) -> bool:
    """Tell whether a tree becomes one of the file's brands at a time: its builds know no flavors at all."""
    return file is not None and bool(file.flavors and subjects) and not any(subject.flavors for subject in subjects)


def identity_of_tree(tree: Tree, projects: Sequence[Project], strict: bool = True) -> IdentityFile | None:
    """Return the identity file as it speaks of a tree as it stands today: of the brand that the tree is."""
    file = load_identity(tree, strict)
    return file.as_brand(brand_of_tree(tree, file, subjects_of(file, projects))) if file is not None else None


def brand_of_tree(tree: Tree, file: IdentityFile, subjects: Sequence[Subject]) -> str:
    """Return the brand that a tree is called as; empty for the app itself, and where the build knows flavors.

    IDs count before names, names before values; of those that are as near the first one of the file is taken.
    """
    if not becomes_brands(file, subjects):
        return ""
    nearness = {flavor: _nearness(file, subjects, flavor) for flavor in ("", *file.flavors)}
    best = max(nearness.values())
    alike = [flavor for flavor, near in nearness.items() if near == best]
    return max(alike, key=lambda flavor: _values_right(tree, file, flavor)) if len(alike) > 1 else alike[0]


def _nearness(file: IdentityFile, subjects: Sequence[Subject], flavor: str) -> tuple[int, ...]:
    """Return how much of what a brand says a tree says too, less what it says otherwise: by what tells most."""
    near: Counter[str] = Counter()
    for subject in subjects:
        brand = file.as_app(flavor, subject.platform)
        off = Counter(item.key for item in differences(subject, brand, ""))
        said = Counter(dict.fromkeys(brand.facets, 1)) + Counter({"names": len(brand.names)})
        near.update({key: said[key] - 2 * off[key] for key in _TELLING})
    return tuple(near[key] for key in _TELLING)


def _values_right(tree: Tree, file: IdentityFile, flavor: str) -> int:
    """Return how many places of values read as a brand says."""
    try:
        found = [item for item in read_values(tree, file, flavor) if isinstance(item, Reading)]
    except OnomaxisError:
        return 0
    return sum(1 if item.right else -1 for item in found)


def given_keys(brand: Brand, platform: str) -> Iterator[str]:
    """Yield what a brand gives on a platform, or inherits."""
    yield from brand.facets
    yield from (f"“{name}”" for name in brand.values)
    yield from (f"icon.{key}" for key in brand.icon)
    yield from (f"services.{key}" for key in brand.files if key.endswith(platform))


def ids_of_brands(tree: Tree) -> frozenset[tuple[str, str]]:
    """Return platform and ID of every brand that a tree can become; none where the build knows flavors.

    An identity file that is not right tells none: whoever needs it says so.
    """
    try:
        file = load_identity(tree, strict=False)
        subjects = subjects_of(file, read_projects(tree)) if file is not None else ()
    except OnomaxisError:
        return frozenset()
    if file is None or not becomes_brands(file, subjects):
        return frozenset()
    found = ((s.platform, file.as_app(name, s.platform).get("id")) for s in subjects for name in ("", *file.flavors))
    return frozenset((platform, id_) for platform, id_ in found if id_)


def flavor_here(tree: Tree, projects: Sequence[Project], flavor: str) -> tuple[str, str]:
    """Return the flavor of the build that is meant, none for the brand that the tree is; and that brand.

    Raises RefusedError for a brand that it is not, InputError for one that the identity file does not know.
    """
    file = identity_of_tree(tree, projects)
    if file is None or not becomes_brands(file, subjects_of(file, projects)):
        return flavor, ""
    if not flavor or same_flavor(flavor, file.standing):
        return "", file.standing
    named, today = known_flavor(projects, flavor, file.flavors), file.standing or "the app itself"
    raise RefusedError(
        f"this tree is {today}, not {named}",
        file=file.home(file.line("flavors", named)),
        line=file.line("flavors", named),
        remedy=f"onomaxis stamp --flavor {named} makes it {named}; onomaxis check --flavor {named} checks it.",
    )
