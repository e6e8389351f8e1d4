"""What all apps of a tree are called, as one comparable text: it tells whether two trees ship the same."""

from __future__ import annotations

import json
from collections.abc import Iterable

from onomaxis.projects.project import Project


def identity_of(projects: Iterable[Project]) -> str:
    """Return every app's ID, names, version, build number and code packages as one text."""
    rows: list[object] = []
    for project in projects:
        for app in project.apps:
            values = [value.text if value else None for value in (app.id, app.name, app.version, app.build)]
            names = [[locale, value.text] for locale, value in app.names]
            launchers = [[item.component, item.label.text] for item in app.launchers]
            rows.append([project.kind, app.module, app.flavor, *values, names, *([launchers] if launchers else [])])
        rows.append([project.kind, "identifiers", sorted([str(i.facet), i.value] for i in project.identifiers)])
    return json.dumps(rows, ensure_ascii=False)
