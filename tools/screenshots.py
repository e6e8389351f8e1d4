"""Take the pictures in docs/screenshots: each main command's output on the demo project, in a terminal window.

Run: python tools/screenshots.py (needs Debian's xvfb, xterm, imagemagick and fonts-dejavu-core)
"""

from __future__ import annotations

import os
import shlex
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from PIL import Image

from onomaxis.demo import copy_demo

ROOT = Path(__file__).parent.parent
TARGET = ROOT / "docs" / "screenshots"
DISPLAY = ":87"
SIZE = "1280x800"
ADD = "onomaxis flavor add oakhollow --shown 'Oak Hollow' --art art/ladder.svg"
RENAME = "rename --id org.lendspan.toolshed --name 'Tool Shed' --version 2.5.0 --build 42"
# Pictures that show the white-label half of the demo.
BRANDS = ("check", "stamp", "flavor-list", "fingerprint")
# name of the picture, what is run before it unseen, what is shown
SHOTS = [
    ("survey", "true", "onomaxis survey"),
    ("rename-dry-run", "true", "onomaxis rename --name 'Tool Shed' --build 42 --dry-run"),
    ("rename", "true", f"onomaxis {RENAME} --yes"),
    ("refused", "echo '// mine' >> android/app/build.gradle.kts", f"onomaxis {RENAME}"),
    ("undo", f"onomaxis {RENAME} --yes --quiet", "onomaxis undo --yes; onomaxis history"),
    ("icons", "true", "onomaxis icons --foreground art/ladder-foreground.svg --background '#7A3E2B' --yes"),
    ("technical", "true", "onomaxis rename --project-name Alderbank --yes 2>&1 | tail -n 54"),
    ("renumber", "true", "onomaxis renumber --version minor --build +1 --yes"),
    ("kinds", "true", "onomaxis survey counter; onomaxis rename --id org.lendspan.desk"),
    ("check", "true", "onomaxis check --only names --only versions --only services --only values"),
    ("adopt", "true", "onomaxis adopt --yes; cat onomaxis.toml"),
    ("stamp", "true", "onomaxis stamp --yes"),
    ("flavor-list", "true", "onomaxis flavor list; onomaxis flavor list counter; onomaxis ledger list"),
    ("flavor-add", "true", f"{ADD} --yes 2>&1 | tail -n 50"),
    ("fingerprint", "true", "P=lendspan onomaxis fingerprint keys/release.p12 --password-env P"),
    ("demo", "true", "onomaxis demo 2>&1 | tail -n 55"),
]


# How long a command may take, in seconds, before its picture is given up: half a picture is none.
PATIENCE = 300


def shoot(name: str, before: str, shown: str, demo: Path) -> None:
    """Run one command in a terminal on the virtual screen and store what is seen."""
    bin_folder = Path(sys.executable).parent
    script = demo.parent / "show.sh"
    lines = [
        f"export PATH={shlex.quote(str(bin_folder))}:$PATH COLORTERM=truecolor PS1=",
        f"cd {shlex.quote(str(demo))}",
        f"( {before} ) >/dev/null 2>&1",
        f"printf '\\033[1m$ %s\\033[0m\\n' {shlex.quote(shown)}",
        shown,
        f"touch {shlex.quote(str(demo.parent / 'done'))}",
        f"sleep {PATIENCE}",
    ]
    script.write_text("\n".join(lines))
    (demo.parent / "done").unlink(missing_ok=True)
    terminal = subprocess.Popen(
        [
            "xterm",
            "-geometry",
            "210x66+0+0",
            "-b",
            "8",
            "-fa",
            "DejaVu Sans Mono",
            "-fs",
            "7",
            "-bg",
            "#1c211f",
            "-fg",
            "#e8e4d8",
            "+sb",
            "-e",
            "bash",
            "--norc",
            str(script),
        ],
        env={**os.environ, "DISPLAY": DISPLAY},
    )
    end = time.monotonic() + PATIENCE
    while not (demo.parent / "done").exists():
        if time.monotonic() > end:
            terminal.kill()
            raise SystemExit(f"{name}: not done after {PATIENCE} seconds; no picture was taken")
        time.sleep(0.1)
    time.sleep(1)
    subprocess.run(["import", "-display", DISPLAY, "-window", "root", str(TARGET / f"{name}.png")], check=True)
    terminal.terminate()
    terminal.wait()


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
        shutil.copy(made["masks"], TARGET / "proof.png")
        page = Image.new("RGB", (1280, 800), (120, 126, 122))
        for number, sheet in enumerate(("switcher", "settings", "store", "masks")):
            with Image.open(made[sheet]) as whole:
                page.paste(whole.resize((636, 397), Image.Resampling.LANCZOS), (number % 2 * 644, number // 2 * 403))
        page.save(TARGET / "proof-sheets.png")


def main() -> None:
    """Take all pictures, or those named on the command line."""
    wanted = sys.argv[1:]
    for tool in ("Xvfb", "xterm", "import"):
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
                git = ["git", "-c", "user.name=demo", "-c", "user.email=demo@invalid", "-C", str(demo)]
                for words in (["init", "-q"], ["add", "-A"], ["commit", "-qm", "demo"]):
                    subprocess.run([*git, *words], check=True)
                shoot(name, before, shown, demo)
        if not wanted or "proof" in wanted:
            take_proof()
    finally:
        screen.terminate()
        screen.wait()


if __name__ == "__main__":
    main()
