"""Packages made by the platforms' own tools, and by plain writers where there is none: they know nothing of the readers."""

from __future__ import annotations

import functools
import hashlib
import io
import os
import plistlib
import shutil
import struct
import subprocess
import tempfile
import zipfile
import zlib
from collections.abc import Mapping, Sequence
from pathlib import Path

import pytest
from PIL import Image

FRAMEWORK = Path("/usr/share/android-framework-res/framework-res.apk")
ANDROID = 'xmlns:android="http://schemas.android.com/apk/res/android"'
PASSWORD = "lendspan"

# In CI nothing is skipped: there a missing tool is a fault.
_SKIPS = not os.environ.get("ONOMAXIS_NO_SKIP")
needs_aapt = pytest.mark.skipif(_SKIPS and not (shutil.which("aapt2") and FRAMEWORK.exists()), reason="aapt2 is not installed")
needs_signer = pytest.mark.skipif(_SKIPS and not (shutil.which("apksigner") and shutil.which("keytool")), reason="apksigner is not installed")


def run(*words: object) -> str:
    done = subprocess.run([str(word) for word in words], capture_output=True, text=True, check=False)
    assert done.returncode == 0, f"{words}\n{done.stdout}{done.stderr}"
    return done.stdout


@functools.cache
def picture(size: int, mode: str = "RGB", seed: int = 1) -> bytes:
    out = io.BytesIO()
    image = Image.new(mode, (size, size), (40 * seed % 255, 90, 60, 128)[: len(mode)])
    image.putpixel((0, 0), (255, 255, 255, 0)[: len(mode)])
    image.save(out, "PNG")
    return out.getvalue()


def dex(*texts: str) -> bytes:
    """Return a dex file that holds nothing but strings."""
    encoded = [len(text).to_bytes(1, "little") + text.encode() + b"\0" for text in sorted(texts)]
    assert all(len(text) < 128 for text in texts)
    offsets, at = [], 0x70 + 4 * len(encoded)
    for item in encoded:
        offsets.append(at)
        at += len(item)
    body = struct.pack(f"<{len(offsets)}I", *offsets) + b"".join(encoded)
    size = 0x70 + len(body)
    fields = [size, 0x70, 0x12345678, 0, 0, 0, len(encoded), 0x70, *[0] * 10, len(body), 0x70]
    rest = struct.pack("<20I", *fields) + body
    signed = hashlib.sha1(rest).digest() + rest
    return b"dex\n035\0" + struct.pack("<I", zlib.adler32(signed)) + signed


def manifest(
    package: str = "org.lendspan.alderbank",
    code: str = "7",
    name: str = "2.4.0",
    levels: tuple[int, int] = (24, 35),
    application: str = "",
    inside: str = "",
    before: str = "",
) -> str:
    return f"""<?xml version="1.0" encoding="utf-8"?>
<manifest {ANDROID} package="{package}" android:versionCode="{code}" android:versionName="{name}">
  <uses-sdk android:minSdkVersion="{levels[0]}" android:targetSdkVersion="{levels[1]}"/>
  {before}
  <application {application or 'android:label="@string/app_name" android:icon="@mipmap/ic_launcher"'}>{inside}</application>
</manifest>
"""


def strings(**texts: str) -> str:
    return "<resources>" + "".join(f'<string name="{name}">{text}</string>' for name, text in texts.items()) + "</resources>"


RESOURCES: Mapping[str, str | bytes] = {
    "values/strings.xml": strings(app_name="Alderbank Tools"),
    "mipmap-mdpi/ic_launcher.png": picture(48),
    "mipmap-xxhdpi/ic_launcher.png": picture(144),
}


def linked(text: str, resources: Mapping[str, str | bytes] = RESOURCES, options: Sequence[str] = ()) -> bytes:
    """Return what aapt2 links: an APK without code."""
    return _linked(text, tuple(resources.items()), tuple(options))


@functools.cache
def _linked(text: str, resources: tuple[tuple[str, str | bytes], ...], options: tuple[str, ...]) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        return _made(Path(folder), text, resources, options)


def _made(folder: Path, text: str, resources: tuple[tuple[str, str | bytes], ...], options: tuple[str, ...]) -> bytes:
    source, out = folder / "source", folder / "linked.apk"
    for name, data in resources:
        path = source / "res" / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data.encode() if isinstance(data, str) else data)
    (source / "AndroidManifest.xml").write_text(text, "utf-8")
    run("aapt2", "compile", "--no-crunch", "--dir", source / "res", "-o", folder / "compiled.zip")
    run(
        "aapt2",
        "link",
        "-o",
        out,
        "-I",
        FRAMEWORK,
        "--warn-manifest-validation",
        "--manifest",
        source / "AndroidManifest.xml",
        *options,
        folder / "compiled.zip",
    )
    return out.read_bytes()


def with_entries(data: bytes, entries: Mapping[str, bytes], renamed: Mapping[str, str] | None = None, lead: str = "") -> bytes:
    """Return an archive with further entries; some are called otherwise, all may go below a folder."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for info in old.infolist():
            name = lead + (renamed or {}).get(info.filename, info.filename)
            new.writestr(name, old.read(info), zipfile.ZIP_STORED if info.filename == "resources.arsc" else zipfile.ZIP_DEFLATED)
        for name, body in entries.items():
            new.writestr(lead + name, body, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def archive(entries: Mapping[str, bytes], method: int = zipfile.ZIP_DEFLATED) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as made:
        for name, data in entries.items():
            made.writestr(name, data)
    return out.getvalue()


def make_apk(
    folder: Path,
    text: str = "",
    resources: Mapping[str, str | bytes] = RESOURCES,
    options: Sequence[str] = (),
    entries: Mapping[str, bytes] | None = None,
    name: str = "app.apk",
) -> Path:
    path = folder / name
    path.write_bytes(with_entries(linked(text or manifest(), resources, options), {"classes.dex": dex("Lorg/lendspan/app/Main;"), **(entries or {})}))
    return path


def make_bundle(
    folder: Path, text: str = "", resources: Mapping[str, str | bytes] = RESOURCES, entries: Mapping[str, bytes] | None = None, name: str = "app.aab"
) -> Path:
    data = linked(text or manifest(), resources, ["--proto-format"])
    path = folder / name
    inner = with_entries(
        data, {"dex/classes.dex": dex("Lorg/lendspan/app/Main;"), **(entries or {})}, {"AndroidManifest.xml": "manifest/AndroidManifest.xml"}, "base/"
    )
    path.write_bytes(with_entries(inner, {"BundleConfig.pb": b"\x0a\x08\x12\x061.18.2"}))
    return path


def keystore(
    folder: Path, alias: str = "upload", owner: str = "Lendspan Release", algorithm: Sequence[str] = ("-keyalg", "EC", "-groupname", "secp256r1")
) -> Path:
    path = folder / f"{alias}.p12"
    path.write_bytes(_keystore(alias, owner, tuple(algorithm)))
    return path


@functools.cache
def _keystore(alias: str, owner: str, algorithm: tuple[str, ...]) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "x.p12"
        run(
            "keytool",
            "-genkeypair",
            "-keystore",
            path,
            "-storetype",
            "PKCS12",
            "-storepass",
            PASSWORD,
            "-alias",
            alias,
            "-dname",
            f"CN={owner}, O=Lendspan",
            *algorithm,
            "-validity",
            "9000",
        )
        return path.read_bytes()


def sign(apk: Path, store: Path, *options: object) -> Path:
    out = apk.with_name(f"signed-{apk.name}")
    run("apksigner", "sign", "--ks", store, "--ks-pass", f"pass:{PASSWORD}", *options, "--out", out, apk)
    return out


# -- Apple


def executable(entitlements: Mapping[str, object] | None, message: bytes = b"", wide: bool = True) -> bytes:
    """Return the outline of a Mach-O file: a header, one load command, the code signature."""
    if entitlements is None:
        return struct.pack("<IIIIIII", 0xFEEDFACF, 0x0100000C, 0, 2, 0, 0, 0) + bytes(4)
    blobs = [(5, struct.pack(">II", 0xFADE7171, 8 + len(body := plistlib.dumps(dict(entitlements)))) + body)]
    if message:
        blobs.append((0x10000, struct.pack(">II", 0xFADE0B01, 8 + len(message)) + message))
    at, index, data = 12 + 8 * len(blobs), b"", b""
    for kind, blob in blobs:
        index += struct.pack(">II", kind, at + len(data))
        data += blob
    signature = struct.pack(">III", 0xFADE0CC0, at + len(data), len(blobs)) + index + data
    header = struct.pack("<IIIIIIII", 0xFEEDFACF, 0x0100000C, 0, 2, 1, 16, 0, 0)
    offset = 4096
    command = struct.pack("<IIII", 0x1D, 16, offset, len(signature))
    return (header + command).ljust(offset, b"\0") + signature


def profile(folder: Path, **keys: object) -> bytes:
    """Return a provisioning profile: a property list signed by openssl."""
    body, out = folder / "profile.plist", folder / "profile.cms"
    body.write_bytes(plistlib.dumps(keys))
    key, cert = signer(folder)
    run("openssl", "cms", "-sign", "-nodetach", "-binary", "-outform", "DER", "-in", body, "-signer", cert, "-inkey", key, "-out", out)
    return out.read_bytes()


def signer(folder: Path, owner: str = "Apple Distribution: Lendspan (LEND234567)") -> tuple[Path, Path]:
    key, cert = folder / "apple.key", folder / "apple.pem"
    for path, data in zip((key, cert), _signer(owner), strict=True):
        path.write_bytes(data)
    return key, cert


@functools.cache
def _signer(owner: str) -> tuple[bytes, bytes]:
    with tempfile.TemporaryDirectory() as folder:
        key, cert = Path(folder) / "key", Path(folder) / "pem"
        run("openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "9000", "-subj", f"/CN={owner}/O=Lendspan", "-keyout", key, "-out", cert)
        return key.read_bytes(), cert.read_bytes()


INFO: Mapping[str, object] = {
    "CFBundleIdentifier": "org.lendspan.alderbank",
    "CFBundleName": "Alderbank",
    "CFBundleDisplayName": "Alderbank Tools",
    "CFBundleExecutable": "Runner",
    "CFBundleShortVersionString": "2.4.0",
    "CFBundleVersion": "7",
    "MinimumOSVersion": "15.0",
    "DTPlatformVersion": "18.2",
    "CFBundleSupportedPlatforms": ["iPhoneOS"],
    "CFBundleIcons": {"CFBundlePrimaryIcon": {"CFBundleIconFiles": ["AppIcon60x60"], "CFBundleIconName": "AppIcon"}},
    "CFBundleURLTypes": [{"CFBundleURLSchemes": ["alderbank"]}],
    "NSCameraUsageDescription": "To scan the code of a tool",
}


def app_files(
    root: str = "Payload/Runner.app/",
    info: Mapping[str, object] | None = None,
    entitlements: Mapping[str, object] | None = None,
    form: plistlib.PlistFormat = plistlib.FMT_BINARY,
) -> dict[str, bytes]:
    table = {**INFO, **(info or {})}
    return {
        f"{root}Info.plist": plistlib.dumps({key: value for key, value in table.items() if value is not None}, fmt=form),
        f"{root}Runner": executable(entitlements or {}),
        f"{root}AppIcon60x60@2x.png": picture(120),
        f"{root}AppIcon60x60@3x.png": picture(180),
        f"{root}AppIcon76x76@2x~ipad.png": picture(152),
    }


def make_ipa(folder: Path, files: Mapping[str, bytes] | None = None, name: str = "app.ipa") -> Path:
    path = folder / name
    path.write_bytes(archive(files or app_files()))
    return path


def wide(width: int, height: int) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (width, height), (40, 90, 60)).save(out, "PNG")
    return out.getvalue()


def scaled(data: bytes, edge: int) -> bytes:
    """Return a picture at another size."""
    out = io.BytesIO()
    Image.open(io.BytesIO(data)).convert("RGB").resize((edge, edge), Image.Resampling.LANCZOS).save(out, "PNG")
    return out.getvalue()


def catalog(names: Sequence[str], on_page: int = 3) -> bytes:
    """Return the outline of a compiled catalog: its names in a tree of leaves, behind one page that leads to them."""
    blocks: list[bytes] = [b""]

    def add(data: bytes) -> int:
        blocks.append(data)
        return len(blocks) - 1

    keys = [add(name.encode() + b"\0") for name in names]
    value = add(b"")
    leaves = [keys[at : at + on_page] for at in range(0, len(keys), on_page)] or [[]]
    first = len(blocks)
    for number, part in enumerate(leaves):
        following = first + number + 1 if number + 1 < len(leaves) else 0
        add(struct.pack(">HHII", 1, len(part), following, 0) + b"".join(struct.pack(">II", value, key) for key in part))
    root = add(struct.pack(">HHII", 0, 1, 0, 0) + struct.pack(">II", first, 0))
    tree = add(b"tree" + struct.pack(">IIIIB", 1, root, 4096, len(names), 0))
    body, spots = b"", []
    for data in blocks:
        spots.append((512 + len(body), len(data)))
        body += data
    index = struct.pack(">I", len(spots)) + b"".join(struct.pack(">II", *spot) for spot in spots)
    variables = struct.pack(">I", 2) + struct.pack(">IB", value, 9) + b"CARHEADER" + struct.pack(">IB", tree, 9) + b"FACETKEYS"
    at = 512 + len(body)
    header = b"BOMStore" + struct.pack(">6I", 1, len(blocks), at, len(index), at + len(index), len(variables))
    return header.ljust(512, b"\0") + body + index + variables
