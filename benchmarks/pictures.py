"""Quality and speed of the drawing, beside plain library calls, on this machine.

Run: python benchmarks/pictures.py
Quality: mean and maximum error of every raster size against the art at 16 times the size, averaged in linear light;
beside it the library's plain resize of the same source. Speed: the whole set for both platforms against the bare
renderer and encoder calls for the same pixels.
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from PIL import Image

from onomaxis.demo import ART, copy_demo
from onomaxis.icons.pixels import to_bytes, to_picture
from onomaxis.icons.scaled import Scaled, render_svg
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree

# An installed program finds its modules compiled.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)

FINE = (
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 96 96"><rect width="96" height="96" fill="#10302a"/>'
    + "".join(f'<path d="M{x} 0v96" stroke="#f4ecd8" stroke-width=".5"/>' for x in range(2, 96, 2))
    + '<circle cx="48" cy="48" r="30" fill="#c33"/></svg>'
)
SIZES = (48, 72, 96, 144, 192, 108, 162, 216, 324, 432, 20, 29, 40, 58, 60, 76, 80, 87, 120, 152, 167, 180, 512)


def reference(svg: str, size: int) -> np.ndarray:
    """Return the art drawn at 16 times the size (4096 at most) and averaged in linear light."""
    factor = max(1, min(16, 4096 // size))
    large = to_picture(render_svg(svg, size * factor, size * factor))
    return to_bytes(large.reshape(size, factor, size, factor, 4).mean(axis=(1, 3)))


def quality() -> None:
    """Print errors in levels of 255, over all sizes."""
    for label, svg in (("ladder", (ART / "ladder.svg").read_text()), ("fine stripes", FINE)):
        source = render_svg(svg, 1024, 1024)
        image, scaled, markup = Image.fromarray(source), Scaled(raster=to_picture(source)), Scaled(svg)
        ours, plain, drawn = [], [], []
        for size in SIZES:
            wanted = reference(svg, size).astype(int)
            ours.append(np.abs(to_bytes(scaled.at(size, size)).astype(int) - wanted))
            plain.append(
                np.abs(np.asarray(image.resize((size, size), Image.Resampling.LANCZOS)).astype(int) - wanted)
            )
            drawn.append(np.abs(to_bytes(markup.at(size, size)).astype(int) - wanted))
        for name, errors in (("raster art, ours", ours), ("raster art, plain resize", plain), ("SVG at size", drawn)):
            mean = statistics.mean(float(error.mean()) for error in errors)
            print(f"{label:<14} {name:<26} mean {mean:6.2f}   maximum {max(int(error.max()) for error in errors):4d}")


def speed(art: Path, bare_calls: str) -> None:
    """Print the ratio of the command to the bare calls for the same pixels."""
    ratios = []
    for _ in range(5):
        with tempfile.TemporaryDirectory() as folder:
            demo = copy_demo(str(Path(folder) / "demo"))
            program = [sys.executable, "-m", "onomaxis"]
            start = time.perf_counter()
            subprocess.run(
                [*program, "icons", str(demo), "--art", str(art), "--slots", "full", "--quiet", "--yes"],
                check=True,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
            )
            ours = time.perf_counter() - start
            homes = [home for project in read_projects(Tree.open(demo)) for home in project.icons]
            pictures = [p for home in homes for p in (demo / home.folder).rglob("*.png")]
            sizes = ",".join(str(Image.open(path).width) for path in pictures)
        start = time.perf_counter()
        subprocess.run([sys.executable, "-c", bare_calls, str(art), sizes], check=True)
        bare = time.perf_counter() - start
        ratios.append((ours / bare, ours, bare, len(pictures)))
    ratio, ours, bare, count = sorted(ratios)[len(ratios) // 2]
    print(
        f"full set from {art.suffix[1:]}, {count} pictures: {ours * 1000:.0f} ms : {bare * 1000:.0f} ms bare = {ratio:.2f} (target at most 1.5)"
    )


def flavors(count: int = 50) -> None:
    """Print the time for icons of *count* flavors, on one processor and on all of them."""
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder) / "app"
        (root / "src/main").mkdir(parents=True)
        names = "".join(f"f{number} {{ dimension 'd' }}\n" for number in range(count))
        (root / "build.gradle").write_text(
            "apply plugin: 'com.android.application'\nandroid { namespace 'org.lendspan'\nflavorDimensions 'd'\n"
            f"productFlavors {{ {names} }} }}\n"
        )
        (root / "src/main/AndroidManifest.xml").write_text(
            '<manifest xmlns:android="http://schemas.android.com/apk/res/android">'
            '<application android:icon="@mipmap/ic_launcher" android:roundIcon="@mipmap/ic_launcher_round"/></manifest>'
        )
        words = [
            sys.executable,
            "-m",
            "onomaxis",
            "icons",
            str(root),
            "--art",
            str(ART / "ladder.svg"),
            "--every-flavor",
            "--yes",
        ]
        figures = []
        for processors in ({0}, set(range(os.cpu_count() or 1))):
            start = time.perf_counter()
            subprocess.run(
                [*words, "--dry-run", "--json"],
                check=True,
                stdout=subprocess.DEVNULL,
                preexec_fn=lambda chosen=processors: os.sched_setaffinity(0, chosen),
            )
            figures.append(time.perf_counter() - start)
        one, every = figures
        print(f"{count} flavors: {one:.1f} s on one processor, {every:.1f} s on {os.cpu_count()} = {every / one:.2f}")


BARE = """
import io, sys, resvg_py
from PIL import Image
svg = open(sys.argv[1]).read()
for size in map(int, sys.argv[2].split(",")):
    data = resvg_py.svg_to_bytes(svg_string=svg, width=size, height=size, skip_system_fonts=True)
    Image.open(io.BytesIO(bytes(data))).convert("RGBA").save(io.BytesIO(), "PNG", compress_level=6)
"""

BARE_PNG = """
import io, sys
from PIL import Image
art = Image.open(sys.argv[1]).convert("RGBA")
for size in map(int, sys.argv[2].split(",")):
    art.resize((size, size), Image.Resampling.LANCZOS).save(io.BytesIO(), "PNG", compress_level=6)
"""


def photo(path: Path) -> Path:
    """Write art of 1536 pixels with many colours."""
    y, x = np.mgrid[0:1536, 0:1536] / 1536
    Image.fromarray(np.stack([200 * x + 30, 120 * y + 60, 180 * (1 - x) + 40], axis=-1).astype(np.uint8)).save(path)
    return path


def main() -> None:
    """Print all of them."""
    quality()
    speed(ART / "ladder.svg", BARE)
    with tempfile.TemporaryDirectory() as folder:
        speed(photo(Path(folder) / "art.png"), BARE_PNG)
    flavors()


if __name__ == "__main__":
    main()
