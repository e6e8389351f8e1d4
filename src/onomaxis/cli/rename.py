"""``onomaxis rename``: the summary, the question, the writing, what is left."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from onomaxis.cli.flow import View, carry_through, residue_document, show_notes, show_residue, show_summary
from onomaxis.cli.guide import asked
from onomaxis.cli.layout import Cell, blank, put
from onomaxis.cli.output import count, section
from onomaxis.cli.progress import working
from onomaxis.cli.session import locate, named_flavor, open_to_write, say_selected, service_files
from onomaxis.errors import InputError
from onomaxis.identity.schema import NAME
from onomaxis.platforms import PLATFORM_NAMES, PLATFORMS
from onomaxis.rename.plan import Plan
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import Survey, take_survey
from onomaxis.tree import parent
from onomaxis.wishes import Wish
from onomaxis.writing.change import FileChange

if TYPE_CHECKING:
    from onomaxis.brands.service_ids import Files
    from onomaxis.cli.console import SafeConsole

_SHOWN_FILES, _SHOWN_FOLDERS = 12, 20
# Places of one reason that are shown without --all.


def wish_of(options: argparse.Namespace) -> Wish:
    """Turn the options into a wish. Raises InputError when nothing is asked for."""
    return _required(_wish(options))


def _wish(options: argparse.Namespace) -> Wish:
    here = options.platform or PLATFORMS
    return Wish(
        android_id=options.android_id or (options.id if "android" in here else "") or "",
        ios_id=options.ios_id or (options.id if "ios" in here else "") or "",
        both_id=options.id if options.id and not (options.android_id or options.ios_id or options.platform) else "",
        code_package=options.code_package or "",
        keep_code=options.keep_code,
        name=options.name,
        names=tuple(options.locale_name),
        version=options.version or "",
        build=options.build or "",
        flavor=options.flavor,
        app=options.app,
        platforms=tuple(options.platform),
        services=options.services,
        groups=options.groups,
        shared=options.shared,
        project_name=options.project_name or "",
        team=options.team or "",
        unify=options.unify,
        prose=options.prose,
    )


def _asks_nothing(wish: Wish) -> bool:
    wanted = (
        wish.android_id,
        wish.ios_id,
        wish.code_package,
        wish.names,
        wish.version,
        wish.build,
        wish.project_name,
        wish.team,
        wish.unify,
    )
    return not any(wanted) and wish.name is None


def _required(wish: Wish) -> Wish:
    given = {"android": wish.android_id or wish.code_package, "ios": wish.ios_id or wish.team or wish.unify}
    beside = next((name for name, said in given.items() if said and name not in (wish.platforms or given)), "")
    if beside:
        name = PLATFORM_NAMES[beside]
        raise InputError(
            f"this asks for something of {name} alone, and --platform leaves {name} out",
            remedy=f"Add --platform {beside}, or leave that option away.",
        )
    if _asks_nothing(wish):
        raise InputError(
            "nothing to change was given", remedy="Say what: --id, --name, --version, --build … (see --help)."
        )
    return wish


def execute(options: argparse.Namespace) -> int:
    """Run the command."""
    locate(options)
    wish = _wish(options)
    services = service_files(options.id_from)
    if _asks_nothing(wish) and not services and sys.stdin.isatty() and sys.stderr.isatty() and not options.json:
        survey = take_survey(open_to_write(options), wish.app)
        return carry_out(options, survey, _required(asked(survey, wish)))
    wish = wish if services else _required(wish)
    tree = open_to_write(options)
    with working(options, "Looking through the project"):
        survey = take_survey(tree, wish.app)
    return carry_out(options, survey, _required(_with_ids(survey, wish, services)), services)


def _with_ids(survey: Survey, wish: Wish, services: Files) -> Wish:
    """Return the wish with the IDs that service files know. Raises InputError where another is asked for."""
    if not services:
        return wish
    from onomaxis.brands.service_ids import ids_of

    flavor = named_flavor(survey.tree, wish.flavor)
    said = {"android": wish.android_id, "ios": wish.ios_id}
    for platform, id_ in ids_of(survey.projects, services, flavor, wish.app).items():
        if said[platform] not in ("", id_):
            asked = f"{said[platform]} is asked for, and the service file knows {id_}"
            raise InputError(asked, remedy="Leave one of them away.")
        said[platform] = id_
    return wish._replace(android_id=said["android"], ios_id=said["ios"])


def carry_out(options: argparse.Namespace, survey: Survey, wish: Wish, services: Files = ()) -> int:
    """Plan *wish*, show it, ask, write it, and say what is left; *services* are put in their places."""
    wish = wish._replace(flavor=named_flavor(survey.tree, wish.flavor))
    say_selected(options, survey.projects, wish.flavor)
    with working(options, "Planning, and reading the result again"):
        plan = replace(_followed(survey, plan_rename(survey, wish)), title=_title(wish))
        if services:
            from onomaxis.brands.service_ids import with_services

            plan = with_services(survey, plan, services, wish.flavor, wish.app)
    return carry_through(options, survey.tree, plan, VIEW)


def _followed(survey: Survey, plan: Plan) -> Plan:
    """Bring the identity file along, where there is one."""
    if not survey.tree.exists(NAME):
        return plan
    from onomaxis.brands.identity_after_rename import with_identity

    return with_identity(survey, plan)


def _title(wish: Wish) -> str:
    parts = [
        f"{label} {value}"
        for label, value in (
            ("ID", wish.both_id),
            ("Android ID", "" if wish.both_id else wish.android_id),
            ("iOS ID", "" if wish.both_id else wish.ios_id),
            ("code package", wish.code_package),
            ("name", wish.name),
            ("version", wish.version),
            ("build", wish.build),
            ("technical name", wish.project_name),
            ("team", wish.team),
            ("one place for each version", "set" if wish.unify else ""),
            ("flavor", wish.flavor),
        )
        if value
    ]
    parts += [f"name ({locale}) {text}" for locale, text in wish.names]
    return f"rename: {', '.join(parts)}"


def as_document(plan: Plan, journal: str) -> dict[str, Any]:
    """Return the outcome as the JSON document that docs/json.md describes."""
    return {
        "edits": plan.edits,
        "files": [change.target or change.source for change in plan.changes if change.edited and change.source],
        "moves": [{"from": change.source, "to": change.target} for change in plan.changes if change.moved],
        "created": [change.target for change in plan.changes if change.source is None],
        "removed": [change.source for change in plan.changes if change.target is None],
        "notes": [str(note) for note in plan.notes],
        "residue": residue_document(plan),
        "journal": journal,
    }


def show_plan(console: SafeConsole, plan: Plan) -> None:
    """Print what a plan does: in words, then by file."""
    edited = [change for change in plan.changes if change.edited and change.source and change.target]
    moved = [change for change in plan.changes if change.moved]
    created = [change for change in plan.changes if change.source is None]
    parts = [f"{count(plan.edits, 'place')} in {count(len(edited), 'file')}"] if edited else []
    parts += [f"{count(len(moved), 'file')} to move"] if moved else []
    parts += [f"{count(len(created), 'new file')}"] if created else []
    put(console, Cell(f"To change: {', '.join(parts)}", "bold"))
    show_summary(console, plan)
    if plan.restored:
        said = f"This is the way back behind change {plan.restored}: the bytes of that time are put back."
        put(console, Cell(said), indent=2)
    show_notes(console, plan)
    if len(plan.changes) > _SHOWN_FILES and not console.every:
        section(console, "Files, by folder (--all lists each)", _folders(plan.changes), _SHOWN_FOLDERS)
    else:
        section(console, "Files", [(change.source or "new", _destination(change)) for change in plan.changes])


def _folders(changes: Sequence[FileChange]) -> list[tuple[str, str]]:
    """Return the folders of a large change with the number of files in each, and where they go."""
    found: dict[tuple[str, str], int] = {}
    for change in changes:
        old, new = parent(change.source or ""), parent(change.target or "")
        key = (old if change.source else new, new if change.source and change.target and new != old else "")
        found[key] = found.get(key, 0) + 1
    rows = []
    for (folder, goes), number in sorted(found.items()):
        target = f" → {goes}" if goes else ""
        rows.append((folder or "(the project's own folder)", f"{count(number, 'file')}{target}"))
    return rows


def _destination(change: FileChange) -> str:
    """Return where a file goes, without the folders that it keeps."""
    if change.source is None:
        return f"→ {change.target}"
    if not change.moved or change.target is None:
        return ""
    old, new = change.source.split("/"), change.target.split("/")
    shared = next((i for i, (a, b) in enumerate(zip(old, new, strict=False)) if a != b), 0)
    return f"→ …/{'/'.join(new[max(shared - 1, 0) :])}"


def _done(plan: Plan) -> str:
    moved = sum(change.moved for change in plan.changes)
    edited = sum(bool(change.edited and change.source and change.target) for change in plan.changes)
    extra = f", {count(moved, 'file')} moved" if moved else ""
    return f"{count(plan.edits, 'place')} in {count(edited, 'file')}{extra}"


def _left(console: SafeConsole, plan: Plan) -> None:
    if plan.residue:
        show_residue(console, plan, "the old identity")
        return
    blank(console)
    put(console, Cell("No mention of the old identity is left."))


VIEW = View[Plan](as_document, show_plan, show_notes, _left, _done)
