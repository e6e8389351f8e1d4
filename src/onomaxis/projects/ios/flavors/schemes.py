"""Shared schemes of a flavor: made from the app's, told from others by the configurations they build."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping

from onomaxis import late
from onomaxis.formats.escapes import encode
from onomaxis.formats.source import Source
from onomaxis.projects.ios.flavors.shared import NewFlavor, recut
from onomaxis.projects.ios.project_file import Target, XcodeProject
from onomaxis.tree import Tree, parent

_CONFIGURATION = late.compile(r"buildConfiguration\s*=\s*\"([^\"]*)\"")


def model_schemes(tree: Tree, project: XcodeProject, app: Target, names: set[str]) -> list[str]:
    """Return the shared schemes of a target that a new flavor's are made from, its own name's first."""
    found = []
    for path in tree.files:
        if not path.endswith(".xcscheme") or not path.startswith(f"{project.folder}/" if project.folder else ""):
            continue
        data = tree.read(path) or b""
        used = set(_CONFIGURATION.findall(data.decode("utf-8", "replace")))
        if app.id.encode() in data and used and used <= names:
            label = path.rpartition("/")[2].removesuffix(".xcscheme")
            found.append((label not in (app.name, project.name), path))
    return [path for _, path in sorted(found)]


def flavor_schemes(
    tree: Tree,
    project: XcodeProject,
    app: Target,
    new: NewFlavor,
    named: str,
    respelled: Callable[[str, NewFlavor], str | None],
) -> dict[str, bytes]:
    """Return a new flavor's schemes by their paths: one for each of its model's, called *named* or as those."""
    models = model_schemes(tree, project, app, set(new.templates.values()))
    names = {old: fresh for fresh, old in new.templates.items()}
    if not models:
        path = f"{parent(project.path)}/xcshareddata/xcschemes/"
        name = named or scheme_name(tree, project, app.flavors(), app.name, new.flavor)
        return {f"{path}{name}.xcscheme": plain_scheme(project, app, names).encode()}
    made: dict[str, bytes] = {}
    for number, model in enumerate(models if new.model else models[:1]):
        label = model.rpartition("/")[2].removesuffix(".xcscheme")
        name = respelled(label, new) or f"{label}-{new.flavor}"
        if number == 0 and named:
            name = named
        elif number == 0 and not respelled(label, new) and len(models) == 1:
            name = scheme_name(tree, project, app.flavors(), label, new.flavor)
        made[f"{parent(model)}/{name}.xcscheme"] = with_configurations(tree.read(model) or b"", names)
    return made


def scheme_name(tree: Tree, project: XcodeProject, flavors: Iterable[str], label: str, flavor: str) -> str:
    """Return what a new flavor's scheme is called: as most of its siblings', else after the app's scheme *label*."""
    folder = f"{project.folder}/" if project.folder else ""
    paths = [path for path in tree.files if path.endswith(".xcscheme") and path.startswith(folder)]
    names = [path.rpartition("/")[2].removesuffix(".xcscheme") for path in paths]
    forms: Counter[tuple[str, bool]] = Counter()
    for name in names:
        known = max((item for item in flavors if item.casefold() in name.casefold()), key=len, default="")
        at = name.casefold().find(known.casefold()) if known else -1
        if at >= 0:
            rest = f"{name[:at]}{{}}{name[at + len(known) :]}"
            forms[rest, name[at : at + 1].isupper()] += 1
    for (form, big), _ in forms.most_common(1):
        return form.replace("{}", flavor[:1].upper() + flavor[1:] if big else flavor)
    return f"{label}-{flavor}"


def with_configurations(data: bytes, names: Mapping[str, str]) -> bytes:
    """Return a scheme's bytes with its configurations exchanged."""
    source = Source.read(data)
    cuts = [
        (match.start(1), match.end(1), encode("xml-double", names[match[1]]))
        for match in _CONFIGURATION.finditer(source.view)
        if match[1] in names
    ]
    return source.data[: source.mark] + source.raw(recut(source, 0, len(source.view), cuts))


def plain_scheme(project: XcodeProject, app: Target, names: Mapping[str, str]) -> str:
    """Write a scheme that builds, runs and archives a target."""
    debug = next((new for old, new in names.items() if "debug" in old.lower()), next(iter(names.values())))
    release = next((new for old, new in names.items() if "release" in old.lower()), debug)
    container = parent(project.path).rpartition("/")[2]
    reference = (
        "<BuildableReference\n"
        '               BuildableIdentifier = "primary"\n'
        f'               BlueprintIdentifier = "{app.id}"\n'
        f'               BuildableName = "{encode("xml-double", app.product or app.name)}.app"\n'
        f'               BlueprintName = "{encode("xml-double", app.name)}"\n'
        f'               ReferencedContainer = "container:{encode("xml-double", container)}">\n'
        "            </BuildableReference>"
    )
    debug, release = encode("xml-double", debug), encode("xml-double", release)
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n<Scheme\n   version = "1.7">\n   <BuildAction>\n'
        '      <BuildActionEntries>\n         <BuildActionEntry\n            buildForRunning = "YES"\n'
        f'            buildForArchiving = "YES">\n            {reference}\n         </BuildActionEntry>\n'
        "      </BuildActionEntries>\n   </BuildAction>\n"
        f'   <LaunchAction\n      buildConfiguration = "{debug}">\n      <BuildableProductRunnable>\n'
        f"            {reference}\n      </BuildableProductRunnable>\n   </LaunchAction>\n"
        f'   <ArchiveAction\n      buildConfiguration = "{release}">\n   </ArchiveAction>\n</Scheme>\n'
    )


def schemes_of(tree: Tree, project: XcodeProject, names: set[str]) -> Iterator[str]:
    """Yield the schemes that build nothing but the removed configurations."""
    for path in tree.files:
        if path.endswith(".xcscheme") and path.startswith(f"{project.folder}/" if project.folder else ""):
            used = set(_CONFIGURATION.findall((tree.read(path) or b"").decode("utf-8", "replace")))
            if used and used <= names:
                yield path
