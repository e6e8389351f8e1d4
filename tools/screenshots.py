"""Take the pictures in docs/screenshots: each main command's output on the demo project, in a terminal window.

Run: python tools/screenshots.py (needs Debian's xvfb, xterm, imagemagick, bsdutils, chromium, fonts-dejavu-core)
"""

from __future__ import annotations

import itertools
import os
import re
import shlex
import shutil
import subprocess
import sys
import tempfile
import textwrap
import time
from pathlib import Path

from PIL import Image

from onomaxis.demo import copy_demo, copy_lockers, copy_packages

ROOT = Path(__file__).parent.parent
TARGET = ROOT / "docs" / "screenshots"
DISPLAY = ":87"
SIZE = "1280x800"
COLUMNS, ROWS = 80, 53
# Lines that one window holds, and where the second one stands.
SHOWN, BESIDE = 52, 584
ADD = "onomaxis flavor add oakhollow --name 'Oak Hollow' --art art/ladder.svg"
RENAME = "rename --id org.lendspan.toolshed --name 'Tool Shed' --version 2.5.0 --build 42"
# Pictures that show the white-label half of the demo.
BRANDS = ("check", "stamp", "flavor-list", "fingerprint", "inspect", "rehearse", "since")
# name of the picture, what is run before it unseen, what is shown
SHOTS = [
    ("survey", "true", "onomaxis survey; onomaxis"),
    ("rename-dry-run", "true", "onomaxis rename --name 'Tool Shed' --build 42 --dry-run"),
    ("rename", "true", f"onomaxis {RENAME} --yes"),
    (
        "undo",
        f"onomaxis {RENAME} --yes --quiet",
        "onomaxis undo --yes; onomaxis history; onomaxis renumber --version minor --build +1 --yes",
    ),
    ("icons", "true", "onomaxis icons --foreground art/ladder-foreground.svg --background '#7A3E2B' --yes"),
    ("kinds", "true", "onomaxis survey counter; onomaxis rename --id org.lendspan.desk"),
    (
        "check",
        "true",
        "onomaxis check --only services --only values --only versions --only icons; onomaxis check --explain VALUE01",
    ),
    ("adopt", "true", "onomaxis adopt --yes; cat onomaxis.toml"),
    ("stamp", "true", "onomaxis stamp --yes"),
    (
        "flavor-list",
        "true",
        "onomaxis flavor list; onomaxis ledger list; onomaxis survey ../lockers --flavor staging; "
        "onomaxis stamp ../lockers --yes",
    ),
    ("flavor-add", "true", f"{ADD} --yes; onomaxis flavor show oakhollow; onomaxis check --only flavors"),
    (
        "inspect",
        "onomaxis stamp --yes",
        "onomaxis inspect packages/alderbank-mixed.aab packages/alderbank-41.ipa --against .",
    ),
    (
        "rehearse",
        "onomaxis stamp --yes",
        "onomaxis rehearse packages/*.aab packages/*.ipa --state ../stores; "
        "onomaxis rehearse --show --state ../stores; onomaxis rename --id org.lendspan.shed --flavor alderbank "
        "--app org.lendspan.app --quiet --yes --allow-dirty",
    ),
    (
        "since",
        "onomaxis stamp --yes; git init -q; git add -A; git -c user.name=a -c user.email=a@b.invalid commit -qm x; "
        "onomaxis rename --app org.lendspan.app --flavor mossgate --name 'Moss Shed' --yes --allow-dirty",
        "onomaxis survey --since HEAD --guard name; onomaxis flavor show mossgate",
    ),
    ("fingerprint", "true", "P=lendspan onomaxis fingerprint keys/release.p12 --password-env P"),
    ("demo", "true", "onomaxis demo --color always 2>&1 | head -n 96"),
]


# How long a command may take, in seconds, before its picture is given up: half a picture is none.
PATIENCE = 300


def shoot(name: str, before: str, shown: str, demo: Path) -> None:
    """Run one command in a terminal of 80 columns, and store the picture of what it wrote: in one window, or two."""
    bin_folder = Path(sys.executable).parent
    words = [
        f"export PATH={shlex.quote(str(bin_folder))}:$PATH COLORTERM=truecolor TERM=xterm-256color PAGER=cat PS1=",
        f"cd {shlex.quote(str(demo))}",
        f"( {before} ) >/dev/null 2>&1",
        f"stty cols {COLUMNS} rows {ROWS}",
        *(f"printf '\\033[1m%s\\033[0m\\n' {shlex.quote(line)}" for line in _typed(shown)),
        shown,
    ]
    script, seen = demo.parent / "show.sh", demo.parent / "seen"
    script.write_text("\n".join(words))
    command = ["script", "-qec", f"bash --norc {shlex.quote(str(script))}", str(seen)]
    subprocess.run(command, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, timeout=PATIENCE, check=False)
    written = seen.read_bytes().decode("utf-8").split("\n")[1:-2]
    lines = [line.rstrip("\r").rpartition("\r")[2] for line in written]  # what progress wrote over is gone
    while lines and not lines[-1].strip():
        lines.pop()
    halves = _halves(lines)
    rows = max(sum(map(_rows, half)) for half in halves)
    windows = [_window(demo.parent, number, rows, "\n".join(half)) for number, half in enumerate(halves)]
    while not all((demo.parent / f"done{number}").exists() for number in range(len(halves))):
        time.sleep(0.1)
    time.sleep(1)
    picture = TARGET / f"{name}.png"
    subprocess.run(["import", "-display", DISPLAY, "-window", "root", str(picture)], check=True)
    with Image.open(picture) as whole:
        whole.crop(whole.convert("RGB").getbbox()).save(picture)  # the windows alone: nothing stands around them
    for window in windows:
        window.terminate()
        window.wait()


# ECMA-48, "Select graphic rendition".
_COLOUR = re.compile(r"\x1b\[[\d;?]*[a-zA-Z]")


def _rows(line: str) -> int:
    """Return how many rows of a window a line takes."""
    return max(1, -(-len(_COLOUR.sub("", line)) // COLUMNS))


def _halves(lines: list[str]) -> list[list[str]]:
    """Return what stands in the first window and the second; what does not fit both is left out by paragraphs."""
    ends = list(itertools.accumulate(map(_rows, lines)))
    if ends[-1] <= SHOWN:
        return [lines]
    fitting = sum(end <= 2 * SHOWN - 2 for end in ends)  # a line that wraps may not be parted at the middle
    if fitting < len(lines):
        fitting = next(
            (at for at in range(fitting, 0, -1) if ends[at - 1] > SHOWN and not lines[at].strip()), fitting
        )
    middle = sum(end <= (ends[fitting - 1] + 1) // 2 for end in ends)
    return [lines[:middle], lines[middle:fitting]]


def _typed(line: str) -> list[str]:
    """Return a command line as it is shown: broken between words."""
    first, *others = textwrap.wrap(line, COLUMNS - 4, break_on_hyphens=False)
    return [f"$ {first}", *(f"    {other}" for other in others)]


def _window(folder: Path, number: int, rows: int, text: str) -> subprocess.Popen[bytes]:
    """Show a text in a terminal window as high as it needs: the first stands left, the second right."""
    file = folder / f"text{number}"
    file.write_text(text)
    done = shlex.quote(str(folder / f"done{number}"))
    show = f"printf '\\033[?25l'; cat {shlex.quote(str(file))}; touch {done}; sleep {PATIENCE}"
    words = ["-geometry", f"{COLUMNS}x{rows}+{number * BESIDE}+0", "-b", "8", "-fa", "DejaVu Sans Mono", "-fs", "8.6"]
    colours = ["-bg", "#1c211f", "-fg", "#e8e4d8", "+sb"]
    return subprocess.Popen(
        ["xterm", *words, *colours, "-e", "bash", "--norc", "-c", show], env={**os.environ, "DISPLAY": DISPLAY}
    )


def take_report() -> None:
    """Open the report of the white-label demo in a browser, on a desk and on a phone beside it."""
    with tempfile.TemporaryDirectory() as folder:
        demo, page = Path(folder) / "Lendspan", Path(folder) / "report.html"
        copy_demo(str(demo), counter=False, brands=True)
        for line in (
            "init -q -b main .",
            "add -A",
            "-c user.name=you -c user.email=you@lendspan.invalid commit -qm first",
        ):
            subprocess.run(["git", *line.split()], cwd=demo, check=True)
        subprocess.run(
            [sys.executable, "-m", "onomaxis", "report", str(demo), "--out", str(page), "--quiet"], check=True
        )
        both = Path(folder) / "both.html"
        frame = '<iframe src="report.html" style="border:0;width:{}px;height:800px;float:left{}"></iframe>'
        framed = frame.format(880, "") + frame.format(390, ";margin-left:10px")
        both.write_text(f'<body style="margin:0;background:#888">{framed}')
        words = ["--headless", "--no-sandbox", "--hide-scrollbars", f"--window-size={SIZE.replace('x', ',')}"]
        picture = f"--screenshot={TARGET / 'report.png'}"
        subprocess.run(["chromium", *words, picture, both.as_uri()], check=True, stderr=subprocess.DEVNULL)


def take_proof() -> None:
    """Draw the proof of the demo with its icons drawn from layers: the command's own picture."""
    with tempfile.TemporaryDirectory() as folder:
        demo = Path(folder) / "Lendspan"
        shutil.copytree(ROOT / "src/onomaxis/demo/lendspan", demo)
        program = [sys.executable, "-m", "onomaxis"]
        art = ["--foreground", str(demo / "art/ladder-foreground.svg"), "--background", "#7A3E2B"]
        subprocess.run([*program, "icons", str(demo), *art, "--quiet", "--yes"], check=True)
        art = ["--foreground", str(demo / "art/{flavor}.svg"), "--background", "#F4ECD8", "--platform", "android"]
        flavors = [word for name in ("alderbank", "mossgate", "pennywick") for word in ("--flavor", name)]
        quiet = ["--quiet", "--yes", "--allow-dirty"]
        subprocess.run([*program, "icons", str(demo), *art, *flavors, *quiet], check=True)
        made = {}
        for sheet, look in (
            ("home", "light"),
            ("masks", "light"),
            ("switcher", "light"),
            ("settings", "dark"),
            ("store", "light"),
        ):
            out = Path(folder) / f"{sheet}.png"
            words = ["proof", str(demo), "--sheet", sheet, "--appearance", look, "--out", str(out)]
            subprocess.run([*program, *words], check=True, stdout=subprocess.DEVNULL)
            made[sheet] = out if out.exists() else Path(folder) / f"{sheet}-{sheet}.png"
        shutil.copy(made["home"], TARGET / "proof-home.png")
        page = Image.new("RGB", (1280, 800), (120, 126, 122))
        for number, sheet in enumerate(("switcher", "settings", "store", "masks")):
            with Image.open(made[sheet]) as whole:
                page.paste(whole.resize((636, 397), Image.Resampling.LANCZOS), (number % 2 * 644, number // 2 * 403))
        page.save(TARGET / "proof-sheets.png")


def main() -> None:
    """Take all pictures, or those named on the command line."""
    wanted = sys.argv[1:]
    for tool in ("Xvfb", "xterm", "import", "script", "chromium"):
        if not shutil.which(tool):
            sys.exit(f"{tool} is not installed")
    TARGET.mkdir(exist_ok=True)
    screen = subprocess.Popen(["Xvfb", DISPLAY, "-screen", "0", f"{SIZE}x24"], stderr=subprocess.DEVNULL)
    time.sleep(1)
    try:
        for name, before, shown in SHOTS:
            if wanted and name not in wanted:
                continue
            with tempfile.TemporaryDirectory() as folder:
                demo = Path(folder) / "lendspan"
                copy_demo(str(demo), counter=name == "kinds", brands=name in BRANDS)
                if name in BRANDS:
                    copy_packages(demo)
                    copy_lockers(demo.parent / "lockers")
                git = ["git", "-c", "user.name=demo", "-c", "user.email=demo@invalid", "-C", str(demo)]
                for words in (["init", "-q"], ["add", "-A"], ["commit", "-qm", "demo"]):
                    subprocess.run([*git, *words], check=True)
                shoot(name, before, shown, demo)
        if not wanted or "proof" in wanted:
            take_proof()
        if not wanted or "report" in wanted:
            take_report()
    finally:
        screen.terminate()
        screen.wait()


if __name__ == "__main__":
    main()
