"""Build phases of ours: a script that copies what a configuration names into the app, in place of a resource of all.

Source: Apple, "Running custom scripts during a build" (input and output files) and "Build settings reference"
(``UNLOCALIZED_RESOURCES_FOLDER_PATH``): what is declared so is copied when it changes, and before signing.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

from onomaxis.formats.escapes import encode
from onomaxis.formats.openstep import Array, Dict
from onomaxis.model import Edit
from onomaxis.projects.edits import span_edit
from onomaxis.projects.ios.insertion import Insertion, items_out, line_span, object_entries
from onomaxis.projects.ios.project_file import Target, XcodeProject


class CopyPhase(NamedTuple):
    """A phase that copies: what it is called, from where, to where, by which script."""

    name: str
    inputs: Sequence[str]
    outputs: Sequence[str]
    script: str

    def added(self, project: XcodeProject, target: Target, facet: str) -> list[Edit]:
        """Return what puts the phase behind a target's others; nothing where these cannot be determined."""
        listed = target.node.get("buildPhases")
        if not isinstance(listed, Array):
            return []
        insertion = Insertion(project, facet, facet)
        key = insertion.identifier("phase", target.name)
        lines = [
            f"{key} /* {self.name} */ = {{",
            "\tisa = PBXShellScriptBuildPhase;",
            "\tbuildActionMask = 2147483647;",
            "\tfiles = (",
            "\t);",
            "\tinputPaths = (",
            *(f"\t\t{encode('openstep', path)}," for path in self.inputs),
            "\t);",
            f'\tname = "{self.name}";',
            "\toutputPaths = (",
            *(f"\t\t{encode('openstep', path)}," for path in self.outputs),
            "\t);",
            "\trunOnlyForDeploymentPostprocessing = 0;",
            "\tshellPath = /bin/sh;",
            f"\tshellScript = {encode('openstep', self.script)};",
            "};",
        ]
        insertion.add_lines("PBXShellScriptBuildPhase", lines, "PBXResourcesBuildPhase")
        insertion.append(listed, [f"{key} /* {self.name} */"])
        return insertion.edits


def phase_of(project: XcodeProject, target: Target, told: str) -> Dict | None:
    """Return the phase of a target that has an input with a text in it: ours is known by the setting that it asks."""
    phases = (project.object(key) for key in target.node.texts("buildPhases"))
    return next((item for item in phases if any(told in path for path in item.texts("inputPaths"))), None)


def out_of_resources(
    project: XcodeProject, target: Target, meant: Callable[[str], bool], facet: str
) -> Iterator[Edit]:
    """Yield what takes references out of the resources that a target copies; they stay in their groups."""
    entries, source = object_entries(project), project.document.source
    for phase in map(project.object, target.node.texts("buildPhases")):
        if phase.text("isa") == "PBXResourcesBuildPhase":
            keys = (key for key in phase.texts("files") if key in entries)
            mine = {key for key in keys if meant(project.object(key).text("fileRef"))}
            spans = [*items_out(source, phase.get("files"), mine)]
            spans += [line_span(source, entries[key].key.start, entries[key].end) for key in sorted(mine)]
            yield from (span_edit(project.path, source, *span, b"", facet) for span in dict.fromkeys(spans))
