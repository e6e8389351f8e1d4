"""What reading a package costs beside the platform tool's own dump of it, and residue beside the number of brands.

Run: python benchmarks/packages.py [STRINGS ...] (default 100 5000; needs Debian's aapt and android-framework-res)
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))
import packaged
import shop

# An installed program finds its modules compiled.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
PROGRAM = [sys.executable, "-m", "onomaxis"]
LANGUAGES = ("", "-de", "-fr", "-es", "-it", "-pl", "-cs", "-da", "-fi", "-sv")


def seconds(words: list[str], runs: int = 7) -> float:
    """Return the median time of a command."""
    found = []
    for _ in range(runs):
        begin = time.perf_counter()
        subprocess.run(words, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=False)
        found.append(time.perf_counter() - begin)
    return statistics.median(found)


def package(folder: Path, strings: int) -> Path:
    """Make an APK with so many strings in ten languages, and code of some megabytes."""
    resources = dict(shop.resources("alderbank"))
    for language in LANGUAGES:
        texts = {f"text_{number}": f"What hangs on hook {number}{language}" for number in range(strings)}
        resources[f"values{language}/texts.xml"] = packaged.strings(**texts)
    code = {f"classes{n}.dex": os.urandom(1 << 20) for n in range(2, 2 + strings // 500)}
    return packaged.make_apk(folder, shop.manifest("alderbank"), resources, entries={**shop.ENTRIES, **code})


def main() -> None:
    """Print the ratios."""
    print("strings  MB    aapt2 dump  inspect  start-up  (inspect - start-up) / dump   against a project")
    start = seconds([*PROGRAM, "--version"])
    for count in [int(word) for word in sys.argv[1:]] or [100, 5000]:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            apk = package(folder, count)
            project = shop.write(folder / "project", shop.project())
            dump = seconds(["aapt2", "dump", "badging", str(apk)])
            read = seconds([*PROGRAM, "inspect", str(apk), "--json"])
            held = seconds([*PROGRAM, "inspect", str(apk), "--against", str(project), "--json"], 3)
            size = apk.stat().st_size / (1 << 20)
            ratio = (read - start) / dump
            print(f"{count:7} {size:5.1f} {dump:9.3f} s {read:7.3f} s {start:7.3f} s {ratio:20.2f} {held:24.3f} s")


if __name__ == "__main__":
    main()
