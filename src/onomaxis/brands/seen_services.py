"""Service files and link hosts as an identity file would say them: what each flavor of a build has today."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from onomaxis.brands.adopt import bare, quoted
from onomaxis.brands.proposing import by_dimension
from onomaxis.brands.services import lies_with, module_folder
from onomaxis.brands.subjects import Subject
from onomaxis.flavor_names import usual_name
from onomaxis.projects.project import flavors_together
from onomaxis.projects.services import GOOGLE_ANDROID, GOOGLE_IOS, service_files
from onomaxis.surveys.survey import kind_of
from onomaxis.tree import Tree, join


def service_tables(tree: Tree, subjects: Sequence[Subject]) -> str:
    """Return the tables of an identity file that name the service files and hosts of the app and its flavors."""
    known = flavors_together([subject.project for subject in subjects])
    lines: dict[str, list[str]] = {}
    for subject in subjects:
        for flavor, path in _files(tree, subject):
            name = usual_name(flavor, known)
            lines.setdefault(name, []).append(f"google-{subject.platform} = {quoted(path)}")
    told = [{usual_name(name, known): text for name, text in _hosts(tree, subject)} for subject in subjects]
    hosts = {name: text for found in reversed(told) for name, text in found.items()}
    alike = all(found.get(name, text) == text for found in told for name, text in hosts.items())
    general = hosts.pop("", "")
    said = by_dimension(hosts, general, known)
    for flavor, text in {"": general, **said}.items() if alike else ():
        if text:
            items = ", ".join(quoted(host) for host in text.split())
            lines.setdefault(flavor, []).append(f"hosts = [{items}]")
    ordered = sorted(lines.items(), key=lambda item: bool(item[0]))  # the app itself first
    found = [(f"flavors.{bare(flavor)}" if flavor else "app", own) for flavor, own in ordered]
    return "".join(f"\n[{table}.services]\n" + "\n".join(own) + "\n" for table, own in found)


def _files(tree: Tree, subject: Subject) -> Iterator[tuple[str, str]]:
    """Yield the service file of the app itself, and of each flavor and combination that has one by its place."""
    apple = subject.platform == "ios"
    files = service_files(tree, GOOGLE_IOS if apple else GOOGLE_ANDROID, subject.project.folder)
    names = [*([""] if subject.stands_alone else []), *subject.flavors, *subject.made]
    for flavor in names:
        id_ = subject.value(flavor, "id")
        knowing = [file for file in files if id_ is not None and not file.fault and file.knows(id_.text)]
        if apple:
            mine = [file for file in knowing if not flavor or lies_with(subject, file.path, flavor)]
        else:
            folder = join(module_folder(subject), f"src/{flavor}" if flavor else "")
            mine = [file for file in knowing if file.path == join(folder, GOOGLE_ANDROID)]
        if len(mine) == 1:
            yield flavor, mine[0].path


def _hosts(tree: Tree, subject: Subject) -> Iterator[tuple[str, str]]:
    """Yield what hosts open the app itself, and each flavor."""
    for flavor in [*([""] if subject.stands_alone else []), *subject.flavors]:
        facts = kind_of(subject.project).facts(subject.project, tree, subject.branch(flavor))
        named = dict.fromkeys(fact.text for fact in facts.hosts if "." in fact.text and "*" not in fact.text)
        if "$" not in "".join(named):
            yield flavor, " ".join(named)
