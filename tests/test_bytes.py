"""Bytes are not characters: names that end like white space, every encoding in every format, and judges that read them."""

from __future__ import annotations

import ast
import json
import plistlib
import re
import subprocess
import xml.etree.ElementTree as ET
from collections.abc import Callable
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

import onomaxis as package
from conftest import examples, files, judge, memory, onomaxis, snapshot
from hybrids import KINDS, spelled
from onomaxis.formats.escapes import decode, decode_android, encode, string_element
from onomaxis.formats.yaml import parse_yaml
from onomaxis.rename.plan import plan_values
from onomaxis.surveys.survey import take_survey
from onomaxis.wishes import Wish
from onomaxis.writing.change import applied
from xcode import pbxproj

SOURCE = Path(package.__file__).parent
# Last or first bytes that Latin-1 takes for white space, letters, or a change of case; and what syntaxes stumble over.
NAMES = [
    "Voilà", "àb", "Ąż Ą", "Å", "Р", "line\u2028end\u2028", "\u00a0Lend\u00a0", "Lend\u3000span", "%1$s", "50% off 20% on", "a\\nb", "@home", "?why",
    'it\'s "R&D" <b>', "e\u0301te\u0301", "👩‍👩‍👧 fam", "שלום", "\u200fltr\u200e", "$name", "Lend #{x}", "a`b", "//x", "trailing\\", "{{x}}", "~",
    "null", "- a", "a: b", "a # b", "*a", "yes", "'q'",
]  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("part", range(4))
def test_names_in_every_kind(kind: str, part: int) -> None:
    """A name is read as it was given, on every platform, and the way back without a journal is byte for byte."""
    tree = memory(spelled(kind, "org.x.shed", "Shed Tools", "1.2", "7"))
    survey = take_survey(tree)
    for name in NAMES[part::4]:
        later = take_survey(applied(tree, plan_values(survey, Wish(name=name)).changes))
        assert {app.name.text for app in later.apps} == {name} and not later.disagreements, name
        back = applied(later.tree, plan_values(later, Wish(name="Shed Tools")).changes)
        assert {path: back.read(path) for path in back.files} == {path: tree.read(path) for path in tree.files}, name


def test_a_reference_is_no_name_on_ios(tmp_path: Path) -> None:
    """What Xcode would take for a build setting is refused, and nothing is changed."""
    root = files(tmp_path / "x", spelled("flutter", "org.x.shed", "Shed", "1.2", "7"))
    before = snapshot(root)
    for name in ("Cash $(X)", "Cash ${X}"):
        done = onomaxis("rename", root, "--name", name)
        assert done.code == 2 and "build setting" in done.err and snapshot(root) == before


@pytest.mark.parametrize("name", NAMES, ids=[ascii(number) for number in range(len(NAMES))])
@pytest.mark.processes
def test_judges_read_the_same_name(tmp_path: Path, name: str) -> None:
    """aapt2 and the property list readers give back the very text, in strings and in lists."""
    aapt2 = judge("aapt2")
    (tmp_path / "res/values").mkdir(parents=True)
    (tmp_path / "res/values/strings.xml").write_text(f"<resources>{string_element('app_name', name)}</resources>", "utf-8")
    subprocess.run([aapt2, "compile", "--dir", tmp_path / "res", "-o", tmp_path / "s.zip"], check=True, capture_output=True)
    (tmp_path / "m.xml").write_text(
        '<manifest xmlns:android="http://schemas.android.com/apk/res/android" package="a.b"><application android:label="@string/app_name"/></manifest>'
    )
    subprocess.run(
        [
            aapt2,
            "link",
            "-I",
            "/usr/share/android-framework-res/framework-res.apk",
            "--manifest",
            tmp_path / "m.xml",
            "-o",
            tmp_path / "o.apk",
            tmp_path / "s.zip",
        ],
        check=True,
        capture_output=True,
    )
    said = subprocess.run([aapt2, "dump", "strings", tmp_path / "o.apk"], check=True, capture_output=True).stdout.decode("utf-8", "surrogatepass")
    said = said.encode("utf-16", "surrogatepass").decode("utf-16")  # aapt2 prints what its pool holds, halves by halves
    assert re.search(rf"^String #0 ?: {re.escape(name)}$", said, re.MULTILINE), said
    strings = f'"CFBundleDisplayName" = {encode("openstep-entry", name)};\n'
    (tmp_path / "x.strings").write_text(strings, "utf-16")
    subprocess.run([judge("plparse"), tmp_path / "x.strings"], check=True, capture_output=True)
    assert plistlib.loads(f'<plist version="1.0"><string>{encode("xml-text", name)}</string></plist>'.encode()) == name


ENCODED = {
    "utf-8": "Größe à Voilà ",
    "utf-8-sig": "Größe à",
    "latin-1": "Größe Voil\xe0 ",
    "cp1252": "Größe – Voilà",
    "iso-8859-2": "Łódź Ą",
    "cp1251": "Привет Р",
    "iso-8859-5": "Привет Р",
    "utf-16": "Привет 日本",
    "utf-16-le": "abc Привет",
    "utf-16-be": "abc Größe",
    "utf-32": "日本 🪜",
    "utf-32-le": "Größe",
    "gbk": "中文 镜",
    "shift_jis": "日本語表ソ",
    "big5": "中文 功",
    "euc-kr": "한국어",
}
DECLARED = {"utf-16-le": "utf-16", "utf-16-be": "utf-16", "utf-32-le": "utf-32", "utf-8-sig": "utf-8"}
ONLY_XML = {"gbk", "shift_jis", "big5", "euc-kr"}
TEXTS = {
    "app/build.gradle": "// ZZ\nplugins { id 'com.android.application' }\nandroid {\n  namespace 'org.lend.app'\n  defaultConfig {\n    applicationId 'org.lend.app' // ZZ\n    versionCode 3\n    versionName '1.2'\n  }\n}\n",
    "app/src/main/java/org/lend/app/A.kt": '// ZZ\npackage org.lend.app\nval a = "ZZ org.lend.app.x"\n',
    "app/src/main/res/values/strings.xml": 'HEAD<resources>\n <!-- ZZ -->\n <string name="c">ZZ</string>\n <string name="app_name">Lend</string>\n <string name="id">org.lend.app</string>\n</resources>\n',
    "app/src/main/AndroidManifest.xml": 'HEAD<manifest xmlns:android="http://schemas.android.com/apk/res/android"><!-- ZZ -->\n<application android:label="@string/app_name" android:name="org.lend.app.App"/></manifest>\n',
    "ios/Lend/Info.plist": 'HEAD<plist version="1.0"><dict><!-- ZZ -->\n<key>CFBundleDisplayName</key><string>Lend</string><key>X</key><string>ZZ</string>\n<key>CFBundleIdentifier</key><string>$(PRODUCT_BUNDLE_IDENTIFIER)</string></dict></plist>\n',
    "ios/Lend/de.lproj/InfoPlist.strings": '/* ZZ */\n"CFBundleDisplayName" = "Lend";\n"x" = "ZZ";\n',
    "ios/Lend/A.swift": '// ZZ\nlet id = "org.lend.app"\n',
    "gradle.properties": "# ZZ\nx=ZZ\nbuild=3\n",
    "pubspec.yaml": "# ZZ\nname: lend\ndescription: ZZ\nversion: 1.2+3 # ZZ\ndependencies:\n  flutter:\n    sdk: flutter\n",
}
SETTINGS = {
    "Lend": (
        "app",
        {"*": {"PRODUCT_BUNDLE_IDENTIFIER": "org.lend.app", "INFOPLIST_FILE": "Lend/Info.plist", "MARKETING_VERSION": "1.2", "CURRENT_PROJECT_VERSION": "3"}},
    )
}
NATIVE = {
    "settings.gradle": "include ':app'\n",
    "ios/Lend.xcodeproj/project.pbxproj": pbxproj(["Release"], {"SDKROOT": "iphoneos"}, SETTINGS, {"Lend": "Lend"}),
}


@pytest.mark.parametrize("codec", ENCODED)
def test_every_encoding_in_every_format(tmp_path: Path, codec: str) -> None:
    """Identifier, name and numbers change in the file's own encoding; every other byte stays, and undo is exact."""
    contents: dict[str, str | bytes] = dict(NATIVE)
    for path, text in TEXTS.items():
        plain = codec in ONLY_XML and "HEAD" not in text
        head = "" if plain else f'<?xml version="1.0" encoding="{DECLARED.get(codec, codec)}"?>\n'
        filled = text.replace("HEAD", head).replace("ZZ", "c" if plain else ENCODED[codec])
        contents[path] = filled.encode("utf-8" if plain else codec)
    root = files(tmp_path / "x", contents)
    before = snapshot(root)
    for words, old, new in (("--id", "org.lend.app", "net.moss.wood"), ("--name", "Lend", "Moss Wood"), ("--version", "1.2", "3.40"), ("--build", "3", "9")):
        done = onomaxis("rename", root, words, new, "--json")
        assert done.code == 0, done.out
        touched = 0
        for path, data in contents.items():
            now = root / (path.replace("org/lend/app", "net/moss/wood") if words == "--id" else path)
            was = data if isinstance(data, bytes) else data.encode()
            if now.read_bytes() != was:
                touched += 1
                inner = codec if isinstance(data, bytes) and not (codec in ONLY_XML and "HEAD" not in TEXTS[path]) else "utf-8"
                text, said = was.decode(inner), now.read_bytes().decode(inner)
                assert said.encode(inner) == now.read_bytes() and _only(text, said, old, new), (words, path, said)
        assert touched >= (5 if words == "--id" else 1)
        assert onomaxis("undo", root, "--quiet").code == 0 and snapshot(root) == before


def _only(text: str, said: str, old: str, new: str) -> bool:
    """Tell whether two texts differ in nothing but *old* having become *new* in some places."""
    parts, at = [], 0
    for part in said.split(new):
        parts.append(re.escape(part))
    return re.fullmatch(f"(?:{re.escape(old)})".join(parts), text) is not None and at == 0


UNREADABLE = [
    b'<?xml version="1.0" encoding="iso-2022-jp"?><r/>', b'<?xml version="1.0" encoding="utf-7"?><r/>',
    b'<?xml version="1.0" encoding="no-such"?><r/>', b'<?xml version="1.0" encoding="utf-32"?><r/>',
    b'<?xml version="1.0" encoding="gbk"?><r>\xff\xff</r>', b'<?xml version="1.0" encoding="rot13"?><r/>',
    b'<?xml version="1.0" encoding="hz"?><r/>',
]  # fmt: skip


@pytest.mark.parametrize("data", UNREADABLE)
def test_an_encoding_that_is_not_edited_is_named(tmp_path: Path, data: bytes) -> None:
    """A file that cannot be read in the encoding that it states is said, never a fault, never changed."""
    contents = {**NATIVE, **{path: text.replace("HEAD", "").replace("ZZ", "c") for path, text in TEXTS.items() if path != "pubspec.yaml"}}
    root = files(
        tmp_path / "x",
        {
            **contents,
            "app/src/main/res/values/strings.xml": data.replace(b"<r>", b'<r><string name="app_name">')
            .replace(b"r/>", b"r><string name='app_name'>a</string></r>")
            .replace(b"r>", b"resources>"),
        },
    )
    before = snapshot(root)
    survey = onomaxis("survey", root, "--json")
    assert survey.code == 0 and any(item["file"].endswith("strings.xml") for item in survey.json["unresolved"])
    done = onomaxis("rename", root, "--name", "X")
    assert done.code in (2, 3) and snapshot(root) == before, done.err


def test_a_name_that_an_encoding_lacks_is_refused(tmp_path: Path) -> None:
    """A file's encoding is kept; a name that it cannot hold is refused with file and line."""
    text = TEXTS["app/src/main/res/values/strings.xml"].replace("ZZ", "é").replace("HEAD", '<?xml version="1.0" encoding="iso-8859-1"?>\n')
    contents = {path: body.replace("HEAD", "").replace("ZZ", "c") for path, body in TEXTS.items() if path.startswith("app/")}
    root = files(tmp_path / "x", {"settings.gradle": "include ':app'\n", **contents, "app/src/main/res/values/strings.xml": text.encode("latin-1")})
    before = snapshot(root)
    done = onomaxis("rename", root, "--name", "日本")
    assert done.code == 2 and "strings.xml:5" in done.err and snapshot(root) == before
    assert onomaxis("rename", root, "--name", "Größe").code == 0
    assert ET.fromstring((root / "app/src/main/res/values/strings.xml").read_bytes()).findtext("string[@name='app_name']") == "Größe"


# Where names of files are bytes, on a disk or in an archive; a compiled script has one byte a character.
_NAMES = ("writing/preview.py", "paths.py", "listing.py", "formats/binary/archive.py", "packages/opening.py")


def test_nobody_goes_around_the_view() -> None:
    """Views are made and turned back in one module; no pattern speaks of bytes above 127 but by their class."""
    for path in SOURCE.rglob("*.py"):
        text = path.read_text("utf-8")
        name = path.relative_to(SOURCE).as_posix()
        if name != "formats/source.py":
            assert "surrogateescape" not in text or name in _NAMES, name
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.Constant) and isinstance(node.value, str) and name != "paths.py":
                assert ("\\x80-\\xff" not in node.value and "latin-1" not in node.value.split()) or name in (
                    "formats/source.py",
                    "tree.py",
                    "packages/texts.py",
                ), f"{name}:{node.lineno}"
            if (
                isinstance(node, ast.Call)
                and isinstance(node.func, ast.Attribute)
                and node.func.attr in ("encode", "decode")
                and node.args
                and isinstance(node.args[0], ast.Constant)
            ):
                assert node.args[0].value not in ("latin-1", "iso-8859-1") or name == "tree.py", f"{name}:{node.lineno}"


SYNTAXES = [
    "double", "double-dollar", "single", "single-dollar", "ruby-double", "resource-script", "json", "yaml", "android-text", "xml-text", "properties",
    "template",
]  # fmt: skip


@examples(400)
@given(st.text(st.characters(exclude_categories=["Cs", "Cc"]), min_size=1, max_size=24), st.sampled_from(SYNTAXES))
def test_what_is_written_is_read(text: str, syntax: str) -> None:
    """Any text, in any syntax: what the encoder writes, the decoder reads."""
    written = encode(syntax, text)
    if syntax == "json":
        import json

        assert json.loads(f'"{written}"') == text
    elif syntax == "yaml":
        read = parse_yaml(f"a: {written}\n".encode()).get("a")
        assert read is not None and read.value == text
    elif syntax.startswith(("android", "xml")):
        inner = ET.fromstring(f"<a>{written}</a>").text or ""
        assert (decode_android(inner) if syntax.startswith("android") else inner) == text
    else:
        assert decode(syntax, written) == text


MIXED = "a\nb\tc\\e\"f'g$h &<#{i}"


@pytest.mark.parametrize(
    ("syntax", "value", "read"),
    [
        ("xml-double", MIXED + "\r", lambda text: ET.fromstring(f'<a b="{text}"/>').get("b")),
        ("xml-single", MIXED + "\r", lambda text: ET.fromstring(f"<a b='{text}'/>").get("b")),
        ("xml-text", MIXED, lambda text: ET.fromstring(f"<a>{text}</a>").text),
        ("xml-cdata", MIXED + "]]>", lambda text: ET.fromstring(f"<a><![CDATA[{text}]]></a>").text),
        ("double", MIXED + "\r", lambda text: ast.literal_eval(f'"{text}"')),
        ("double-dollar", MIXED + "\r", lambda text: ast.literal_eval(f'"{text}"'.replace("\\$", "$"))),
        ("ruby-double", MIXED + "\r", lambda text: ast.literal_eval(f'"{text}"'.replace("\\#", "#"))),
        ("single", MIXED, lambda text: ast.literal_eval(f"'{text}'")),
        ("single-dollar", MIXED + "\r", lambda text: ast.literal_eval(f"'{text}'".replace("\\$", "$"))),
        ("json", MIXED + "\r", lambda text: json.loads(f'"{text}"')),
    ],
)
def test_control_characters_are_read_back(syntax: str, value: str, read: Callable[[str], str]) -> None:
    """Line ends, tabs, quotes and what would begin something else, as a reader of somebody else's takes them."""
    assert read(encode(syntax, value)) == value
