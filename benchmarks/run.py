"""Ratios, taken side by side on this machine: survey against git grep, rename against copying, start-up.

Run: python benchmarks/run.py [--files N ...]
Each pair is run in turn, several times; the median of the ratios is printed with what it is made of.
"""

from __future__ import annotations

import argparse
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

# An installed program finds its modules compiled.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)

ID = "org.lendspan.app"
DEMO = Path(__file__).parent.parent / "src/onomaxis/demo/lendspan"
PROGRAM = [sys.executable, "-m", "onomaxis"]
BODY = "\n".join(
    f'    fun tool{n}(shelf: Int): String = "drawer " + shelf // what hangs on hook {n}' for n in range(30)
)


def source_file(package: str, number: int, mentions: bool) -> str:
    """Return one Kotlin file of about 2.5 KB; one that mentions the ID imports a neighbour too."""
    line = f"import {package}.part0.Tool0\n" if mentions else ""
    return f"package {package}.part{number % 50}\n\n{line}\nclass Tool{number} {{\n{BODY}\n}}\n"


def make_tree(root: Path, files: int, touched: int) -> None:
    """Write a project of *files* files, *touched* of which lie in the app's own package."""
    app = root / "app"
    base = app / "src/main/java"
    (app / "src/main/res/values").mkdir(parents=True)
    (root / "settings.gradle.kts").write_text('include(":app")\n')
    (app / "build.gradle.kts").write_text(
        'plugins { id("com.android.application") }\nandroid {\n    namespace = "org.lendspan.app"\n    defaultConfig {\n'
        '        applicationId = "org.lendspan.app"\n        versionCode = 1\n        versionName = "1.0"\n    }\n}\n'
    )
    (app / "src/main/AndroidManifest.xml").write_text(
        '<manifest xmlns:android="http://schemas.android.com/apk/res/android">\n'
        '    <application android:label="@string/app_name" />\n</manifest>\n'
    )
    (app / "src/main/res/values/strings.xml").write_text(
        '<resources>\n    <string name="app_name">Lendspan Tools</string>\n</resources>\n'
    )
    for number in range(files):
        mine = number < touched
        package = ID if mine else f"net.neighbour.lib{number % 40}"
        folder = base / package.replace(".", "/") / f"part{number % 50}"
        folder.mkdir(parents=True, exist_ok=True)
        (folder / f"Tool{number}.kt").write_text(source_file(package, number, mine))
    git = ["git", "-c", "user.name=bench", "-c", "user.email=bench@invalid", "-C", str(root)]
    for words in (["init", "-q"], ["add", "-A"], ["commit", "-qm", "bench"]):
        subprocess.run([*git, *words], check=True)


def wall(action: Callable[[], object]) -> float:
    """Return the seconds that *action* takes."""
    start = time.perf_counter()
    action()
    return time.perf_counter() - start


def command(*words: str, cwd: Path | None = None) -> Callable[[], object]:
    """Return an action that runs a command and throws its output away."""
    return lambda: subprocess.run(words, cwd=cwd, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=True)


def compare(label: str, ours: Callable[[], object], theirs: Callable[[], object], runs: int, target: str) -> float:
    """Run two actions in turn; print and return the median ratio."""
    ours()
    theirs()
    pairs = [(wall(ours), wall(theirs)) for _ in range(runs)]
    ratio = statistics.median(a / b for a, b in pairs)
    one, other = (statistics.median(values) for values in zip(*pairs, strict=True))
    print(f"{label:<46} {one * 1000:8.0f} ms : {other * 1000:6.0f} ms = {ratio:5.2f}   (target {target})")
    return ratio


def bench_survey(work: Path, count: int, runs: int) -> None:
    """Survey against one search for the same identifier over the same tree."""
    root = work / f"survey-{count}"
    make_tree(root, count, min(2000, count // 2))
    compare(
        f"survey of {count:,} files : git grep -l",
        command(*PROGRAM, "survey", str(root), "--json"),
        command("git", "grep", "-l", "-F", ID, cwd=root),
        runs,
        "at most 3",
    )


def bench_rename(work: Path, runs: int) -> None:
    """Rename of 2,000 files against a survey and copying those files."""
    root = work / "rename"
    make_tree(root, 4000, 2000)
    touched = [path for path in root.rglob("*.kt") if ID.replace(".", "/") in path.as_posix()]
    ids = iter([*(f"org.lendspan.tools{number}" for number in range(runs + 1))])

    def copy() -> None:
        target = work / "copied"
        for path in touched:
            place = target / path.relative_to(root)
            place.parent.mkdir(parents=True, exist_ok=True)
            shutil.copy2(path, place)
        shutil.rmtree(target)

    def theirs() -> None:
        command(*PROGRAM, "survey", str(root), "--json")()
        nonlocal touched
        touched = [path for path in root.rglob("*.kt") if "org/lendspan" in path.as_posix()]
        copy()

    def ours() -> None:
        command(*PROGRAM, "rename", str(root), "--id", next(ids), "--allow-dirty", "--json")()

    compare("rename of 2,000 files : a survey + copying", ours, theirs, runs, "at most 1.2")


def large_project(root: Path, files: int) -> Path:
    """Write the demo's Xcode project with *files* more source files into *root*; return the project file."""
    text = (DEMO / "ios/Lendspan.xcodeproj/project.pbxproj").read_text()
    names = [(f"7E{at:022X}", f"7F{at:022X}", f"File{at}.swift") for at in range(files)]
    kind = "isa = PBXFileReference; lastKnownFileType = sourcecode.swift;"
    parts = {
        "/* End PBXFileReference": (
            f'\t\t{a} /* {n} */ = {{{kind} path = {n}; sourceTree = "<group>"; }};\n' for a, _, n in names
        ),
        "/* End PBXBuildFile": (
            f"\t\t{b} /* {n} in Sources */ = {{isa = PBXBuildFile; fileRef = {a} /* {n} */; }};\n"
            for a, b, n in names
        ),
        "\t\t\t\t4C0000000000000000000102 /* LoanStore.swift */,": (f"\t\t\t\t{a} /* {n} */,\n" for a, _, n in names),
        "\t\t\t\t4C0000000000000000000113 /* LoanStore.swift in Sources */,": (
            f"\t\t\t\t{b} /* {n} in Sources */,\n" for _, b, n in names
        ),
    }
    for mark, lines in parts.items():
        text = text.replace(mark, "".join(lines) + mark)
    path = root / "Lendspan.xcodeproj/project.pbxproj"
    path.parent.mkdir(parents=True)
    path.write_text(text)
    return path


def bench_project_file(work: Path, runs: int) -> None:
    """Parse a project file of 50,000 lines and edit a setting in it, against a reader that only checks it."""
    from onomaxis.formats.escapes import encode
    from onomaxis.model import Edit
    from onomaxis.projects.ios.project_file import XcodeProject
    from onomaxis.writing.changeset import apply_edits

    path = large_project(work / "xcode", 12_000)
    data = path.read_bytes()

    def ours() -> None:
        project = XcodeProject("Lendspan.xcodeproj/project.pbxproj", data)
        name = project.targets[0].node.get("name")
        spot = project.document.source.offset(name.start), project.document.source.offset(name.end)
        apply_edits("p", data, [Edit("p", *spot, encode("openstep", "Other").encode())])

    lines = data.count(b"\n")
    if shutil.which("plparse"):
        compare(f"project file of {lines:,} lines : plparse", ours, command("plparse", str(path)), runs, "below 3")


def main() -> None:
    """Run all comparisons."""
    parser = argparse.ArgumentParser(description="Ratios of Onomaxis against plain tools, side by side.")
    parser.add_argument(
        "--files", type=int, nargs="*", default=[2_000, 20_000, 60_000], help="sizes of the survey trees"
    )
    parser.add_argument("--runs", type=int, default=5, help="counted runs of each pair")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory(prefix="onomaxis-bench-") as folder:
        work = Path(folder)
        bare = command(sys.executable, "-c", "import argparse")
        for words in (["--help"], ["--version"]):
            compare(
                f"start-up {words[0]} : import argparse",
                command(*PROGRAM, *words),
                bare,
                options.runs * 2,
                "at most 2.5",
            )
        for count in options.files:
            bench_survey(work, count, options.runs)
        bench_rename(work, options.runs)
        bench_project_file(work, options.runs)


if __name__ == "__main__":
    main()
