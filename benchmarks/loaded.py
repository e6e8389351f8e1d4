"""What each command loads: its own modules, and which of the large packages; nothing is timed.

Run: python benchmarks/loaded.py [--write], which writes the table of docs/performance.md
"""

from __future__ import annotations

import re
import subprocess
import sys
import tempfile
from pathlib import Path

from onomaxis.demo import copy_demo, copy_packages

PAGE = Path(__file__).parent.parent / "docs" / "performance.md"
# What takes longer to load than a small project takes to read.
LARGE = ("rich", "yaml", "tomlkit", "regex", "pathspec", "jinja2", "cryptography", "PIL", "numpy", "resvg_py")
COMMANDS = (
    "--help",
    "survey",
    "survey --json",
    "check",
    "flavor list",
    "flavor show mossgate",
    "rename --app org.lendspan.counter --name Desk --dry-run",
    "renumber --app org.lendspan.counter --build +1 --dry-run",
    "stamp --dry-run",
    "stamp counter --dry-run",
    "adopt counter --again --dry-run",
    "flavor add oakhollow counter --name Oak --dry-run",
    "icons --app counter --art art/ladder.svg --dry-run",
    "report --out {out}",
    "inspect packages/alderbank-41.aab",
    "rehearse packages/alderbank-41.aab --state {out}",
    "ledger list",
    "history",
)
_CODE = (
    "import sys\nfrom onomaxis.cli.main import main\ntry:\n    main(sys.argv[2:])\nexcept SystemExit:\n    pass\n"
    "names = {name.split('.')[0] for name in sys.modules}\nown = sum(name.startswith('onomaxis') for name in sys.modules)\n"
    "open(sys.argv[1], 'w').write(f'{own} {\" \".join(sorted(names))}')\n"
)


def loaded(line: str, root: Path, folder: Path) -> tuple[int, list[str]]:
    """Return how many modules of its own a command loads, and the large packages, in the order of ``LARGE``."""
    said = folder / "loaded"
    words = line.replace("{out}", str(folder / "out")).split()
    subprocess.run([sys.executable, "-c", _CODE, str(said), *words], cwd=root, capture_output=True, check=True)
    own, *names = said.read_text("utf-8").split()
    return int(own), [name for name in LARGE if name in names]


def main() -> None:
    """Print the table, or write it."""
    with tempfile.TemporaryDirectory(prefix="onomaxis-loaded-") as name:
        folder = Path(name)
        root = folder / "demo"
        copy_demo(str(root), counter=True, brands=True)
        copy_packages(root)
        rows = ["| command | own modules | large packages |", "| --- | --- | --- |"]
        for line in COMMANDS:
            own, large = loaded(line, root, folder)
            rows.append(f"| `{line.replace(' {out}', ' …')}` | {own} | {', '.join(large) or 'none'} |")
    table = "\n".join(rows)
    if "--write" in sys.argv:
        text = PAGE.read_text("utf-8")
        PAGE.write_text(re.sub(r"(?s)(<!-- loaded -->\n).*?(<!-- end -->)", rf"\1\n{table}\n\n\2", text), "utf-8")
    print(table)


if __name__ == "__main__":
    main()
