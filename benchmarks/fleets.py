"""What a fleet costs whose brands stand in one file, in files of their own, or in a table: times, memory, growth.

Run: python benchmarks/fleets.py [BRANDS ...] (default 50 500)
The project is one template for two platforms: a brand is what a stamp makes of it, in a copy beside it.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

# An installed program finds its modules compiled.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)

PROGRAM = [sys.executable, "-m", "onomaxis"]
GIT = ["git", "-c", "user.name=bench", "-c", "user.email=bench@invalid"]
SCRIPTS = 400
SHARED = (
    'format = 1\n\n[app]\nid = "org.lendspan.app"\nname = "Lendspan"\n\n[values.server]\nvalue = "https://lendspan.org"\n'
    'places = [{ resource = "string/server" }, { plist = "LendspanServer" }]\n'
)
PLIST = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<plist version="1.0">\n<dict>\n'
    "\t<key>CFBundleDisplayName</key>\n\t<string>Lendspan</string>\n\t<key>CFBundleIdentifier</key>\n"
    "\t<string>$(PRODUCT_BUNDLE_IDENTIFIER)</string>\n\t<key>LendspanServer</key>\n"
    "\t<string>https://lendspan.org</string>\n</dict>\n</plist>\n"
)
PROJECT = """// !$*UTF8*$!
{
\tobjects = {
\t\tA0 = { isa = XCBuildConfiguration; buildSettings = { SDKROOT = iphoneos; }; name = Release; };
\t\tA1 = {
\t\t\tisa = XCBuildConfiguration;
\t\t\tbuildSettings = {
\t\t\t\tCURRENT_PROJECT_VERSION = 7;
\t\t\t\tINFOPLIST_FILE = App/Info.plist;
\t\t\t\tMARKETING_VERSION = 1.2;
\t\t\t\tPRODUCT_BUNDLE_IDENTIFIER = org.lendspan.app;
\t\t\t};
\t\t\tname = Release;
\t\t};
\t\tL0 = { isa = XCConfigurationList; buildConfigurations = (A0); };
\t\tL1 = { isa = XCConfigurationList; buildConfigurations = (A1); };
\t\tT1 = {
\t\t\tisa = PBXNativeTarget;
\t\t\tbuildConfigurationList = L1;
\t\t\tname = App;
\t\t\tproductType = "com.apple.product-type.application";
\t\t};
\t\tG0 = { isa = PBXGroup; children = (); };
\t\tP0 = { isa = PBXProject; buildConfigurationList = L0; mainGroup = G0; targets = (T1); };
\t};
\trootObject = P0;
}
"""


class Spent(NamedTuple):
    """What a command took: seconds of wall time, peak memory of its largest process in MB."""

    seconds: float
    megabytes: float


def brand(number: int) -> tuple[str, str, str, str]:
    """Return a brand's name, ID, display name and server."""
    town = f"town{number:03d}"
    return town, f"org.lendspan.{town}", f"Lendspan Town {number}", f"https://{town}.lendspan.org"


def in_one_file(root: Path, count: int) -> None:
    """Write all brands into the identity file."""
    told = [
        f'\n[flavors.{town}]\nid = "{own}"\nname = "{name}"\nvalues = {{ server = "{server}" }}\n'
        for town, own, name, server in map(brand, range(count))
    ]
    (root / "onomaxis.toml").write_text(SHARED + "".join(told))


def in_files(root: Path, count: int) -> None:
    """Write each brand into a file of its own."""
    (root / "onomaxis.toml").write_text(SHARED.replace("format = 1\n", 'format = 1\ninclude = ["brands/*.toml"]\n'))
    (root / "brands").mkdir()
    for town, own, name, server in map(brand, range(count)):
        text = f'[flavors.{town}]\nid = "{own}"\nname = "{name}"\nvalues = {{ server = "{server}" }}\n'
        (root / f"brands/{town}.toml").write_text(text)


def in_a_table(root: Path, count: int) -> None:
    """Write the brands as lines of a table."""
    (root / "onomaxis.toml").write_text(SHARED.replace("format = 1\n", 'format = 1\nbrands = "brands.csv"\n'))
    lines = ["flavor,id,name,values.server", *(",".join(brand(number)) for number in range(count))]
    (root / "brands.csv").write_text("\n".join(lines) + "\n")


def make(root: Path, count: int, form: Callable[[Path, int], None]) -> None:
    """Write the template with its brands in one of the forms, and commit it."""
    texts = {
        "settings.gradle.kts": 'include(":app")\n',
        "app/build.gradle.kts": 'plugins { id("com.android.application") }\n\nandroid {\n'
        '    namespace = "org.lendspan.app"\n    defaultConfig {\n        applicationId = "org.lendspan.app"\n'
        '        versionCode = 7\n        versionName = "1.2"\n    }\n}\n',
        "app/src/main/AndroidManifest.xml": '<manifest xmlns:android="http://schemas.android.com/apk/res/android">\n'
        '    <application android:label="@string/app_name"/>\n</manifest>\n',
        "app/src/main/res/values/strings.xml": '<resources>\n    <string name="app_name">Lendspan</string>\n'
        '    <string name="server">https://lendspan.org</string>\n</resources>\n',
        "ios/App.xcodeproj/project.pbxproj": PROJECT,
        "ios/App/Info.plist": PLIST,
        **{
            f"app/src/main/java/org/lendspan/app/Tool{at}.kt": "package org.lendspan.app\n\n" + "class Tool\n" * 40
            for at in range(SCRIPTS)
        },
    }
    for path, text in texts.items():
        (root / path).parent.mkdir(parents=True, exist_ok=True)
        (root / path).write_text(text)
    form(root, count)
    for words in (["init", "-q"], ["add", "-A"], ["commit", "-qm", "bench"]):
        subprocess.run([*GIT, "-C", str(root), *words], check=True)


def spent(*words: str) -> Spent:
    """Run the program once; return what it took."""
    start = time.perf_counter()
    process = subprocess.Popen([*PROGRAM, *words], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
    assert process.stderr is not None
    said = process.stderr.read()
    _, status, usage = os.wait4(process.pid, 0)
    process.returncode = os.waitstatus_to_exitcode(status)
    if process.returncode not in (0, 1):
        sys.exit(f"{' '.join(words)}: {said.decode()}")
    return Spent(time.perf_counter() - start, usage.ru_maxrss / 1024)


def measured(root: Path, work: Path, count: int) -> dict[str, Spent]:
    """Return what each question to a fleet takes."""
    place = str(root)
    every = [word for number in range(count) for word in ("--flavor", brand(number)[0])]
    return {
        "survey": spent("survey", place, "--json"),
        "check": spent("check", place, "--json"),
        "matrix": spent("flavor", "list", place, "--as", "matrix"),
        "report": spent("report", place, "--out", str(work / "report.html")),
        "copies": spent("stamp", place, *every, "--into", str(work / "copies"), "--json"),
        "copies again": spent("stamp", place, *every, "--into", str(work / "copies"), "--json"),
    }


def main() -> None:
    """Print a line for each form and number of brands, then how each question grows."""
    counts = [int(word) for word in sys.argv[1:]] or [50, 500]
    print(f"{'':>26}" + "".join(f"{name:>18}" for name in ("survey", "check", "matrix", "report", "copies", "again")))
    for label, form in (("one file", in_one_file), ("files of their own", in_files), ("a table", in_a_table)):
        found = []
        for count in counts:
            with tempfile.TemporaryDirectory(prefix="onomaxis-fleet-") as folder:
                make(Path(folder) / "x", count, form)
                found.append(measured(Path(folder) / "x", Path(folder), count))
                shutil.rmtree(Path(folder) / "x")
            told = "".join(f"{item.seconds:>8.2f} s {item.megabytes:>5.0f} MB" for item in found[-1].values())
            print(f"{label:>20} {count:>5}" + told, flush=True)
        grown = "".join(f"{found[-1][name].seconds / found[0][name].seconds:>15.1f} ×  " for name in found[0])
        print(f"{'grown':>20} {counts[-1] / counts[0]:>4.0f}×" + grown)


if __name__ == "__main__":
    main()
