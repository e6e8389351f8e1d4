"""Small projects, one for each kind of home that an icon can have, as the platforms' own tools lay them out.

They know nothing of the readers. ``HOMES`` maps a name to the files of the project, empty pictures where the tools put
theirs.
"""

from __future__ import annotations

import io
import json

from PIL import Image

from hybrids import GRADLE, MANIFEST, STRINGS, spelled
from xcode import pbxproj

CATALOG = '{\n  "info" : {\n    "author" : "xcode",\n    "version" : 1\n  }\n}\n'


def picture(width: int, height: int = 0, kind: str = "PNG", colour: str = "#777777") -> bytes:
    """Return the picture that a tool puts where nobody has drawn yet."""
    out = io.BytesIO()
    Image.new("RGB", (width, height or width), colour).save(out, kind)
    return out.getvalue()


def android(icon: str = "mipmap/ic_launcher", round_icon: str = "") -> dict[str, str | bytes]:
    """A native Android app with the icon named in its manifest."""
    named = f'android:icon="@{icon}"' + (f' android:roundIcon="@{round_icon}"' if round_icon else "")
    gradle = (GRADLE % ("1", '"1.0"')).replace("IdZz", "org.lendspan")
    manifest = MANIFEST.replace("<application ", f"<application {named} ")
    return {
        "settings.gradle": "include ':app'\n",
        "app/build.gradle": gradle,
        "app/src/main/AndroidManifest.xml": manifest,
        "app/src/main/res/values/strings.xml": STRINGS.replace("NameZz", "Lendspan"),
    }


def modern(folder: str = "app/src/main/res") -> dict[str, str | bytes]:
    """The adaptive icon of a new Android project: vector layers and WebP pictures."""
    adaptive = (
        '<?xml version="1.0" encoding="utf-8"?>\n<adaptive-icon xmlns:android="http://schemas.android.com/apk/res/android">\n'
        '    <background android:drawable="@drawable/ic_launcher_background" />\n'
        '    <foreground android:drawable="@drawable/ic_launcher_foreground" />\n'
        '    <monochrome android:drawable="@drawable/ic_launcher_foreground" />\n</adaptive-icon>\n'
    )
    vector = (
        '<vector xmlns:android="http://schemas.android.com/apk/res/android"\n    android:width="108dp" android:height="108dp"\n'
        '    android:viewportWidth="108" android:viewportHeight="108">\n    <path android:fillColor="%s" android:pathData="M%s" />\n</vector>\n'
    )
    found: dict[str, str | bytes] = {
        f"{folder}/drawable/ic_launcher_background.xml": vector % ("#3DDC84", "0,0h108v108h-108z"),
        f"{folder}/drawable/ic_launcher_foreground.xml": vector % ("#FFFFFF", "40,40h28v28h-28z"),
    }
    for name in ("ic_launcher", "ic_launcher_round"):
        found[f"{folder}/mipmap-anydpi-v26/{name}.xml"] = adaptive
        for density, edge in (("mdpi", 48), ("hdpi", 72), ("xhdpi", 96), ("xxhdpi", 144), ("xxxhdpi", 192)):
            found[f"{folder}/mipmap-{density}/{name}.webp"] = picture(edge, kind="WEBP")
    return found


def apple(images: list[dict[str, object]], platform: str = "iphoneos", folder: str = "") -> dict[str, str | bytes]:
    """A native Apple app whose icon set lists *images*."""
    settings = {"*": {"PRODUCT_BUNDLE_IDENTIFIER": "org.lendspan", "ASSETCATALOG_COMPILER_APPICON_NAME": "AppIcon"}}
    catalog = f"{folder}Lend/Assets.xcassets"
    contents = json.dumps({"images": images, "info": {"author": "xcode", "version": 1}}, indent=2, separators=(",", " : "))
    return {
        f"{folder}Lend.xcodeproj/project.pbxproj": pbxproj(["Debug", "Release"], {"SDKROOT": platform}, {"Lend": ("app", settings)}),
        f"{catalog}/Contents.json": CATALOG,
        f"{catalog}/AppIcon.appiconset/Contents.json": contents + "\n",
    }


def universal(*appearances: str) -> list[dict[str, object]]:
    """The single size of a new project, with its appearances."""
    base: dict[str, object] = {"idiom": "universal", "platform": "ios", "size": "1024x1024"}
    return [base] + [{"appearances": [{"appearance": "luminosity", "value": name}], **base} for name in appearances]


def slots(idiom: str, *sizes: str) -> list[dict[str, object]]:
    """Slots of one idiom, each as ``29@2``."""
    return [{"idiom": idiom, "scale": f"{size.partition('@')[2]}x", "size": f"{size.partition('@')[0]}x{size.partition('@')[0]}"} for size in sizes]


IPHONE = slots("iphone", "20@2", "20@3", "29@2", "29@3", "40@2", "40@3", "60@2", "60@3") + slots("ios-marketing", "1024@1")
MAC = slots("mac", "16@1", "16@2", "32@1", "32@2", "128@1", "128@2", "256@1", "256@2", "512@1", "512@2")

WEB = {
    "web/index.html": '<head>\n  <link rel="icon" type="image/png" href="favicon.png"/>\n  <link rel="apple-touch-icon" href="icons/Icon-192.png">\n'
    '  <link rel="shortcut icon" sizes="16x16 32x32" href="favicon.ico">\n</head>\n',
    "web/manifest.json": json.dumps(
        {
            "name": "Lendspan",
            "icons": [
                {"src": "icons/Icon-192.png", "sizes": "192x192", "type": "image/png"},
                {"src": "icons/Icon-512.png", "sizes": "512x512", "type": "image/png"},
                {"src": "icons/Icon-maskable-512.png", "sizes": "512x512", "type": "image/png", "purpose": "maskable"},
            ],
        },
        indent=4,
    ),
    "web/favicon.png": picture(16),
    "web/icons/Icon-192.png": picture(192),
    "web/icons/Icon-512.png": picture(512),
    "web/icons/Icon-maskable-512.png": picture(512),
}


def kind(name: str) -> dict[str, str | bytes]:
    """A small project of a framework, as tests/hybrids.py writes it."""
    return dict(spelled(name, "org.lendspan", "Lendspan", "1.0", "7"))


def _flutter() -> dict[str, str | bytes]:
    named = {
        path: text.replace("<application ", '<application android:icon="@mipmap/ic_launcher" ') if path.endswith("AndroidManifest.xml") else text
        for path, text in kind("flutter").items()
        if isinstance(text, str) and not path.startswith(("ios", "web"))
    }
    res = "android/app/src/main/res"
    return {
        **named,
        **{f"{res}/mipmap-{density}/ic_launcher.png": picture(edge) for density, edge in (("mdpi", 48), ("xxxhdpi", 192))},
        **apple(IPHONE, folder="ios/"),
        **apple(MAC, "macosx", folder="macos/"),
        **WEB,
        "windows/runner/resources/app_icon.ico": picture(48, kind="ICO"),
    }


def _expo(**more: object) -> dict[str, str | bytes]:
    found = kind("expo")
    document = json.loads(found["app.json"])
    document["expo"] |= more
    return {**found, "app.json": json.dumps(document, indent=2) + "\n"}


def _nativescript() -> dict[str, str | bytes]:
    res = "App_Resources/Android/src/main/res"
    return {
        **kind("nativescript"),
        "App_Resources/Android/src/main/AndroidManifest.xml": MANIFEST.replace("<application ", '<application android:icon="@mipmap/ic_launcher" '),
        **modern(res),
        "App_Resources/iOS/Assets.xcassets/AppIcon.appiconset/Contents.json": json.dumps({"images": IPHONE, "info": {"author": "x", "version": 1}}),
    }


def _maui() -> dict[str, str | bytes]:
    found = kind("maui")
    item = '\t<ItemGroup>\r\n\t\t<MauiIcon Include="Resources\\AppIcon\\appicon.svg" ForegroundFile="Resources\\AppIcon\\appiconfg.svg" Color="#512BD4" />\r\n\t</ItemGroup>\r\n'
    svg = '<svg width="456" height="456" xmlns="http://www.w3.org/2000/svg"><rect width="456" height="456" fill="#512BD4"/></svg>'
    return {
        **found,
        "Shed.csproj": str(found["Shed.csproj"]).replace("</Project>", f"{item}</Project>"),
        "Resources/AppIcon/appicon.svg": svg,
        "Resources/AppIcon/appiconfg.svg": svg,
    }


def _cordova(icons: str = "") -> dict[str, str | bytes]:
    found = kind("cordova")
    return {**found, "config.xml": str(found["config.xml"]).replace("</widget>", f"{icons}</widget>")}


def _unity() -> dict[str, str | bytes]:
    found = kind("unity")
    guids = [f"{number:032x}" for number in (1, 2, 3)]
    settings = str(found["ProjectSettings/ProjectSettings.asset"])
    settings += (
        "  m_BuildTargetIcons:\n  - m_BuildTarget: \n    m_Icons:\n    - serializedVersion: 2\n"
        f"      m_Icon: {{fileID: 2800000, guid: {guids[0]}, type: 3}}\n      m_Width: 128\n      m_Height: 128\n      m_Kind: 0\n"
        "  m_BuildTargetPlatformIcons:\n  - m_BuildTarget: Android\n    m_Icons:\n    - m_Textures:\n"
        f"      - {{fileID: 2800000, guid: {guids[1]}, type: 3}}\n      - {{fileID: 2800000, guid: {guids[2]}, type: 3}}\n"
        "      m_Width: 432\n      m_Height: 432\n      m_Kind: 2\n      m_SubKind: \n"
    )
    named = {f"Assets/Icon{at}.png": picture(64) for at in range(3)}
    metas = {f"Assets/Icon{at}.png.meta": f"fileFormatVersion: 2\nguid: {guid}\n" for at, guid in enumerate(guids)}
    return {**found, "ProjectSettings/ProjectSettings.asset": settings, **named, **metas}


def _godot() -> dict[str, str | bytes]:
    found = kind("godot")
    presets = str(found["export_presets.cfg"]).replace(
        "version/code=",
        'launcher_icons/main_192x192="res://a/main.png"\nlauncher_icons/adaptive_foreground_432x432="res://a/front.png"\n'
        'launcher_icons/adaptive_background_432x432="res://a/back.png"\nversion/code=',
    )
    presets = presets.replace("application/version", 'icons/app_store_1024x1024="res://a/store.png"\napplication/version')
    return {**found, "project.godot": str(found["project.godot"]) + 'config/icon="res://icon.png"\n', "export_presets.cfg": presets, "icon.png": picture(128)}


def _tauri() -> dict[str, str | bytes]:
    found = kind("tauri")
    icons = ["icons/32x32.png", "icons/128x128.png", "icons/128x128@2x.png", "icons/icon.icns", "icons/icon.ico"]
    named = str(found["src-tauri/tauri.conf.json"]).replace('["icons/32x32.png"]', json.dumps(icons))
    return {**found, "src-tauri/tauri.conf.json": named, "src-tauri/icons/32x32.png": picture(32), "src-tauri/icons/Square44x44Logo.png": picture(44)}


def _react_native() -> dict[str, str | bytes]:
    found = {path: text for path, text in kind("react-native").items() if not path.startswith("ios")}
    manifest = "android/app/src/main/AndroidManifest.xml"
    named = str(found[manifest]).replace("<application ", '<application android:icon="@mipmap/ic_launcher" android:roundIcon="@mipmap/ic_launcher_round" ')
    return {**found, manifest: named, **apple(IPHONE, folder="ios/"), **modern("android/app/src/main/res")}


_ICONS = (
    '    <icon src="res/icon.png" />\n    <platform name="android">\n        <icon density="xhdpi" src="res/a.png" width="96" height="96" />\n    </platform>\n'
)
HOMES: dict[str, dict[str, str | bytes]] = {
    "android": {**android(round_icon="mipmap/ic_launcher_round"), **modern()},
    "android, old": {**android("drawable/icon"), "app/src/main/res/drawable-mdpi/icon.png": picture(48), "app/src/main/res/drawable/icon.png": picture(48)},
    "ios": apple(universal("dark", "tinted")),
    "ios, every slot": apple(IPHONE),
    "watch": apple([{"idiom": "universal", "platform": "watchos", "size": "1024x1024"}], "watchos"),
    "mac": apple(MAC, "macosx"),
    "flutter": _flutter(),
    "react-native": _react_native(),
    "expo": _expo(),
    "expo, named": _expo(
        icon="./a/icon.png", android={"package": "org.lendspan", "adaptiveIcon": {"foregroundImage": "./a/front.png", "backgroundColor": "#ffffff"}}
    ),
    "nativescript": _nativescript(),
    "maui": _maui(),
    "cordova": _cordova(_ICONS),
    "cordova, bare": _cordova(),
    "tauri": _tauri(),
    "unity": _unity(),
    "godot": _godot(),
    "web": {path.removeprefix("web/"): data for path, data in WEB.items()},
}
