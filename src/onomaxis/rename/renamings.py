"""Which identifiers a wish turns into which, for one project."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from onomaxis.errors import RefusedError
from onomaxis.identity import rules
from onomaxis.model import Facet, Renaming, Wish, same_flavor
from onomaxis.projects.project import Project, base_id


def renamings_of(project: Project, wish: Wish) -> list[Renaming]:
    """Return which identifiers of *project* turn into which."""
    if not project.apps:
        return _library_renamings(project, wish)
    app = project.apps[0]
    base = base_id(project, app)
    if wish.flavor:
        known = any(same_flavor(wish.flavor, flavor) for flavor in flavors(project))
        return _flavor_renamings(project, wish) if known else []
    if project.platform == "ios":
        return _ios_renamings(base, wish)
    found: list[Renaming] = []
    if wish.android_id and base and base != wish.android_id:
        found.append(Renaming(Facet.APPLICATION_ID, base, wish.android_id))
    old = next((i.value for i in project.identifiers if i.facet is Facet.CODE_PACKAGE and i.module == app.module), "")
    new = wish.code_package or (wish.android_id if old == base else "")
    if new and old and new != old and not wish.keep_code:
        rules.code_package(new)
        found.append(Renaming(Facet.CODE_PACKAGE, old, new))
        found.append(Renaming(Facet.NAMESPACE, old, new))
        tests = f"{app.module} tests"
        stale = [i.value for i in project.identifiers if i.facet is Facet.CODE_PACKAGE and i.module == tests]
        found += [Renaming(Facet.CODE_PACKAGE, package, new) for package in stale]
    return found


def _library_renamings(project: Project, wish: Wish) -> list[Renaming]:
    """Return the move of a library's own package. Raises RefusedError when it is not clear which one is meant."""
    packages = {i.module: i.value for i in project.identifiers if i.facet is Facet.CODE_PACKAGE and i.value}
    chosen = {module: value for module, value in packages.items() if wish.app in ("", module)} or packages
    if len(set(chosen.values())) > 1:
        listed = ", ".join(f"{module} ({value})" for module, value in sorted(chosen.items()))
        raise RefusedError(f"there are several libraries here: {listed}", remedy="Pick one with --app NAME.")
    old = next(iter(chosen.values()), "")
    if not old or old == wish.code_package:
        return []
    rules.code_package(wish.code_package)
    return [Renaming(Facet.CODE_PACKAGE, old, wish.code_package), Renaming(Facet.NAMESPACE, old, wish.code_package)]


def kept_code(project: Project, renamings: Sequence[Renaming], wish: Wish) -> Iterable[str]:
    """Say that the code package stays where a person might expect it to move."""
    if not any(item.facet is Facet.APPLICATION_ID for item in renamings) or wish.keep_code:
        return
    if any(item.facet is Facet.NAMESPACE for item in renamings):
        return
    for owner in project.owners:
        mine = owner.facet is Facet.NAMESPACE and owner.scope.module == project.apps[0].module
        if mine and owner.value != wish.android_id:
            stays = f"the code package {owner.value} stays: it was not the old ID"
            yield f"{owner.place.at}: {stays} (--code-package moves it)"


def _ios_renamings(base: str, wish: Wish) -> list[Renaming]:
    if not wish.ios_id or not base or base == wish.ios_id:
        return []
    found = [Renaming(Facet.BUNDLE_ID, base, wish.ios_id)]
    if wish.groups == "rewrite":
        found.append(Renaming(Facet.APP_GROUP, base, wish.ios_id))
    return found


def _flavor_renamings(project: Project, wish: Wish) -> list[Renaming]:
    """Return the renaming of one flavor's own ID."""
    new = wish.android_id if project.platform == "android" else wish.ios_id
    if not new:
        return []
    facet = Facet.APPLICATION_ID if project.platform == "android" else Facet.BUNDLE_ID
    for owner in project.owners:
        if owner.facet is facet and same_flavor(owner.scope.flavor, wish.flavor):
            return [Renaming(facet, owner.value, new)] if owner.value != new else []
    raise RefusedError(
        f"flavor “{wish.flavor}” sets no ID of its own: it takes the default one, with or without a suffix",
        remedy="Give the flavor an applicationId of its own in the build script first.",
    )


def said(project: Project, renamings: Iterable[Renaming]) -> list[str]:
    """Say what the identifiers of *project* become, a line for each that people know by name."""
    labels = {
        Facet.APPLICATION_ID: "application ID",
        Facet.CODE_PACKAGE: "code package",
        Facet.BUNDLE_ID: "bundle identifier",
    }
    return [f"{labels[item.facet]}: {item.old} → {item.new}" for item in renamings if item.facet in labels]


def flavors(project: Project) -> set[str]:
    """Return the flavors that a project ships or sets anything for."""
    return {app.flavor for app in project.apps if app.flavor} | {
        o.scope.flavor for o in project.owners if o.scope.flavor
    }
