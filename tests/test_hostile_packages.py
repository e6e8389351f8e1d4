"""Packages that are made to mislead, to hang or to fill the memory: refused in words, soon, in little memory."""

from __future__ import annotations

import io
import plistlib
import random
import struct
import subprocess
import sys
import zipfile
import zlib
from collections.abc import Callable
from functools import cache
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

import packaged
import tables
from conftest import inline
from onomaxis.errors import FormatError, InputError
from onomaxis.formats.binary.archive import Archive
from onomaxis.formats.binary.code_signature import read_code_signature
from onomaxis.formats.binary.compiled_xml import read_compiled
from onomaxis.formats.binary.resource_protos import ProtoTable, read_proto_xml
from onomaxis.formats.binary.resource_table import ResourceTable
from onomaxis.formats.binary.signatures import read_message, signers_of
from onomaxis.packages.opening import open_package

pytestmark = pytest.mark.faults
MANIFEST_NAME, TABLE_NAME = "AndroidManifest.xml", "resources.arsc"


def manifest(*attributes: tuple[str, int, int, int], nested: int = 1) -> bytes:
    return tables.compiled("manifest", attributes or (("versionCode", 0x0101021B, tables.DECIMAL, 7),), nested=nested)


@cache
def plain_apk() -> bytes:
    types = [tables.type_chunk(1, {0: tables.entry(0, tables.STRING, 0)}, 1, tables.config(locale)) for locale in ("", "de")]
    return packaged.archive({MANIFEST_NAME: manifest(), TABLE_NAME: tables.table(["Tools"], ["string"], ["app_name"], types), "classes.dex": packaged.dex("a")})


def patched(data: bytes, at: int, form: str, *values: int) -> bytes:
    out = bytearray(data)
    struct.pack_into(form, out, at % len(out), *values)
    return bytes(out)


def central(data: bytes) -> int:
    return struct.unpack_from("<I", data, data.rindex(b"PK\x05\x06") + 16)[0]


def zeros(size: int) -> bytes:
    """Return a deflated run of zeros, made in parts."""
    engine = zlib.compressobj(9, zlib.DEFLATED, -15)
    return b"".join(engine.compress(bytes(1 << 20)) for _ in range(size >> 20)) + engine.flush()


def raw_archive(name: bytes, packed: bytes, size: int, crc: int = 0, method: int = 8) -> bytes:
    """Return an archive of one entry, of which the directory says whatever is asked."""
    local = struct.pack("<4s5H3I2H", b"PK\3\4", 20, 0, method, 0, 0, crc, len(packed), size, len(name), 0) + name + packed
    entry = struct.pack("<4s6H3I5H2I", b"PK\1\2", 20, 20, 0, method, 0, 0, crc, len(packed), size, len(name), 0, 0, 0, 0, 0, 0) + name
    return local + entry + struct.pack("<4s4H2IH", b"PK\5\6", 0, 0, 1, 1, len(entry), len(local), 0)


def many_that_grow() -> bytes:
    """Return an archive of entries each of which is not large: all of them would fill a disk."""
    stream, locals_, directory = zeros(40 << 20), b"", b""
    for number in range(60):
        name = f"assets/{number}".encode()
        offset = len(locals_)
        locals_ += struct.pack("<4s5H3I2H", b"PK\3\4", 20, 0, 8, 0, 0, 0, len(stream), 40 << 20, len(name), 0) + name + stream
        directory += struct.pack("<4s6H3I5H2I", b"PK\1\2", 20, 20, 0, 8, 0, 0, 0, len(stream), 40 << 20, len(name), 0, 0, 0, 0, 0, offset) + name
    return locals_ + directory + struct.pack("<4s4H2IH", b"PK\5\6", 0, 0, 60, 60, len(directory), len(locals_), 0)


def doubled() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made, pytest.warns(UserWarning):
        made.writestr(MANIFEST_NAME, manifest())
        made.writestr(MANIFEST_NAME, manifest())
    return out.getvalue()


def overlapping() -> bytes:
    data = packaged.archive({MANIFEST_NAME: manifest(), "a": b"a" * 100, "b": b"b" * 100}, 0)
    start = central(data)
    second = data.index(b"PK\1\2", start + 4)
    third = data.index(b"PK\1\2", second + 4)
    return patched(data, third + 42, "<I", struct.unpack_from("<I", data, second + 42)[0])


def many(count: int) -> bytes:
    data = plain_apk()
    return patched(patched(data, data.rindex(b"PK\5\6") + 8, "<HH", 0xFFFF, 0xFFFF), 0, "<B", data[0]) + b"" if count < 0 else wide(data, count)


def wide(data: bytes, count: int) -> bytes:
    """Return an archive with a 64-bit directory that claims *count* entries."""
    start, end = central(data), data.rindex(b"PK\5\6")
    record = struct.pack("<4sQHHIIQQQQ", b"PK\6\6", 44, 45, 45, 0, 0, count, count, end - start, start)
    return data[:end] + record + struct.pack("<4sIQI", b"PK\6\7", 0, end, 1) + data[end:]


def looping_table() -> bytes:
    """Return an APK whose label leads in a circle, through every number there is."""
    entries = {number: tables.entry(number, tables.REFERENCE, 0x7F010000 | (number + 1) % 60000) for number in range(60000)}
    return packaged.archive(
        {
            MANIFEST_NAME: labelled(0x7F010000),
            TABLE_NAME: tables.table(["x"], ["string"], [f"k{n}" for n in range(60000)], [tables.type_chunk(1, entries, 60000, tables.config())]),
        }
    )


def labelled(reference: int) -> bytes:
    """Return a manifest whose label and icons are references."""
    names = (("label", 0x01010001), ("icon", 0x01010002), ("roundIcon", 0x0101052C))
    attributes = [(name, identifier, tables.REFERENCE, reference) for name, identifier in names]
    return tables.document(("manifest", [], [("application", attributes, [])]))


def branching_icons() -> bytes:
    """Return an APK whose icon leads to twenty icons, each of which leads to twenty more, without end."""
    types = [
        tables.type_chunk(1, {n: tables.entry(n, tables.REFERENCE, 0x7F010000 | (n + 1) % 40) for n in range(40)}, 40, tables.config(density=density))
        for density in range(100, 120)
    ]
    return packaged.archive({MANIFEST_NAME: labelled(0x7F010000), TABLE_NAME: tables.table(["x"], ["mipmap"], [f"k{n}" for n in range(40)], types)})


def deep_proto(depth: int) -> bytes:
    node = b"\x1a\x01a"
    for _ in range(depth):
        inner = b"\x0a" + varint(len(node)) + node
        node = b"\x1a\x01a\x2a" + varint(len(inner)) + inner
    return b"\x0a" + varint(len(node)) + node


def varint(value: int) -> bytes:
    out = b""
    while value > 0x7F:
        out += bytes([value & 0x7F | 0x80])
        value >>= 7
    return out + bytes([value])


def deep_plist(depth: int) -> bytes:
    return b'<?xml version="1.0"?><plist><dict><key>a</key>' + b"<array>" * depth + b"</array>" * depth + b"</dict></plist>"


BILLION = b'<?xml version="1.0"?><!DOCTYPE p [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><plist><dict><key>CFBundleIdentifier</key><string>&b;</string></dict></plist>'
ROOT = "Payload/Runner.app/"


def ipa(**changes: bytes) -> bytes:
    files = packaged.app_files(ROOT)
    return packaged.archive({**files, **{f"{ROOT}{name}": data for name, data in changes.items()}})


def mach(*numbers: int, form: str = "<8I") -> bytes:
    return struct.pack(form, *numbers).ljust(64, b"\0")


def nested_sets() -> bytes:
    inner = packaged.archive({"splits/base.apk": plain_apk()})
    return packaged.archive({"splits/base-master.apk": packaged.archive({"base-master.apk": inner})})


HOSTILE: dict[str, Callable[[], bytes]] = {
    "empty archive": lambda: packaged.archive({}),
    "a manifest of ten gigabytes": lambda: raw_archive(MANIFEST_NAME.encode(), zeros(64 << 20), 0xFFFFFFFE),
    "a manifest that grows beyond what is listed": lambda: raw_archive(MANIFEST_NAME.encode(), b"\3\0\x08\0" and zeros(64 << 20), 1000),
    "an entry beside it that grows": lambda: packaged.archive({MANIFEST_NAME: manifest(), "assets/a": bytes(64 << 20)}),
    "many entries that grow": many_that_grow,
    "doubled entries": doubled,
    "overlapping entries": overlapping,
    "a name with dots": lambda: packaged.archive({MANIFEST_NAME: manifest(), "../../etc/passwd": b"x"}),
    "an absolute name": lambda: packaged.archive({MANIFEST_NAME: manifest(), "/etc/passwd": b"x"}),
    "a name with a drive": lambda: packaged.archive({MANIFEST_NAME: manifest(), "C:/x": b"x"}),
    "a backward name": lambda: packaged.archive({MANIFEST_NAME: manifest(), "a\\..\\b": b"x"}),
    "four billion entries": lambda: wide(plain_apk(), 0xFFFFFFFF),
    "a directory beyond the end": lambda: patched(plain_apk(), plain_apk().rindex(b"PK\5\6") + 16, "<I", 0x7FFFFFFF),
    "an entry beyond the end": lambda: patched(plain_apk(), central(plain_apk()) + 42, "<I", 0x7FFFFFFF),
    "an unknown packing": lambda: patched(plain_apk(), central(plain_apk()) + 10, "<H", 97),
    "an encrypted entry": lambda: patched(plain_apk(), central(plain_apk()) + 8, "<H", 1),
    "a wrong checksum": lambda: patched(plain_apk(), central(plain_apk()) + 16, "<I", 1),
    "sets in sets": nested_sets,
    "a thousand splits": lambda: packaged.archive({f"splits/s{number}.apk": b"PK\5\6" + bytes(18) for number in range(1000)}),
    "two bases": lambda: packaged.archive({"splits/a.apk": plain_apk(), "splits/b.apk": plain_apk()}, 0),
    "a manifest of no elements": lambda: packaged.archive({MANIFEST_NAME: tables.chunk(3, b"", tables.pool(["a"]))}),
    "a manifest that nests without end": lambda: packaged.archive({MANIFEST_NAME: manifest(nested=100_000)}),
    "a chunk of no size": lambda: packaged.archive({MANIFEST_NAME: patched(manifest(), 12, "<I", 0)}),
    "a pool that counts wrong": lambda: packaged.archive({MANIFEST_NAME: patched(manifest(), 16, "<I", 0x40000000)}),
    "a cut manifest": lambda: packaged.archive({MANIFEST_NAME: manifest()[:-30]}),
    "a cut table": lambda: packaged.archive({MANIFEST_NAME: manifest(), TABLE_NAME: tables.table(["a"], ["b"], ["c"], [])[:-30]}),
    "a table of chunks of eight bytes": lambda: packaged.archive(
        {MANIFEST_NAME: manifest(), TABLE_NAME: tables.chunk(2, struct.pack("<I", 1), tables.chunk(9, b"", b"") * 400_000)}
    ),
    "a bundle that nests without end": lambda: packaged.archive({"base/manifest/AndroidManifest.xml": deep_proto(5000)}),
    "a bundle of nothing": lambda: packaged.archive({"base/manifest/AndroidManifest.xml": b""}),
    "a bundle with a cut field": lambda: packaged.archive({"base/manifest/AndroidManifest.xml": b"\x0a\xff\xff\xff\xff\x0f"}),
    "a bundle with an endless number": lambda: packaged.archive({"base/manifest/AndroidManifest.xml": b"\x08" + b"\xff" * 1000}),
    "a list that nests without end": lambda: ipa(**{"Info.plist": deep_plist(100_000)}),
    "a list with entities": lambda: ipa(**{"Info.plist": BILLION}),
    "a cut list": lambda: ipa(**{"Info.plist": plistlib.dumps({"a": "b"}, fmt=plistlib.FMT_BINARY)[:-10]}),
    "a list that counts wrong": lambda: ipa(**{"Info.plist": plistlib.dumps({"a": "b"}, fmt=plistlib.FMT_BINARY)[:-24] + struct.pack(">QQQ", 1 << 60, 0, 8)}),
    "a list of no table": lambda: ipa(**{"Info.plist": plistlib.dumps(["a"])}),
    "a profile of noise": lambda: ipa(**{"embedded.mobileprovision": random.Random(1).randbytes(5000)}),
    "a profile that nests without end": lambda: ipa(**{"embedded.mobileprovision": b"\x30\x80" * 50_000}),
    "a program of a billion commands": lambda: ipa(Runner=mach(0xFEEDFACF, 0, 0, 2, 0x3FFFFFFF, 16, 0, 0)),
    "a program of a billion architectures": lambda: ipa(Runner=mach(0xCAFEBABE, 0x3FFFFFFF, form=">2I")),
    "a command of no size": lambda: ipa(Runner=mach(0xFEEDFACF, 0, 0, 2, 9, 16, 0, 0)),
    "a signature beyond the end": lambda: ipa(Runner=mach(0xFEEDFACF, 0, 0, 2, 1, 16, 0, 0, 0x1D, 16, 0x7FFFFFFF, 64, form="<12I")),
    "a signature of four gigabytes": lambda: ipa(Runner=mach(0xFEEDFACF, 0, 0, 2, 1, 16, 0, 0, 0x1D, 16, 32, 0xFFFFFFF0, form="<12I")),
}
# What is odd and yet a package: read, and nothing more.
ODD: dict[str, Callable[[], bytes]] = {
    "references in a circle": looping_table,
    "icons that branch without end": branching_icons,
    "a picture that claims to be huge": lambda: ipa(**{"AppIcon60x60@2x.png": patched(packaged.picture(48), 16, ">II", 0x7FFFFFFF, 0x7FFFFFFF)}),
    "a picture of nothing": lambda: ipa(**{"AppIcon60x60@2x.png": b"\x89PNG\r\n\x1a\n" + bytes(9)}),
}


@pytest.fixture(scope="module", autouse=True)
def printed() -> None:
    print()


@pytest.mark.parametrize("name", HOSTILE)
def test_what_is_hostile_is_refused_in_words(tmp_path: Path, name: str) -> None:
    path = tmp_path / "app.apk"
    path.write_bytes(HOSTILE[name]())
    done = inline("inspect", path)
    assert done.code == 2 and "app.apk" in done.err and "fault" not in done.err, (name, done.out, done.err)


@pytest.mark.parametrize("name", ODD)
def test_what_is_odd_is_read(tmp_path: Path, name: str) -> None:
    path = tmp_path / "app.apk"
    path.write_bytes(ODD[name]())
    done = inline("inspect", path)
    assert done.code in (0, 2) and "fault" not in done.err, done.err


def test_the_costly_ones_stay_small_and_soon_end(tmp_path: Path) -> None:
    """One process for all of them: what it took at most is that of the worst."""
    for number, make in enumerate([*HOSTILE.values(), *ODD.values()]):
        (tmp_path / f"{number}.apk").write_bytes(make())
    script = f"""
import re, resource, time
from pathlib import Path
resource.setrlimit(resource.RLIMIT_CPU, (60, 60))  # a stop for what would hang
from onomaxis.errors import InputError
from onomaxis.packages.opening import open_package
worst = 0.0
for path in sorted(Path({str(tmp_path)!r}).glob("*.apk")):
    begin = time.process_time()
    try:
        open_package(str(path))
    except InputError:
        pass
    worst = max(worst, time.process_time() - begin)
# Of this program alone: what a process was before it began the program counts for ru_maxrss too.
print(worst, int(re.search(r"VmHWM:\\s+(\\d+)", Path("/proc/self/status").read_text())[1]) // 1024)
"""
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True)
    seconds, megabytes = done.stdout.split()
    print(f"worst of {len(HOSTILE) + len(ODD)}: {seconds} s, {megabytes} MB")
    assert float(seconds) < 10 and int(megabytes) < 300


@cache
def right_packages() -> tuple[bytes, ...]:
    return (
        plain_apk(),
        packaged.archive(packaged.app_files()),
        packaged.archive({"base/manifest/AndroidManifest.xml": deep_proto(3), "base/resources.pb": b"\x12\x02\x0a\x00"}),
    )


@given(st.data())
def test_packages_with_bytes_gone_wrong_are_read_or_refused(tmp_path_factory: pytest.TempPathFactory, data: st.DataObject) -> None:
    whole = bytearray(data.draw(st.sampled_from(right_packages())))
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(whole) - 1))
        whole[at] = data.draw(st.sampled_from([0, 1, 0x7F, 0x80, 0xFF, whole[at] ^ 1]))
    cut = data.draw(st.one_of(st.just(len(whole)), st.integers(0, len(whole))))
    path = tmp_path_factory.getbasetemp() / "mutant.apk"
    path.write_bytes(bytes(whole[:cut]))
    try:
        assert open_package(str(path)).path
    except InputError as error:
        assert error.message


READERS: dict[str, tuple[Callable[[bytes], object], bytes]] = {
    "compiled XML": (read_compiled, manifest()),
    "table": (lambda data: [ResourceTable(data).values(0x7F010000), ResourceTable(data).named("string", frozenset({"k"}))], tables.table(["a", "b"], ["string"], ["k"], [tables.type_chunk(1, {0: tables.entry(0, 3, 1)}, 1, tables.config("de"))])),
    "bundle's XML": (read_proto_xml, deep_proto(4)),
    "bundle's table": (lambda data: ProtoTable(data).values(0x7F010000), b"\x12\x0a\x0a\x02\x08\x7f\x1a\x04\x0a\x02\x08\x01"),
    "code signature": (lambda data: read_code_signature(lambda at, count: data[at : at + count]), packaged.executable({"a": True})),
    "archive": (lambda data: signers_of(Archive(data)), plain_apk()),
    "message": (lambda data: read_message(data, "m"), b"\x30\x0b\x06\x09\x2a\x86\x48\x86\xf7\x0d\x01\x07\x02"),
}  # fmt: skip


@pytest.mark.parametrize("name", READERS)
@given(st.data())
def test_readers_raise_nothing_but_their_own_error(name: str, data: st.DataObject) -> None:
    read, right = READERS[name]
    body = bytearray(data.draw(st.one_of(st.just(right), st.binary(max_size=200))))
    for _ in range(data.draw(st.integers(0, 8))) if body else ():
        body[data.draw(st.integers(0, len(body) - 1))] = data.draw(st.integers(0, 255))
    try:
        read(bytes(body))
    except FormatError as error:
        assert error.message
