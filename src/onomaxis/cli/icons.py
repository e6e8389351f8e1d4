"""``onomaxis icons``: draws the icon sets into the project."""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from onomaxis.cli.flow import View, carry_through, show_notes
from onomaxis.cli.layout import Cell, put
from onomaxis.cli.output import count, section
from onomaxis.cli.progress import drawing
from onomaxis.cli.session import named_flavor, open_to_write, say_selected
from onomaxis.errors import InputError
from onomaxis.icons.homes import drawn_flavors
from onomaxis.icons.output import Image
from onomaxis.icons.plan import IconPlan, plan_icons
from onomaxis.icons.wish import IconWish
from onomaxis.surveys.survey import read_projects
from onomaxis.surveys.variants import together

if TYPE_CHECKING:
    from onomaxis.cli.console import SafeConsole

_SHOWN = 14


_FILES = (
    "art",
    "foreground",
    "background",
    "monochrome",
    "legacy_art",
    "ios_art",
    "ios_dark",
    "ios_tinted",
    "store_art",
)


def wishes_of(options: argparse.Namespace, known: Sequence[str]) -> list[IconWish]:
    """Turn the options into wishes: one for each flavor named or *known*, or one for the app itself."""
    flavors = list(dict.fromkeys([*options.flavor, *known]))
    if options.every_flavor and not flavors:
        raise InputError("the project has no flavors", remedy="Leave --every-flavor out.")
    if len(flavors) > 1 and options.store_art and "{flavor}" not in options.store_art:
        raise InputError(
            "the store art of several flavors needs a folder each",
            remedy=f"Give --store-art '{options.store_art}/{{flavor}}'.",
        )
    return [_wish(options, flavor) for flavor in flavors or [""]]


def _wish(options: argparse.Namespace, flavor: str) -> IconWish:
    files = {name: getattr(options, name).replace("{flavor}", flavor) for name in _FILES}
    return IconWish(
        **files,
        inset=options.inset,
        legacy_shape=options.legacy_shape,
        slots=options.slots,
        icon_name=options.icon_name,
        platforms=tuple(options.platform),
        apps=options.app,
        flavor=flavor,
        notification=options.notification,
        strict=options.strict,
        ribbon=options.ribbon,
        ribbon_color=options.ribbon_color,
        ribbon_ink=options.ribbon_ink,
        ribbon_corner=options.ribbon_corner,
    )


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    tree = open_to_write(options)
    projects = read_projects(tree)
    options.flavor = together([named_flavor(tree, name) for name in options.flavor], projects, tree)
    options.app = tuple(folder.rstrip("/") for folder in options.app)
    for name in options.flavor:
        say_selected(options, projects, name)
    wishes = wishes_of(options, drawn_flavors(tree, projects, options.app) if options.every_flavor else ())
    with drawing(options) as tick:
        plan = plan_icons(tree, projects, wishes, tick)
    return carry_through(options, tree, plan, VIEW)


def as_document(plan: IconPlan, journal: str) -> dict[str, Any]:
    """Return the outcome as the JSON document that docs/json.md describes."""
    return {
        "images": [
            {
                "path": i.path,
                "width": i.width,
                "height": i.height,
                "platform": i.platform,
                "slot": i.slot,
                "flavor": i.flavor,
            }
            for i in plan.images
        ],
        "created": [change.target for change in plan.changes if change.source is None],
        "changed": [change.target for change in plan.changes if change.source and change.target],
        "removed": [change.source for change in plan.changes if change.target is None],
        "warnings": [{"code": w.code, "message": w.message, "file": w.file} for w in plan.warnings],
        "journal": journal,
    }


def _show(console: SafeConsole, plan: IconPlan) -> None:
    kinds = Counter(
        "new" if change.source is None else "removed" if change.target is None else "changed"
        for change in plan.changes
    )
    said = ", ".join(f"{number} {kind}" for kind, number in sorted(kinds.items()))
    put(console, Cell(f"To draw: {count(len(plan.images), 'image')}; files: {said or 'none to change'}", "bold"))
    section(console, "Icons", ((home.folder or ".", f"{home.name} ({home.platform})") for home in plan.homes))
    section(console, "Pictures", _pictures(plan.images))
    removed = [(change.source or "", "an old leftover") for change in plan.changes if change.target is None]
    section(console, "To remove", removed, _SHOWN)
    _show_warnings(console, plan)


def _pictures(images: Sequence[Image]) -> list[tuple[str, str]]:
    """Say which pictures stand in which slots: each, or by families of slots where there are many."""
    if len(images) <= _SHOWN:
        return [(item.path, f"{item.width} x {item.height}  {item.slot}") for item in images]
    families: dict[tuple[str, str, str], list[Image]] = {}
    for item in images:
        family = item.slot.rpartition(" ")[0] or item.slot
        families.setdefault((item.platform, item.flavor, family), []).append(item)
    rows = []
    for (platform, flavor, family), found in families.items():
        edges = sorted({(item.width, item.height) for item in found})
        low, high = (f"{width} x {height}" for width, height in (edges[0], edges[-1]))
        where = " ".join(filter(None, (platform, flavor, family)))
        rows.append((where, f"{count(len(found), 'picture')}, {low if low == high else f'{low} to {high}'}"))
    return rows


def _show_warnings(console: SafeConsole, plan: IconPlan) -> None:
    section(console, "Warnings", ((warning.file or "art", warning.message) for warning in plan.warnings))
    show_notes(console, plan)


def _done(plan: IconPlan) -> str:
    return f"{count(len(plan.images), 'image')} in {count(len(plan.homes), 'icon')}"


VIEW = View[IconPlan](as_document, _show, _show_warnings, lambda _, __: None, _done, "Write these icons?")
