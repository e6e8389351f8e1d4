"""The apps that a configuration script makes: one where the environment says nothing, one for each value it asks for.

The script is run once for each value that a variable of the environment is compared with, or chooses an entry by, and
for each two of different variables.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

from onomaxis.flavor_names import combined
from onomaxis.projects.frameworks.script_data import Absent, Data, Doubt, Table
from onomaxis.projects.frameworks.script_machine import Machine

# A script may have come from anywhere; nobody builds more apps of one.
_MOST_RUNS, _MOST_APPS = 1000, 600
_MOST_VARIABLES = 100
# What no script asks for.
UNASKED = "\0"


@dataclass(frozen=True)
class Made:
    """What a script makes: by the name of the variant, the app itself first; and what that is called, if anything.

    A combination of two variables names the variants that it is of (``parts``); each other one has the variable that
    asks for it, and the ``files`` that it chooses. ``others`` are made where a variable says what no script asks for;
    ``cut`` tells that there are more apps.
    """

    apps: Mapping[str, Data] = field(default_factory=dict)
    default: str = ""
    parts: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    variables: Mapping[str, str] = field(default_factory=dict)
    files: Mapping[str, Sequence[str]] = field(default_factory=dict)
    others: frozenset[str] = frozenset()
    cut: bool = False

    def top(self, key: str) -> tuple[str, ...]:
        """Return the path of the object that a configuration may have all else in, empty where it has none."""
        return (key,) if isinstance(at(self.apps[""], (key,)), Table) else ()

    def says(self, *path: str) -> bool:
        """Tell whether any of the apps has something at a path of keys, or may have."""
        return any(not isinstance(at(app, path), Absent) for app in self.apps.values())


def made_by(machine: Callable[[Mapping[str, str]], Machine], path: str, given: Callable[[], Data]) -> Made:
    """Run a script for each app that it can make."""
    first = machine({})
    apps: dict[str, Data] = {"": first.result(path, given())}
    # What is asked only where a variable says something at all.
    others = {name: machine({name: UNASKED}) for name in list(first.candidates)[:_MOST_VARIABLES]}
    elsewhere = {name: one.result(path, given()) for name, one in others.items()}
    waiting = [(name, value) for name, values in first.candidates.items() for value in values]
    waiting += [(name, value) for name, one in others.items() for value in one.candidates.get(name, ())]
    done: dict[tuple[str, str], str] = {}
    files: dict[str, Sequence[str]] = {}
    for name, value in waiting:
        if (name, value) in done or not value or first.defaults.get(name) == value or len(done) >= _MOST_RUNS:
            continue
        done[name, value] = label = value if value not in apps else f"{name}={value}"
        one = machine({name: value})
        apps[label] = one.result(path, given())
        files[label] = one.chosen
        waiting += [(known, more) for known, values in one.candidates.items() for more in values]
    parts: dict[str, tuple[str, str]] = {}
    for (name, value), (other, second) in itertools.combinations(done, 2):
        labels = done[name, value], done[other, second]
        if name != other and len(apps) < _MOST_APPS and all(label.isalnum() for label in labels):
            both = combined(labels[::-1])
            parts[both] = labels
            apps.setdefault(both, machine({name: value, other: second}).result(path, given()))
    for name, one in others.items():
        asked = [*first.candidates[name], *one.candidates.get(name, ())]
        default = first.defaults.get(name, "")
        if not asked or default in asked:  # what is made by anything else has no name of its own
            apps.setdefault(f"not ({default})" if asked else name, elsewhere[name])
    unnamed = frozenset(apps) - {"", *done.values(), *parts}
    default = next((said for name, said in first.defaults.items() if first.candidates.get(name)), "")
    cut = len(first.candidates) > _MOST_VARIABLES or len(done) >= _MOST_RUNS or len(apps) >= _MOST_APPS
    return Made(apps, default, parts, {label: name for (name, _), label in done.items()}, files, unnamed, cut)


def at(found: Data, path: tuple[str, ...]) -> Data:
    """Return what an object has at a path of keys."""
    for key in path:
        if isinstance(found, Doubt):
            return found
        if not isinstance(found, Table):
            return Absent()
        value = found.entries.get(key)
        found = value if value is not None else found.doubt or Absent()
    if isinstance(found, Absent) and found.spot is not None and not (found.null or found.asked):
        return Doubt("it is undefined", found.spot)
    return found
