"""Drafts put together: two that make the same new file make one file with what both put into it."""

from __future__ import annotations

from onomaxis.projects.project import Draft

_CLOSING = b"</resources>"


def join_created(draft: Draft, other: Draft) -> None:
    """Take the new files of *other* into *draft*; a resource file that both make gets the entries of both.

    Other files that differ are refused: one of them would be lost.
    """
    known = dict(draft.created)
    for path, data in other.created:
        if path not in known:
            draft.created.append((path, data))
        elif known[path] != data:
            if _CLOSING not in data or _CLOSING not in known[path]:
                draft.refusals.append(f"{path}: two changes make this new file: create it by hand first")
                continue
            body = data[data.index(b"<resources>") + len(b"<resources>") : data.index(_CLOSING)].strip(b"\r\n")
            newline = b"\r\n" if b"\r\n" in data else b"\n"
            head, tail = known[path].split(_CLOSING)
            joined = head + (body + newline if body not in head else b"") + _CLOSING + tail
            draft.created[[name for name, _ in draft.created].index(path)] = (path, joined)
