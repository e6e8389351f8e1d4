"""Art by home: what every kind of art gives in every kind of home, as the table of docs/icons.md.

``python benchmarks/icon_table.py [--write]`` draws each art into each home (some four hundred runs, several minutes),
and checks each: the second run changes nothing, undo is exact, ``check`` finds no error that was not there.
"""

from __future__ import annotations

import re
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "tests"))

from conftest import files, onomaxis, snapshot  # noqa: E402
from icon_arts import ARTS  # noqa: E402
from icon_homes import HOMES  # noqa: E402

# What is said of art, in a letter each.
SAID = {
    "rounded-corners": "r",
    "ground-chosen": "g",
    "masked": "m",
    "no-monochrome": "n",
    "flat-monochrome": "f",
    "low-resolution": "l",
    "not-square": "p",
    "text-in-art": "t",
    "raster-layer": "v",
    "first-frame": "a",
    "not-drawn": "k",
}


def errors(root: Path) -> set[tuple[str, str]]:
    """Return the errors about icons that ``check`` finds."""
    found = onomaxis("check", root, "--only", "icons", "--json").json["findings"]
    return {(item["code"], item["message"]) for item in found if item["severity"] == "error"}


def cell(root: Path, art: Path) -> str:
    """Draw one art into one home; return what came of it."""
    before, known = snapshot(root), errors(root)
    done = onomaxis("icons", root, "--art", art, "--allow-dirty", "--json")
    if done.code:
        return f"refused ({done.code})"
    said = "".join(sorted({SAID[item["code"]] for item in done.json["warnings"] if item["code"] in SAID}))
    again = onomaxis("icons", root, "--art", art, "--allow-dirty", "--json").json
    faults = []
    if again["created"] or again["changed"] or again["removed"]:
        faults.append("not stable")
    if errors(root) - known:
        faults.append(f"check: {sorted(errors(root) - known)}")
    if onomaxis("undo", root, "--allow-dirty").code or snapshot(root) != before:
        faults.append("undo")
    return f"**{', '.join(faults)}**" if faults else f"{len(done.json['images'])} {said}".strip()


def main() -> None:
    """Print the table, and put it into docs/icons.md when asked."""
    with tempfile.TemporaryDirectory() as folder:
        arts = files(Path(folder) / "art", dict(ARTS))
        roots = {
            name: files(Path(folder) / "homes" / str(at), dict(tree)) for at, (name, tree) in enumerate(HOMES.items())
        }
        lines = ["| | " + " | ".join(roots) + " |", "|---|" + "---|" * len(roots)]
        for name in ARTS:
            lines.append(f"| {name} | " + " | ".join(cell(root, arts / name) for root in roots.values()) + " |")
            print(lines[-1], flush=True)
    table = "\n".join(lines)
    if "--write" in sys.argv:
        page = ROOT / "docs" / "icons.md"
        text = re.sub(r"(?s)(<!-- table -->\n).*?(\n<!-- end -->)", lambda m: m[1] + table + m[2], page.read_text())
        page.write_text(text)


if __name__ == "__main__":
    main()
