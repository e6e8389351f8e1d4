"""Print the branch coverage of the last ``make coverage``: by room, and the weakest files.

Run: python tools/branches.py
"""

from __future__ import annotations

import io
import json
import tempfile
from collections import defaultdict
from pathlib import Path

import coverage

WEAKEST = 10


def main() -> None:
    """Print one line a room, then the weakest files."""
    measured = coverage.Coverage()
    measured.load()
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "coverage.json"
        measured.json_report(outfile=str(out), pretty_print=False)
        files = json.loads(out.read_text("utf-8"))["files"]
    rooms: dict[str, list[int]] = defaultdict(lambda: [0, 0])
    rows: list[tuple[float, str]] = []
    for path, data in files.items():
        summary = data["summary"]
        all_ = summary["num_statements"] + summary.get("num_branches", 0)
        hit = summary["covered_lines"] + summary.get("covered_branches", 0)
        inner = path.replace("\\", "/").partition("onomaxis/")[2]
        room = inner.partition("/")[0] if "/" in inner else "(top)"
        rooms[room][0] += hit
        rooms[room][1] += all_
        if all_ >= 10:
            rows.append((hit / all_, inner))
    text = io.StringIO()
    for room, (hit, all_) in sorted(rooms.items()):
        text.write(f"{room:12} {hit / max(all_, 1):7.1%}\n")
    text.write("\nweakest files\n")
    for share, path in sorted(rows)[:WEAKEST]:
        text.write(f"{path:48} {share:7.1%}\n")
    print(text.getvalue(), end="")


if __name__ == "__main__":
    main()
