"""What one flavor is called, where its build states nothing of its own yet: it gets an entry of its own."""

from __future__ import annotations

from collections.abc import Iterator

from onomaxis.flavor_names import same_flavor
from onomaxis.model import Facet, Line, Note, ShippedApp, Value
from onomaxis.platforms import PLATFORM_NAMES
from onomaxis.projects.draft import Draft
from onomaxis.projects.edits import one_block
from onomaxis.projects.project import Flavor, Project, brand_of
from onomaxis.rename.targets import SAID, Target, named_by_variants, value_of
from onomaxis.rename.values import Work
from onomaxis.surveys.survey import Survey, kind_of

_ID = {"android": Facet.APPLICATION_ID, "ios": Facet.BUNDLE_ID}
_LABELS = {Facet.APPLICATION_ID: "application ID", Facet.BUNDLE_ID: "bundle identifier", **SAID}


def own_entries(survey: Survey, target: Target, work: Work) -> Draft:
    """Return the entries that a flavor gets for what it took from the app until now; say where it is not built."""
    project, flavor = target.project, target.aim.flavor
    draft = Draft()
    brands = [brand for module in sorted(target.modules) if (brand := brand_of(project, {module}, flavor))]
    if not brands:
        platform = PLATFORM_NAMES.get(project.platform, project.platform)
        work.notes.append(Note(project.folder or ".", f"the {platform} build has no flavor {flavor}: it stays"))
    for brand in brands:
        work.notes += _in_languages(target, brand)
        for facet, new in _wished(target):
            old = _today(brand, facet)
            place = Flavor(brand.module, brand.flavor)
            if facet is Facet.DISPLAY_NAME:
                before = old.text if old else ""
                draft.join(kind_of(project).launcher_labels(project, survey.tree, place, before, new))
            if (old is not None and old.text == new) or _states(project, brand, facet):
                continue
            if facet is Facet.DISPLAY_NAME and named_by_variants(project, brand.module, brand.flavor):
                continue  # an entry of the flavor would show nowhere
            draft.join(kind_of(project).own_facet(project, survey.tree, place, facet, new))
            if facet not in SAID and not target.renamings:
                work.summary.append(Line(_LABELS[facet], f"{old.text if old else 'not set'} → {new}"))
    draft.edits = one_block(draft.edits)
    return draft


def _in_languages(target: Target, brand: ShippedApp) -> Iterator[Note]:
    """Say in which languages a flavor goes on being called otherwise: a text in a language outdoes its name."""
    name, spoken = target.aim.name, dict(target.aim.names)
    for locale, value in brand.names if name is not None else ():
        if locale not in spoken and value.text != name:
            said = f"in {locale} {brand.flavor} keeps the name “{value.text}” (--locale-name {locale}=NAME)"
            yield Note(value.origin.at, said)


def _wished(target: Target) -> Iterator[tuple[Facet, str]]:
    if target.aim.id and target.project.platform in _ID:
        yield _ID[target.project.platform], target.aim.id
    yield from ((item.facet, item.new) for item in target.values)


def _today(brand: ShippedApp, facet: Facet) -> Value | None:
    return value_of(brand, facet) if facet in SAID else brand.id


def _states(project: Project, brand: ShippedApp, facet: Facet) -> bool:
    """Tell whether a place of the flavor's own decides a facet: that place is rewritten."""
    today = _today(brand, facet)
    spots = [today.place, *(piece.place for piece in today.pieces if piece.place)] if today is not None else []
    decides = {(spot.file, spot.start) for spot in spots}
    return any(
        owner.facet is facet
        and owner.scope.module == brand.module
        and same_flavor(owner.scope.flavor, brand.flavor)
        and not owner.scope.locale
        and (today is None or (owner.place.file, owner.place.start) in decides)
        for owner in project.owners
    )
