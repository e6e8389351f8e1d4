"""Judges that nobody here wrote: aapt2, javac, plparse, plistlib, tree-sitter; each raises when it objects."""

from __future__ import annotations

import json
import plistlib
import re
import subprocess
from collections.abc import Iterator
from pathlib import Path

from conftest import judge, missing

FRAMEWORK = Path("/usr/share/android-framework-res/framework-res.apk")

# The few framework classes that the demo's Java sources use.
STUBS = {
    "android.content.Context": "public class Context {}",
    "android.content.ContentValues": "public class ContentValues {}",
    "android.content.ContentProvider": (
        "public abstract class ContentProvider { public abstract boolean onCreate(); public abstract android.database."
        "Cursor query(android.net.Uri u, String[] p, String s, String[] a, String o); public abstract String getType("
        "android.net.Uri u); public abstract android.net.Uri insert(android.net.Uri u, ContentValues v); public abstract"
        " int delete(android.net.Uri u, String s, String[] a); public abstract int update(android.net.Uri u, "
        "ContentValues v, String s, String[] a); }"
    ),
    "android.database.Cursor": "public interface Cursor {}",
    "android.net.Uri": "public class Uri { public static Uri parse(String s) { return null; } }",
    "android.util.AttributeSet": "public interface AttributeSet {}",
    "android.app.Fragment": "public class Fragment {}",
    "android.widget.LinearLayout": ("public class LinearLayout { public LinearLayout(android.content.Context c, android.util.AttributeSet a) {} }"),
    "org.junit.Test": "public @interface Test {}",
    "org.junit.Assert": "public class Assert { public static void assertEquals(Object a, Object b) {} public static void assertEquals(long a, long b) {} }",
}


def run(*command: object) -> str:
    """Run a judge; its objections fail the test."""
    done = subprocess.run([str(word) for word in command], capture_output=True, text=True, check=False)
    assert done.returncode == 0, f"{command[0]}: {done.stdout}{done.stderr}"
    return done.stdout


def link_android(module: Path, namespace: str, app: dict, work: Path, over: tuple[str, ...] = (), generated: str = "") -> dict[str, str]:
    """Compile and link a module's resources; return package, label, version as aapt2 reads them from the result.

    *app* is what survey says of it. *over* are the source sets laid over the main one, the winning one last, and
    *generated* is a label that the build script makes. A small stand-in merges what the build would: the namespace, the application ID, the versions. Sources of a
    theme library that is not here are stubbed.
    """
    aapt2 = judge("aapt2")
    if not FRAMEWORK.exists():
        missing("android-framework-res")
    work.mkdir(parents=True, exist_ok=True)
    text = (module / "src/main/AndroidManifest.xml").read_text("utf-8")
    text = text.replace("${applicationId}", app["id"]).replace("${usesCleartextTraffic}", "true")
    manifest = work / "AndroidManifest.xml"
    manifest.write_text(text.replace("<manifest ", f'<manifest package="{namespace}" ', 1), "utf-8")
    run(aapt2, "compile", "--dir", module / "src/main/res", "-o", work / "compiled.zip")
    overlays = []
    if generated:
        (work / "made/values").mkdir(parents=True, exist_ok=True)
        (work / "made/values/made.xml").write_text(f'<resources><string name="app_name">{generated}</string></resources>')
    for folder in (work / "made", *(module / f"src/{name}/res" for name in over)):
        if folder.exists():
            overlays += ["-R", work / f"over{len(overlays)}.zip"]
            run(aapt2, "compile", "--dir", folder, "-o", overlays[-1])
    run(
        aapt2,
        "link",
        *overlays,
        "--auto-add-overlay",
        "-I",
        FRAMEWORK,
        "--manifest",
        manifest,
        "-o",
        work / "out.apk",
        "--java",
        work / "gen",
        "--rename-manifest-package",
        app["id"],
        "--custom-package",
        namespace,
        "--min-sdk-version",
        24,
        "--version-name",
        app["version"],
        "--version-code",
        app["build"],
        work / "compiled.zip",
        "--warn-manifest-validation",
    )
    badging = run(aapt2, "dump", "badging", work / "out.apk")
    return {
        "id": re.search(r"package: name='([^']*)'", badging)[1],
        "version": re.search(r"versionName='([^']*)'", badging)[1],
        "build": re.search(r"versionCode='([^']*)'", badging)[1],
        # aapt2 prints quotes and backslashes of a label behind backslashes.
        "label": re.sub(r"\\(.)", r"\1", re.search(r"^application-label:'(.*)'$", badging, re.MULTILINE)[1]),
        "gen": str(work / "gen"),
    }


def compile_java(roots: list[Path], generated: Path, work: Path) -> None:
    """Compile every Java file below *roots* with the generated R class against stubs."""
    javac = judge("javac")
    for name, body in STUBS.items():
        path = work / "stubs" / (name.replace(".", "/") + ".java")
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(f"package {name.rpartition('.')[0]};\n{body}\n")
    sources = [p for root in (*roots, generated, work / "stubs") if root.exists() for p in root.rglob("*.java")]
    sources = [p for p in sources if "androidTest" not in p.parts]
    run(javac, "-d", work / "classes", "-h", work / "headers", "-implicit:none", *sources)


def check_lists(folder: Path) -> int:
    """Read every property list, strings and project file with a reader of somebody else's; return how many."""
    count = 0
    for path in folder.rglob("*"):
        if path.suffix in (".plist", ".entitlements", ".xcprivacy"):
            plistlib.loads(path.read_bytes())
            count += 1
        elif path.suffix in (".pbxproj", ".strings"):
            run(judge("plparse"), path)
            count += 1
        elif path.suffix in (".xcstrings", ".xctestplan"):
            json.loads(path.read_text("utf-8"))
            count += 1
        elif path.suffix in (".storyboard", ".xcscheme", ".xcworkspacedata"):
            run(judge("xmllint"), "--noout", path)
            count += 1
    return count


def parse_errors(folder: Path) -> dict[str, int]:
    """Count the syntax errors that tree-sitter sees in each kind of source."""
    import tree_sitter_java
    import tree_sitter_kotlin
    import tree_sitter_swift
    from tree_sitter import Language, Parser

    grammars = {".java": tree_sitter_java, ".kt": tree_sitter_kotlin, ".swift": tree_sitter_swift}
    errors = dict.fromkeys(grammars, 0)
    for suffix, grammar in grammars.items():
        parser = Parser(Language(grammar.language()))
        for path in folder.rglob(f"*{suffix}"):
            errors[suffix] += _errors(parser.parse(path.read_bytes()).root_node)
    return errors


def _errors(node: object) -> int:
    return int(node.is_error or node.is_missing) + sum(map(_errors, node.children))


def unresolved_imports(folder: Path, prefix: str) -> set[str]:
    """Return the imports below *prefix* that no source file of the tree declares (without the generated R class)."""
    declared: set[str] = set()
    wanted: set[tuple[str, str]] = set()
    for path, text in _sources(folder):
        package = re.search(r"^\s*package\s+([\w.]+)", text, re.MULTILINE)
        if package:
            names = re.findall(r"\b(?:class|interface|object|enum)\s+(\w+)", text)
            declared |= {f"{package[1]}.{name}" for name in [*names, path.stem]}
        for name in re.findall(r"^\s*import\s+(?:static\s+)?([\w.]+)", text, re.MULTILINE):
            wanted.add((name, path.name))
    mine = {name for name, _ in wanted if name.startswith(prefix + ".")}
    return {n for n in mine if not any(n == d or n.startswith(d + ".") for d in declared) and not n.endswith(".R")}


def _sources(folder: Path) -> Iterator[tuple[Path, str]]:
    for suffix in (".kt", ".java"):
        for path in folder.rglob(f"*{suffix}"):
            yield path, path.read_text("utf-8")
