"""Which variants a build script leaves out: its filters are run for each combination of flavors.

Source: developer.android.com, "Configure build variants" (``variantFilter``), "Write Gradle plugins"
(``androidComponents.beforeVariants``, ``VariantSelector``).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from onomaxis.flavor_names import combined
from onomaxis.formats.gradle_expressions import Binary, Block, Call, Literal, Node, Reader, Unread
from onomaxis.formats.gradle_statements import literal_text
from onomaxis.projects.android.scope import ScriptFile, Unknown
from onomaxis.projects.android.script_data import Function, Table, computed, truth
from onomaxis.projects.android.values import Environment

_NAMES = frozenset({"variantFilter", "beforeVariants"})


class Filter(NamedTuple):
    """A filter where it stands: its call, None where it is not read."""

    start: int
    call: Call | None


def filters(file: ScriptFile) -> Iterator[Filter]:
    """Yield the filters of a script, in order."""
    view = file.script.source.view
    for at, token in enumerate(file.tokens if any(name in view for name in _NAMES) else ()):
        if token.kind == "name" and token.text in _NAMES:
            reader = Reader(file.tokens[at:])
            try:
                node = reader.postfix(reader.atom())
            except Unread:
                node = None
            yield Filter(token.start, node if isinstance(node, Call) and _closure(node) else None)


def _closure(call: Call) -> Block | None:
    last = call.args[-1] if call.args else None
    return last if isinstance(last, Block) else None


def leaves_out(
    file: ScriptFile, environment: Environment, found: Filter, flavors: Sequence[tuple[str, str]], build_type: str
) -> bool:
    """Tell whether a filter leaves out the variant of flavors (dimension, name). Raises Unknown."""
    block = _closure(found.call) if found.call is not None else None
    if found.call is None or block is None:
        raise Unknown("the filter is not read")
    old = found.call.name == "variantFilter"
    if not old and len(found.call.args) > 1 and not _chosen(found.call.args[0], flavors, build_type):
        return False
    names = [name for _, name in flavors]
    said = Table({"name": computed(build_type)}) if old else computed(build_type)
    variant = Table(
        {
            "name": computed(combined((*names, build_type))),
            "flavorName": computed(combined(names)),
            "buildType": said,
            "flavors": [Table({"name": computed(name), "dimension": computed(at)}) for at, name in flavors],
            "productFlavors": [[computed(at), computed(name)] for at, name in flavors],
            "ignore": False,
            "enable": True,
        },
        "the variant",
        live=True,
    )
    environment.run_strictly(Function(block, file, environment.scope(file, found.start), environment), variant)
    out = variant.get("enabled") if "enabled" in variant.entries else variant.get("enable")
    return truth(variant.get("ignore")) or not truth(out)


def _chosen(node: Node, flavors: Sequence[tuple[str, str]], build_type: str) -> bool:
    """Tell whether a selector chooses a variant: ``selector().withFlavor("stage" to "dev")``. Raises Unknown."""
    while isinstance(node, Call) and node.of is not None:
        words = [word for arg in node.args for word in _words(arg)]
        if node.name == "withFlavor" and len(words) == 2:
            if (words[0], words[1]) not in flavors:
                return False
        elif node.name == "withBuildType" and len(words) == 1:
            if words[0] != build_type:
                return False
        elif node.name != "all":
            raise Unknown("the selector is not read")
        node = node.of
    if not isinstance(node, Call) or node.name != "selector":
        raise Unknown("the selector is not read")
    return True


def _words(node: Node) -> list[str]:
    if isinstance(node, Literal):
        return [literal_text([node.token])]
    if isinstance(node, Binary) and node.sign == "to":
        return [*_words(node.left), *_words(node.right)]
    if isinstance(node, Call) and node.name == "Pair":
        return [word for arg in node.args for word in _words(arg)]
    raise Unknown("the selector is not read")
