"""The launch theme of Android 12 and later: what older versions show in a layer list is said there in two attributes.

Source: developer.android.com, "Splash screens" (windowSplashScreenBackground, windowSplashScreenAnimatedIcon, the
circle of two thirds that is seen of the icon) and "Providing resources" (the order of qualifiers).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

from onomaxis.formats.escapes import encode
from onomaxis.formats.source import flat
from onomaxis.formats.xml import Element, XmlDocument, indentation, parse_xml
from onomaxis.projects.draft import Draft
from onomaxis.tree import Tree, join, parent

_LEVEL = "v31"
# The icon is cut to a circle of two thirds of its edge: the logo's square fits into it with a quarter around it.
_INSET = "25%"
_NAME = "launch_icon"


def modern_theme(tree: Tree, module: str, theme: str, target: Callable[[str], str], logo: str, ground: str) -> Draft:
    """Return the theme for Android 12 beside each that older versions take, with the same ground and logo.

    *target* gives a file of the main source set its place in the flavor's. A style of a later version stands for the
    whole one: it is a copy with the two attributes.
    """
    draft = Draft()
    if not (logo or ground):
        return draft
    icon = ""
    if logo:
        icon = f"@drawable/{_NAME}"
        text = (
            '<?xml version="1.0" encoding="utf-8"?>\n<inset xmlns:android="http://schemas.android.com/apk/res/android"\n'
            f'    android:drawable="{logo}"\n    android:inset="{_INSET}" />\n'
        )
        drawable = target(join(module, f"src/main/res/drawable/{_NAME}.xml"))
        draft.created += [] if tree.exists(drawable) else [(drawable, text.encode())]
    for path, document, style in _styles(tree, module, theme):
        folder = parent(path)
        new = target(join(parent(folder), f"{_folder(folder)}/{path.rpartition('/')[2]}"))
        if tree.exists(new):
            continue
        draft.created.append((new, _copied(document, style, icon, ground)))
    return draft


def _styles(tree: Tree, module: str, theme: str) -> Iterator[tuple[str, XmlDocument, Element]]:
    """Yield the launch theme in every folder of values without a version."""
    for path in tree.below(join(module, "src/main/res")):
        folder = parent(path).rpartition("/")[2]
        qualifiers = folder.split("-")
        versioned = any(part[:1] == "v" and part[1:].isdecimal() for part in qualifiers)
        data = tree.read(path) if qualifiers[0] == "values" and not versioned and path.endswith(".xml") else None
        if data and theme.encode() in flat(data):
            document = parse_xml(data)
            found = next((style for style in document.root.find("style") if style.value("name") == theme), None)
            if found is not None:
                yield path, document, found


def _folder(folder: str) -> str:
    return f"{folder.rpartition('/')[2]}-{_LEVEL}"


def _copied(document: XmlDocument, style: Element, icon: str, ground: str) -> bytes:
    source = document.source
    newline, lead = source.newline, indentation(source, style.start)
    inner = lead + "    "
    body = source.text(style.start, style.end)
    if body.endswith("/>"):
        body = f"{body[:-2].rstrip()}></{style.tag}>"
    closing = body.rindex("</")
    items = "".join(
        f'<item name="android:{name}">{value}</item>{newline}{inner}'
        for name, value in (("windowSplashScreenBackground", ground), ("windowSplashScreenAnimatedIcon", icon))
        if value
    )
    head = body[:closing].rstrip()
    added = f"{head}{newline}{inner}{items.rstrip()}{newline}{lead}{body[closing:]}"
    top = '<?xml version="1.0" encoding="utf-8"?>' + newline
    spaces = "".join(
        f' xmlns:{prefix}="{encode("xml-double", uri)}"' for prefix, uri in style.prefixes.items() if prefix
    )
    return f"{top}<resources{spaces}>{newline}{lead}{added}{newline}</resources>{newline}".encode()
