"""Small readers, each against a writer that knows nothing of it: typed values, pictures, colours, lists, keystores."""

from __future__ import annotations

import hashlib
import io
import plistlib
import struct

import pytest
from PIL import Image

from onomaxis.errors import FormatError
from onomaxis.formats.binary import values
from onomaxis.formats.binary.picture import Picture, measure
from onomaxis.formats.binary.plist import read_any_plist
from onomaxis.formats.binary.values import Typed
from onomaxis.formats.color import channels
from onomaxis.formats.keystore import WrongPasswordError, read_keystore
from onomaxis.formats.plist import parse_plist
from onomaxis.formats.properties import parse_properties

# Complex numbers: mantissa << 8 | radix << 4 | unit (ResourceTypes.h, COMPLEX_*).
SHOWN = [
    (Typed(values.STRING, 0, "Lendspan"), "Lendspan"), (Typed(values.DECIMAL, 41), "41"), (Typed(values.DECIMAL, 0xFFFFFFFF), "-1"),
    (Typed(values.HEXADECIMAL, 255), "0xff"), (Typed(values.BOOLEAN, 0xFFFFFFFF), "true"), (Typed(values.BOOLEAN, 0), "false"),
    (Typed(0x1C, 0xFF336699), "#ff336699"), (Typed(values.FLOAT, struct.unpack("<I", struct.pack("<f", 1.5))[0]), "1.5"),
    (Typed(values.DIMENSION, 16 << 8 | 1), "16dp"), (Typed(values.DIMENSION, 0xFFFFF0 << 8 | 2), "-16sp"),
    (Typed(values.DIMENSION, 192 << 8 | 1 << 4 | 0), "1.5px"), (Typed(values.DIMENSION, 1 << 8 | 9), "1"),
    (Typed(values.FRACTION, 64 << 8 | 1 << 4), "50%"), (Typed(values.FRACTION, 64 << 8 | 1 << 4 | 1), "50%p"),
    (Typed(values.REFERENCE, 0x7F010001), None), (Typed(values.ATTRIBUTE, 1), None), (Typed(0, 0), None),
]  # fmt: skip


@pytest.mark.parametrize(("value", "shown"), SHOWN)
def test_typed_values_are_shown_as_the_platform_means_them(value: Typed, shown: str | None) -> None:
    assert value.shown() == shown
    assert value.refers is (value.kind == values.REFERENCE)


def drawn(mode: str, size: tuple[int, int], form: str, **options: object) -> bytes:
    out = io.BytesIO()
    Image.new(mode, size, (10, 20, 30, 40)[: len(mode)] if mode != "P" else 0).save(out, form, **options)  # type: ignore[arg-type]
    return out.getvalue()


FORMS = {
    "png": (("RGB", "PNG", {}), False),
    "png with alpha": (("RGBA", "PNG", {}), True),
    "png of a palette": (("P", "PNG", {}), False),
    "png of a clear palette": (("P", "PNG", {"transparency": 0}), True),
    "webp": (("RGB", "WEBP", {}), False),
    "webp with alpha": (("RGBA", "WEBP", {}), True),
    "webp without loss": (("RGB", "WEBP", {"lossless": True}), False),
    "webp without loss, with alpha": (("RGBA", "WEBP", {"lossless": True}), True),
    "jpeg": (("RGB", "JPEG", {}), False),
    "jpeg in steps": (("RGB", "JPEG", {"progressive": True}), False),
    "gif": (("P", "GIF", {}), False),
}


@pytest.mark.parametrize("size", [(1, 1), (48, 48), (1024, 500), (3, 700)])
@pytest.mark.parametrize("form", FORMS)
def test_pictures_are_measured_by_their_first_bytes(form: str, size: tuple[int, int]) -> None:
    (mode, kind, options), alpha = FORMS[form]
    data = drawn(mode, size, kind, **options)
    assert measure(data) == Picture(*size, alpha)
    for end in range(0, min(len(data), 64)):  # a file that ends early is not a picture, or as large as it says
        assert measure(data[:end]) in (None, Picture(*size, alpha), Picture(*size, False))


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"text",
        b"RIFF\0\0\0\0WEBPVP9 " + bytes(30),
        b"\xff\xd8\x00\xe0\x00\x04",
        b"\xff\xd8\xff\xe0\x00\x01",
        b"\x89PNG\r\n\x1a\n",
        b"GIF89a",
        b"\xff\xd8" + b"\xff\xe0\x00\x02" * 2000,
    ],
)
def test_what_is_no_picture_has_no_size(data: bytes) -> None:
    assert measure(data) is None


@pytest.mark.parametrize(
    ("text", "wanted"),
    [("#369", (0x33, 0x66, 0x99, 255)), ("#369c", (0x66, 0x99, 0xCC, 0x33)), ("336699", (0x33, 0x66, 0x99, 255)), ("#80336699", (0x33, 0x66, 0x99, 0x80))],
)
def test_colors(text: str, wanted: tuple[int, int, int, int]) -> None:
    assert channels(text) == wanted


def test_lists_of_every_form_and_those_that_are_none() -> None:
    table = {"CFBundleName": "Möwe", "List": ["a", {"b": "c"}]}
    for data in (
        plistlib.dumps(table),
        plistlib.dumps(table, fmt=plistlib.FMT_BINARY),
        '{ CFBundleName = "Möwe"; List = (a, { b = c; }); }'.encode(),
        b'"CFBundleName" = "M\xc3\xb6we";\n"List" = (a, { b = c; });\n',
    ):
        assert read_any_plist(data, "Info.plist") == table
    deep: object = "x"
    for _ in range(70):
        deep = [deep]
    wide = {"a": [[[["x"] * 60] * 60] * 60] * 60}
    broken = [
        bytes(17 * 1024 * 1024),
        plistlib.dumps(["a"]),
        b"<?xml version='1.0'?><plist><dict>",
        b"<?xml version='1.0'?><plist><dict><key>a</key><date>never</date></dict></plist>",
        b"bplist00\0\0",
        b"{ a = ",
        plistlib.dumps({"a": deep}),
        plistlib.dumps(wide, fmt=plistlib.FMT_BINARY),
    ]
    for data in broken:
        with pytest.raises(FormatError, match=r"Info\.plist: "):
            read_any_plist(data, "Info.plist")


@pytest.mark.parametrize("text", ["", "a=1", "a=1\n", "a = 1\n", "# only\n", "a=1\r\n", "a: b\\\n c\n", "\n\n=x\n"])
def test_a_new_entry_of_a_properties_file_is_read_back(text: str) -> None:
    parsed = parse_properties(text.encode())
    at, before, after = parsed.opening("app.id")
    made = parse_properties(f"{text[:at] if text.isascii() else text}{before}org.lendspan{after}".encode())
    found = made.get("app.id")
    assert found is not None and found.value == "org.lendspan"
    assert [(e.key, e.value) for e in made.entries][:-1] == [(e.key, e.value) for e in parsed.entries]


def test_a_list_in_xml_yields_strings_and_keys_and_takes_a_new_key_in_order() -> None:
    head = '<?xml version="1.0"?>\n<plist version="1.0">\n'
    text = f"{head}<dict>\n\t<key>A</key>\n\t<array>\n\t\t<string>one</string>\n\t\t<string></string>\n\t\t<true/>\n\t</array>\n\t<key>C</key>\n\t<string><![CDATA[two]]></string>\n</dict>\n</plist>\n"
    parsed = parse_plist(text.encode())
    assert [(item.path, item.value) for item in parsed.strings() if item.value] == [(("A", "0"), "one"), (("C",), "two")]
    assert [element.text for _, element in list(parsed.keys())] == ["A", "C"]
    assert parsed.string("A", "0") is None and parsed.string("A") is None and parsed.string("X") is None
    for source, key in (
        (text, "B"),
        (text, "D"),
        (f"{head}<dict>\n</dict>\n</plist>\n", "K"),
        (f"{head}<dict></dict>\n</plist>\n", "K"),
        (f"{head}<dict/>\n</plist>\n", "K"),
    ):
        before = plistlib.loads(source.encode())
        start, end, left, right = parse_plist(source.encode()).opening(key)
        after = plistlib.loads(f"{source[:start]}{left}new{right}{source[end:]}".encode())
        assert after == {**before, key: "new"} and sorted(after) == list(after)
    with pytest.raises(FormatError, match="not a property list"):
        parse_plist(f"{head}<string>x</string>\n</plist>\n".encode())


def java(version: int, entries: list[tuple[int, str, bytes]], password: str = "secret") -> bytes:
    """Write a Java keystore as ``sun.security.provider.JavaKeyStore`` does; a tag of 1 has a key, of 3 has an empty chain."""
    name = lambda text: struct.pack(">H", len(text.encode())) + text.encode()  # noqa: E731  # a helper of one line
    certificate = lambda der: (name("X.509") if version == 2 else b"") + struct.pack(">I", len(der)) + der  # noqa: E731
    body = struct.pack(">III", 0xFEEDFEED, version, len(entries))
    for tag, alias, der in entries:
        body += struct.pack(">I", 1 if tag == 3 else tag) + name(alias) + bytes(8)
        body += struct.pack(">I", 2) + b"kk" if tag in (1, 3) else b""
        body += struct.pack(">I", tag == 1) if tag in (1, 3) else b""
        body += certificate(der) if tag in (1, 2) else b""
    return body + hashlib.sha1(password.encode("utf-16-be") + b"Mighty Aphrodite" + body).digest()


@pytest.mark.parametrize("version", [1, 2])
def test_keystores_in_java_form(version: int) -> None:
    data = java(version, [(1, "upload", b"cert-one"), (2, "trusted", b"cert-two"), (3, "empty", b"")])
    assert [(item.alias, item.der, item.signs) for item in read_keystore(data, "secret")] == [("upload", b"cert-one", True), ("trusted", b"cert-two", False)]
    with pytest.raises(WrongPasswordError):
        read_keystore(data, "other")


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (java(3, []), "version 3"),
        (java(2, [(9, "odd", b"")]), "unknown kind 9"),
        (struct.pack(">I", 0xCECECECE) + bytes(30), "JCEKS"),
        (b"\x30\x82nonsense", "cannot be read"),
        (b"text", "neither"),
        (b"", "neither"),
    ],
)
def test_what_no_keystore_holds_is_refused(data: bytes, said: str) -> None:
    with pytest.raises(FormatError, match=said):
        read_keystore(data, "secret")
