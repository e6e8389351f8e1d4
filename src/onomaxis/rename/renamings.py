"""Which identifiers a wish turns into which, for one project."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from onomaxis.errors import RefusedError
from onomaxis.flavor_names import same_flavor
from onomaxis.identity import rules
from onomaxis.model import Facet, Line, Note
from onomaxis.projects.project import Project, base_id, brand_of
from onomaxis.surveys.flavors import spelled_flavor
from onomaxis.wishes import Renaming, Wish


def renamings_of(project: Project, aim: Wish, base: str, library: str = "") -> list[Renaming]:
    """Return which identifiers of *project* turn into which; *library* names one where no app is meant.

    *base* is the ID that stands for the app without its flavors.
    """
    if not project.apps:
        return _library_renamings(project, aim, library)
    if aim.flavor:
        return _flavor_renamings(project, aim) if spelled_flavor([project], aim.flavor) else []
    if project.platform == "ios":
        return _ios_renamings(base, aim)
    return _android_renamings(project, base, aim)


def _android_renamings(project: Project, base: str, aim: Wish) -> list[Renaming]:
    found: list[Renaming] = []
    module = project.apps[0].module
    if aim.id and base and base != aim.id:
        found.append(Renaming(Facet.APPLICATION_ID, base, aim.id))
    packages = [item for item in project.identifiers if item.facet is Facet.CODE_PACKAGE and item.module == module]
    old = next((item.value for item in packages if not item.tests), "")
    new = aim.code_package or (aim.id if old == base else "")
    if not new or not old or aim.keep_code:
        return found
    if new != old:
        rules.code_package(new)
        found.append(Renaming(Facet.CODE_PACKAGE, old, new))
        found.append(Renaming(Facet.NAMESPACE, old, new))
    if aim.code_package:  # example tests in a template's package move only where a package is asked for
        found += [
            Renaming(Facet.CODE_PACKAGE, item.value, new) for item in packages if item.tests and item.value != new
        ]
    return found


def _library_renamings(project: Project, aim: Wish, library: str) -> list[Renaming]:
    """Return the move of a library's own package. Raises RefusedError when it is not clear which one is meant."""
    own = [i for i in project.identifiers if i.facet is Facet.CODE_PACKAGE and i.value and not i.tests]
    packages = {item.module: item.value for item in own}
    chosen = {module: value for module, value in packages.items() if library in ("", module)} or packages
    if len(set(chosen.values())) > 1:
        listed = ", ".join(f"{module} ({value})" for module, value in sorted(chosen.items()))
        raise RefusedError(f"there are several libraries here: {listed}", remedy="Pick one with --app NAME.")
    old = next(iter(chosen.values()), "")
    if not old or old == aim.code_package:
        return []
    rules.code_package(aim.code_package)
    return [Renaming(Facet.CODE_PACKAGE, old, aim.code_package), Renaming(Facet.NAMESPACE, old, aim.code_package)]


def kept_code(project: Project, renamings: Sequence[Renaming], aim: Wish) -> Iterable[Note]:
    """Say that the code package stays where a person might expect it to move."""
    if aim.flavor or aim.keep_code or not any(item.facet is Facet.APPLICATION_ID for item in renamings):
        return
    if any(item.facet is Facet.NAMESPACE for item in renamings):
        return
    for owner in project.owners:
        mine = owner.facet is Facet.NAMESPACE and owner.scope.module == project.apps[0].module
        if mine and owner.value != aim.id:
            stays = f"the code package {owner.value} stays: it was not the old ID"
            yield Note(owner.place.at, f"{stays} (--code-package moves it)")


def apart_by_condition(project: Project, changed: Iterable[str]) -> Iterable[Note]:
    """Say which build settings say something else under another condition, and stay."""
    codes = {f"{facet}-by-condition" for facet in changed}
    for item in project.disagreements:
        if item.code in codes:
            yield Note(f"{item.at[1][0]}:{item.at[1][1]}", f"{item.message}: that stays")


def _ios_renamings(base: str, aim: Wish) -> list[Renaming]:
    if not aim.id or not base or base == aim.id:
        return []
    found = [Renaming(Facet.BUNDLE_ID, base, aim.id)]
    if aim.groups == "rewrite":
        found.append(Renaming(Facet.APP_GROUP, base, aim.id))
    return found


def _flavor_renamings(project: Project, aim: Wish) -> list[Renaming]:
    """Return the renaming of one flavor's own ID."""
    if not aim.id:
        return []
    facet = Facet.APPLICATION_ID if project.platform == "android" else Facet.BUNDLE_ID
    brand = brand_of(project, {app.module for app in project.apps}, aim.flavor)
    shipped = brand.id.text if brand is not None and brand.id is not None else ""
    own = [
        owner.value
        for owner in project.owners
        if owner.facet is facet and same_flavor(owner.scope.flavor, aim.flavor)
    ]
    if shipped and shipped == base_id(project, project.apps[0]) and shipped not in own:
        return []  # it takes the app's: an entry of its own is made
    old = own[0] if project.platform == "android" and own else shipped or next(iter(own), "")
    return [Renaming(facet, old, aim.id)] if old and old != aim.id else []


_LABELS = {
    Facet.APPLICATION_ID: "application ID",
    Facet.CODE_PACKAGE: "code package",
    Facet.BUNDLE_ID: "bundle identifier",
}


def said(renamings: Iterable[Renaming]) -> list[Line]:
    """Say what identifiers become, a line for each that people know by name."""
    return [Line(_LABELS[item.facet], f"{item.old} → {item.new}") for item in renamings if item.facet in _LABELS]
