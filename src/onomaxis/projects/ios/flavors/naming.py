"""What a new flavor's configurations are called: as the project calls those that it has."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from onomaxis.flavor_names import flavor_word, same_flavor
from onomaxis.projects.ios.project_file import XcodeProject, flavor_of
from onomaxis.projects.neighbours.called import spelled


def new_names(project: XcodeProject, flavor: str, like: str = "") -> tuple[str, dict[str, str]]:
    """Return which flavor a new one is made from, and that one's configurations by their new names.

    Those are *like*'s in all its combinations, else the plain ones (the name is empty then), else the first one's.
    """
    names = list(project.project_configurations)
    plain = [name for name in names if not flavor_of(name)]
    asked = [name for name in names if like and same_flavor(flavor_of(name), like)]
    asked = asked or [name for name in names if like and flavor_word(like).search(name)]
    if plain and not asked:
        for form in (*_forms(names, plain), "{type}-{flavor}"):
            named = {form.replace("{type}", name).replace("{flavor}", flavor): name for name in plain}
            if any(flavor_of(new) == flavor for new in named):
                break
        return "", {new: old for new, old in named.items() if flavor_of(new) == flavor}
    if asked:
        word = flavor_word(like)
        return like, {word.sub(lambda found: spelled(found[0], flavor), name): name for name in asked}
    first = flavor_of(names[0]) if names else ""
    return first, {name.replace(first, flavor): name for name in names if flavor_of(name) == first}


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
