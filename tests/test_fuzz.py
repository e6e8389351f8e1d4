"""Any bytes: every reader gives a value or says that it cannot, soon, and nothing that grows without bounds is followed."""

from __future__ import annotations

import os
import re
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from conftest import examples, files, least, onomaxis, snapshot
from hybrids import spelled
from onomaxis.errors import FormatError
from onomaxis.formats.gradle import parse_gradle
from onomaxis.formats.jsonc import parse_json
from onomaxis.formats.keystore import read_keystore
from onomaxis.formats.lexer import LANGUAGES, regions, tokens
from onomaxis.formats.openstep import parse_openstep
from onomaxis.formats.plist import parse_plist
from onomaxis.formats.properties import parse_properties
from onomaxis.formats.source import Source
from onomaxis.formats.toml import parse_toml
from onomaxis.formats.xcconfig import parse_xcconfig
from onomaxis.formats.xml import parse_xml, text_span
from onomaxis.formats.yaml import parse_yaml
from onomaxis.projects.android.packages import declared_package
from onomaxis.projects.occurrences import occurrences
from onomaxis.tree import LARGEST
from xcode import pbxproj

pytestmark = pytest.mark.faults


def lexed(ending: str) -> Callable[[bytes], object]:
    def read(data: bytes) -> object:
        view = Source.read(data).view
        found = tokens(view, LANGUAGES[ending])
        assert all(a.end <= b.start for a, b in zip(found, found[1:], strict=False))  # noqa: RUF007
        return list(regions(view, LANGUAGES[ending]))

    return read


READERS: dict[str, Callable[[bytes], object]] = {
    "groovy": lambda data: list(parse_gradle(data, False).settings),
    "kotlin": lambda data: list(parse_gradle(data, True).settings),
    "json": parse_json,
    "openstep": lambda data: parse_openstep(data).top.entries,
    "plist": lambda data: list(parse_plist(data).strings()),
    "properties": parse_properties,
    "toml": parse_toml,
    "xcconfig": parse_xcconfig,
    "xml": lambda data: [text_span(parse_xml(data), item) for item in parse_xml(data).root.walk()],
    "yaml": parse_yaml,
    "package": declared_package,
    "keystore": lambda data: read_keystore(data, "x"),
    "in xml": lambda data: occurrences("a.xml", Source.read(data), ["org.a"], ("org.a",)),
    "in code": lambda data: occurrences("a.kt", Source.read(data), ["org.a"], ("org.a",)),
    **{f"lexer{ending}": lexed(ending) for ending in (".kt", ".java", ".swift", ".dart", ".ts", ".rb", ".gradle", ".m")},
}
PIECES = [
    b" ", b"\n", b"\t", b"a", b"a.", b"=", b"{", b"}", b"(", b")", b"[", b"]", b"<a>", b"</a>", b"<", b"<!--", b"-->", b"<![CDATA[", b"]]>", b"&",
    b"&amp;", b"//", b"/*", b"*/", b"#", b"\\", b'"', b"'", b'"""', b"`", b"${", b"$", b": ", b"- ", b"*a", b"&a ", b"|\n", b";", b",", b"org.a",
    b"La/", b"package ", b"\0", b"\xff", b"\xc3\xa9", b"\xff\xfe", b"\xef\xbb\xbf", b"<?xml version='1.0' encoding='gbk'?>",
    b"<plist version='1.0'><dict>", b"<key>a</key>", b"1", b"true", b"\r\n",
]  # fmt: skip
BYTES = st.one_of(
    st.binary(max_size=200),
    st.lists(st.sampled_from(PIECES), max_size=60).map(b"".join),
    st.tuples(st.sampled_from(PIECES), st.sampled_from(PIECES), st.integers(1, 3000)).map(lambda t: t[0] + t[1] * t[2]),
)


@pytest.mark.parametrize("name", READERS)
def test_any_bytes(name: str) -> None:
    """A value or a FormatError with its line, within a second."""

    @examples(120)
    @given(BYTES)
    @example(b"{" * 9000)
    @example(b'"${' * 4000)
    @example(b"[" * 9000)
    @example(b"<a>" * 3000)
    @example(b"a: &a [*a]\n")
    @example(b"- " * 2000)
    def check(data: bytes) -> None:
        def read() -> None:
            try:
                READERS[name](data)
            except FormatError as error:
                assert error.message

        assert least(read, 1.0) <= 1.0

    check()


MANIFEST = {"app/src/main/AndroidManifest.xml": "<manifest/>\n", "settings.gradle": "include ':app'\n"}
GRADLE = "apply plugin: 'com.android.application'\n%s\nandroid {\n namespace 'org.x'\n defaultConfig {\n applicationId 'org.x'\n versionName %s\n versionCode 1\n }\n}\n"


def gradle(head: str, value: str) -> dict[str, str]:
    return {**MANIFEST, "app/build.gradle": GRADLE % (head, value)}


def xcode(settings_: dict[str, str]) -> dict[str, str]:
    own = {"PRODUCT_BUNDLE_IDENTIFIER": "$(A18)", "INFOPLIST_FILE": "L/Info.plist", "MARKETING_VERSION": "1", "CURRENT_PROJECT_VERSION": "2", **settings_}
    plist = "<plist version='1.0'><dict><key>CFBundleIdentifier</key><string>$(PRODUCT_BUNDLE_IDENTIFIER)</string></dict></plist>"
    return {"L.xcodeproj/project.pbxproj": pbxproj(["Release"], {"SDKROOT": "iphoneos"}, {"L": ("app", {"*": own})}, {"L": "L"}), "L/Info.plist": plist}


def flavored_by(text: str) -> dict[str, str]:
    return {**MANIFEST, "app/build.gradle": GRADLE[:-2] % ("", "'1'") + "productFlavors {\n" + text + "}\n}\n"}


def scripted(config: str, before: str = "") -> dict[str, str]:
    own = {path: text for path, text in EXPO.items() if not path.startswith("app.")}
    body = config.replace("{", "{ slug: 's', android: { package: 'org.x' }, ios: { bundleIdentifier: 'org.x' },", 1)
    return {**own, "app.config.js": f"{before}module.exports = {body};\n"}


def dotnet(text: str) -> dict[str, str]:
    own = "<UseMaui>true</UseMaui><TargetFrameworks>net9.0-android;net9.0-ios</TargetFrameworks><ApplicationId>org.x</ApplicationId>"
    return {"A.csproj": f'<Project Sdk="Microsoft.NET.Sdk"><PropertyGroup>{own}{text}</PropertyGroup></Project>\n'}


CORDOVA = spelled("cordova", "org.x.shed", "Shed", "1.2", "7")
FLUTTER = spelled("flutter", "org.x.shed", "Shed", "1.2", "7")
EXPO = spelled("expo", "org.x.shed", "Shed", "1.2", "7")
DIMENSIONS = (
    "flavorDimensions "
    + ", ".join(f"'d{n}'" for n in range(12))
    + "\nproductFlavors {\n"
    + "".join(f"f{n}x{m} {{ dimension 'd{n}' }}\n" for n in range(12) for m in range(4))
    + "}\n"
)
GROWING: dict[str, dict[str, str]] = {
    "variables that double": gradle("\n".join(["def a0 = 'x'"] + [f"def a{n + 1} = a{n} + a{n}" for n in range(18)]), "a18"),
    "interpolations that double": gradle("\n".join(["def a0 = ''"] + [f'def a{n + 1} = "${{a{n}}}${{a{n}}}"' for n in range(18)]), "a18"),
    "numbers that grow": gradle("\n".join(["def a0 = 99999"] + [f"def a{n + 1} = a{n} * a{n}" for n in range(18)]), "a18"),
    "a circle": gradle("def a = b\ndef b = a", "a"),
    "parentheses": gradle("", "(" * 8000 + "'1'" + ")" * 8000),
    "a long sum": gradle("", " + ".join(["'1'"] * 5000)),
    "combinations of flavors": {**MANIFEST, "app/build.gradle": GRADLE[:-2] % ("", "'1'") + DIMENSIONS + "}\n"},
    "blank lines": {
        **gradle("", "'1'"),
        "app/src/main/java/org/x/A.kt": "\n" * 40 + "x = 'org.x'\n",
        "app/src/main/java/org/x/B.kt": " \n" * 4000 + "@a\n" * 2000 + "org.x",
    },
    "settings that double": xcode({"A0": "x", **{f"A{n + 1}": f"$(A{n})$(A{n})" for n in range(18)}}),
    "aliases": {
        **FLUTTER,
        "pubspec.yaml": "a: &a [x,x,x,x,x,x,x,x,x]\n"
        + "".join(f"{chr(98 + n)}: &{chr(98 + n)} [{','.join(['*' + chr(97 + n)] * 9)}]\n" for n in range(8))
        + "name: shed\nversion: 1.2+7\nflutter: {}\n",
    },
    "an alias of itself": {**FLUTTER, "pubspec.yaml": "name: shed\nversion: 1.2+7\nflutter: &a [*a]\n"},
    "deep lists": {**FLUTTER, "pubspec.yaml": "name: shed\nflutter: " + "[" * 3000 + "]" * 3000 + "\n"},
    "objects that spread": {
        **EXPO,
        "app.config.js": "const o0={name:'x'};\n"
        + "".join(f"const o{n + 1}={{...o{n},...o{n}}};\n" for n in range(40))
        + "module.exports={expo:{...o40,slug:'s',android:{package:'org.x.shed'}}};\n",
    },
    "entities": {
        **gradle("", "'1'"),
        "app/src/main/res/values/strings.xml": "<!DOCTYPE r [<!ENTITY a0 'x'>"
        + "".join(f"<!ENTITY a{n + 1} '&a{n};&a{n};'>" for n in range(40))
        + "]><resources><string name='app_name'>&a40;</string></resources>",
    },
    "references in a circle": {
        **gradle("", "'1'"),
        "app/src/main/AndroidManifest.xml": "<manifest xmlns:android='http://schemas.android.com/apk/res/android'><application android:label='@string/a'/></manifest>",
        "app/src/main/res/values/strings.xml": "<resources><string name='a'>@string/b</string><string name='b'>@string/a</string></resources>",
    },
    "scripts in a circle": {
        **gradle("apply from: 'a.gradle'", "'1'"),
        "app/a.gradle": "apply from: 'b.gradle'\n" * 9,
        "app/b.gradle": "apply from: 'a.gradle'\n" * 9,
    },
    "loops over large bodies": flavored_by(
        "[" + ",".join(f"'f{n}'" for n in range(900)) + '].each { n -> "$n" { if (x) { ' + 'versionName "1"\n' * 3000 + "} } }\n"
    ),
    "much said of all flavors": flavored_by("".join(f"f{n} {{ }}\n" for n in range(400)) + "all { " + 'versionName "1"\n' * 1500 + "}\n"),
    "a text that doubles": {
        **flavored_by("a { versionName t }\n"),
        "app/build.gradle": flavored_by("a { versionName t }\n")["app/build.gradle"].replace(
            "android {", "def t = 'a'\n" + "t = t.replace('a', 'aa')\n" * 60 + "def l = [1]\n" + "l = l + l\n" * 60 + "android {", 1
        ),
    },
    "closures in closures": flavored_by("a { versionName " + "x.let { " * 400 + "it" + " }" * 400 + " }\n"),
    "parentheses in a script": scripted("{ name: " + "(" * 3000 + "'x'" + ")" * 3000 + " }"),
    "calls on calls": scripted("{ name: 'x'" + ".trim()" * 3000 + " }"),
    "conditions in conditions": scripted("{ name: f() }", "function f() { " + "if (a) " * 3000 + "return 'x' }\n"),
    "names that double": scripted("{ name: a0 }", "\n".join(f"const a{n} = a{n + 1} + a{n + 1};" for n in range(22)) + "\nconst a22 = 'x';\n"),
    "braces around a name": scripted("{ name: n }", "let n = 'a';\n{" + "{}" * 9000 + "\nn = 'b';\n}\n"),
    "a version of many digits": {**CORDOVA, "config.xml": CORDOVA["config.xml"].replace('version="1.2"', f'version="1.{"9" * 5000}"')},
    "negations": dotnet(f'<X Condition="{"!" * 3000}true">1</X>'),
    "parentheses in a condition": dotnet(f'<X Condition="{"(" * 3000}true{")" * 3000}">1</X>'),
    "properties that double": dotnet("<X0>x</X0>" + "".join(f"<X{n + 1}>$(X{n})$(X{n})</X{n + 1}>" for n in range(24))),
    "ignore patterns": {
        **gradle("", "'1'"),
        ".gitignore": "*" * 30 + "a\n" + "**/" * 40 + "b\n" + "*a" * 30 + "\n" + "[" * 99 + "\n",
        **{f"{'a' * 40}/{n}.txt": "x" for n in range(5)},
    },
}


@pytest.mark.parametrize("name", GROWING)
def test_what_grows_is_not_followed(tmp_path: Path, name: str) -> None:
    """A repository made to take for ever, or all memory, is read in seconds; what is not followed is said or refused."""
    root = files(tmp_path / "t", GROWING[name])
    before = snapshot(root)

    def look() -> None:
        for words in (["survey"], ["check"], ["rename", "--id", "org.y.z", "--dry-run"]):
            done = onomaxis(words[0], root, *words[1:], "--json")
            assert done.code in (0, 1, 2, 3), done.out[-300:]

    assert least(look, 15) <= 15 and snapshot(root) == before


def test_a_dump_is_searched_and_never_held(tmp_path: Path) -> None:
    """A file over the stated size: searched over the borders of its pieces, named where it holds the ID, left alone."""
    root = files(tmp_path / "t", gradle("", "'1'"))
    for name, at in (("with.sql", (4 << 20) - 3), ("without.sql", None)):
        with (root / name).open("wb") as handle:
            handle.truncate(LARGEST + (1 << 20))
            if at is not None:
                handle.seek(at)
                handle.write(b"org.x")
    done = onomaxis("rename", root, "--id", "org.y", "--json")
    assert done.code == 0
    said = {item["file"]: item["reason"] for item in done.json["residue"]}
    assert "larger" in said["with.sql"] and "without.sql" not in said


def test_a_pattern_of_the_identity_file_has_little_time(tmp_path: Path) -> None:
    """A pattern that would run for ever in the standard library ends soon, one way or the other; no pattern is named."""
    contents = {**gradle("", "'1'"), "config.json": '{"key": "%s"}\n' % ("a" * 40 + "!")}
    for pattern, said in (
        ("(a+)+$", ("takes too long", "does not match")),
        ("(a|aa)+?(b|bb)*(a|aa)+$", ("takes too long", "does not match")),
        ("(", ("not a regular expression",)),
    ):
        table = f"format = 1\n[values.key]\npattern = '{pattern}'\nvalue = '{'a' * 40}!'\nplaces = [{{ pointer = '/key', file = 'config.json' }}]\n"
        root = files(tmp_path / str(len(pattern)), {**contents, "onomaxis.toml": table})
        before = snapshot(root)

        def give(root: Path = root, before: object = before, said: tuple[str, ...] = said) -> None:
            done = onomaxis("stamp", root)
            assert done.code == 2 and any(text in done.err for text in said) and snapshot(root) == before, done.err

        assert least(give, 8) <= 8


@pytest.mark.skipif(not hasattr(os, "mkfifo"), reason="there are no pipes among the files here")
def test_what_never_ends_is_not_read(tmp_path: Path) -> None:
    """A device, a pipe, a folder, a file of gigabytes without content: refused in words where a file is named, an ignore file too."""
    contents = {**spelled("flutter", "org.x.shed", "Shed", "1.2.0", "7"), "onomaxis.toml": 'format = 1\n[app]\nname = "Shed"\n'}
    manifest = "android/app/src/main/AndroidManifest.xml"
    contents[manifest] = contents[manifest].replace("<application ", '<application android:icon="@mipmap/ic_launcher" ', 1)
    root = files(tmp_path / "x", contents)
    os.mkfifo(root / "pipe")
    os.mkfifo(root / "lib/.gitignore")
    with (root / "large").open("wb") as handle:
        handle.truncate(3 << 30)
    for name in ("/dev/zero", root / "pipe", root, root / "large"):
        for words in (
            ("icons", root, "--art", name),
            ("fingerprint", name, root, "--password-env", "P"),
            ("stamp", root, "--service", name),
            ("renumber", root, "--plan", name),
        ):
            done = onomaxis(*words, env={"P": "x"})
            assert done.code == 2 and re.search(r"not a file that could be read|larger|[Ii]s a directory|not a picture|too large", done.err), (words, done)
    (root / "large").unlink()
    assert onomaxis("survey", root).code == 0
