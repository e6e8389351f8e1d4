"""What a new flavor's configurations are called: as the project calls those that it has."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from onomaxis.projects.ios.project_file import XcodeProject, flavor_of


def new_names(project: XcodeProject, flavor: str) -> dict[str, str]:
    """Return which configuration each new one is made from: the plain ones, else those of the first flavor."""
    names = list(project.project_configurations)
    plain = [name for name in names if not flavor_of(name)]
    if plain:
        for form in (*_forms(names, plain), "{type}-{flavor}"):
            named = {form.replace("{type}", name).replace("{flavor}", flavor): name for name in plain}
            if any(flavor_of(new) == flavor for new in named):
                break
        return {new: old for new, old in named.items() if flavor_of(new) == flavor}
    first = flavor_of(names[0]) if names else ""
    mine = [name for name in names if flavor_of(name) == first]
    return {name.replace(first, flavor): name for name in mine}


def _forms(names: Sequence[str], plain: Sequence[str]) -> list[str]:
    """Return how a project calls its flavors' configurations, the commonest first: ``{type} ({flavor})``."""
    counted: Counter[str] = Counter()
    for name in names:
        flavor = flavor_of(name)
        rest = name.replace(flavor, "{flavor}", 1) if flavor else ""
        types = [item for item in plain if rest and item in rest]
        if types:
            counted[rest.replace(max(types, key=len), "{type}", 1)] += 1
    return [form for form, _ in counted.most_common()]
