"""Service files put in their place, after it is made sure that they know the app."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

from onomaxis.brands.subjects import Subject
from onomaxis.errors import InputError
from onomaxis.flavor_names import flavor_word, same_flavor
from onomaxis.formats.plist import is_binary_plist
from onomaxis.projects.draft import Draft
from onomaxis.projects.neighbours.called import Called, Names
from onomaxis.projects.project import Project
from onomaxis.projects.services import GOOGLE_ANDROID, GOOGLE_IOS, ServiceFile, read_service, service_files
from onomaxis.surveys.survey import kind_of
from onomaxis.tree import Tree, join, parent


class Placed(NamedTuple):
    """A service file with the place that it belongs into, and the flavor it is for (``""``: the app itself).

    ``naming`` is what makes the project's configuration name that place, or its build take the file from there.
    """

    path: str
    data: bytes
    flavor: str
    naming: Draft | None = None


class ServiceWish(NamedTuple):
    """A service file that is given: its name and bytes, for which flavor (``""``: whom it knows), of which apps."""

    name: str
    data: bytes
    flavor: str
    subjects: tuple[Subject, ...]

    def standing(self, projects: Sequence[Project]) -> list[Subject]:
        """Return the apps as they are in the projects of another tree."""
        now = {project.key: project for project in projects}
        return [replace(subject, project=now[subject.project.key]) for subject in self.subjects]


def place_service(tree: Tree, subjects: Sequence[Subject], wish: ServiceWish) -> Placed:
    """Return where a service file goes. Raises InputError when it is none, or does not know the app."""
    name, data, flavor = wish.name, wish.data, wish.flavor
    platform, file = _sound(name, data)
    subject = next((item for item in subjects if item.platform == platform), None)
    if subject is None:
        raise InputError(f"it is for {platform}, and there is no {platform} app here", file=name)
    meant = _flavor(subject, file, name, flavor)
    home = kind_of(subject.project).service_home(subject.project, tree, platform)
    if home is not None:
        return Placed(home[0], data, meant, home[1])
    if platform == "android":
        folder = f"src/{meant}" if meant else ""
        return Placed(join(join(module_folder(subject), folder), GOOGLE_ANDROID), data, meant)
    path, branch = _apple_place(tree, subject, file, meant), subject.branch(meant)
    return Placed(path, data, meant, kind_of(subject.project).bring_service(subject.project, tree, branch, path))


def known_by(name: str, data: bytes) -> tuple[str, list[str]]:
    """Return the platform of a service file and the IDs that it knows. Raises InputError when it is none."""
    platform, file = _sound(name, data)
    return platform, [app.id for app in file.apps]


def _sound(name: str, data: bytes) -> tuple[str, ServiceFile]:
    platform, file = _read(data)
    if file.fault:
        raise InputError(f"this is not a service file: {file.fault}", file=name, line=file.fault_line)
    return platform, file


def serves(subject: Subject, data: bytes, flavor: str) -> bool:
    """Tell whether a service file knows the ID of a flavor."""
    value = subject.value(flavor, "id")
    return value is not None and _read(data)[1].knows(value.text)


def _read(data: bytes) -> tuple[str, ServiceFile]:
    """Read a service file, and tell its platform."""
    platform = "ios" if data.lstrip()[:5] in (b"<?xml", b"<!DOC", b"<plis") or is_binary_plist(data) else "android"
    return platform, read_service(GOOGLE_IOS if platform == "ios" else GOOGLE_ANDROID, data)


def _flavor(subject: Subject, file: ServiceFile, name: str, flavor: str) -> str:
    """Return the flavor that a file is for: the one named, else the only one that it knows, else the app itself."""
    if flavor and (built := [item for item in (*subject.flavors, *subject.made) if same_flavor(item, flavor)]):
        value = subject.value(flavor, "id")
        if value is None or not file.knows(value.text):
            _unknown(file, name, flavor, value.text if value else "not resolved")
        return built[0]
    own = subject.text("", "id") or ""
    known = [item for item in subject.flavors if (value := subject.value(item, "id")) and file.knows(value.text)]
    if file.knows(own) or len(known) > 1:
        return ""
    if len(known) == 1:
        return known[0]
    _unknown(file, name, flavor or "the app", own)
    return ""


def _unknown(file: ServiceFile, name: str, who: str, id_: str) -> None:
    listed = ", ".join(app.id for app in file.apps)
    raise InputError(
        f"the file does not know {who} ({id_}): it knows {listed}",
        file=name,
        line=file.apps[0].line,
        remedy="Download this app's file from the service's console, or take the ID from this file: "
        f"onomaxis rename --id-from {name}. Nothing was changed.",
    )


def module_folder(subject: Subject) -> str:
    """Return the folder of an Android module: that of the script that owns the app's ID, else what its icon says."""
    for app in subject.brands:
        for value in (app.id, app.icon, app.name):
            file = value.place.file if value else ""
            if file.endswith((".gradle", ".gradle.kts")):
                return parent(file)
            if "/src/" in file:
                return file.partition("/src/")[0]
    return subject.project.folder


def lies_with(subject: Subject, path: str, flavor: str) -> bool:
    """Tell whether a file is a flavor's, or a combination's, by the words of its path below the project."""
    inner = path.removeprefix(subject.project.folder)
    words = {name for name in subject.singles if flavor_word(name).search(inner)}
    return bool(flavor) and words == (subject.singles.parts(flavor) or {flavor})


def _as_siblings(subject: Subject, paths: Sequence[str], flavor: str) -> str:
    """Return where a flavor's file would lie if it lay as two of its siblings' at least; empty where none do."""
    names = Names([Called(name, {}, "") for name in dict.fromkeys((*subject.singles, *subject.flavors))])
    alike: dict[str, list[tuple[str, str]]] = {}
    for path in paths:
        named = list(dict.fromkeys(span.flavor for span in names.spans(path)))
        if len(named) == 1:
            alike.setdefault(names.braced(path, named[0]), []).append((named[0], path))
    most = max(alike.values(), key=len, default=[])
    return names.renamed(most[0][1], most[0][0], Called(flavor, {}, "")) if len(most) > 1 else ""


def _apple_place(tree: Tree, subject: Subject, file: ServiceFile, flavor: str) -> str:
    """Return where a property list of the service goes: over the one it replaces, else beside the app's own list."""
    known = service_files(tree, GOOGLE_IOS, subject.project.folder)
    others = {value.text for item in subject.flavors if item != flavor and (value := subject.value(item, "id"))}
    ids = {app.id for app in file.apps}
    for old in known:
        if any(app.id in ids for app in old.apps) or lies_with(subject, old.path, flavor):
            return old.path
    if not flavor:
        plain = [old for old in known if not any(app.id in others for app in old.apps)]
        if len(plain) == 1:
            return plain[0].path
    alike = _as_siblings(subject, [old.path for old in known], flavor) if flavor else ""
    if alike:
        return alike
    branch = subject.branch(flavor)
    folder = join(join(subject.project.folder, branch.module), flavor)
    own = branch._replace(name=flavor)  # a target of a flavor's own is none that others share a folder with
    return kind_of(subject.project).service_place(subject.project, own) or join(folder, GOOGLE_IOS)
