"""The theme of Android 12 beside an older one: what is copied keeps its prefixes, whatever the style looks like."""

from __future__ import annotations

import pytest

from onomaxis.formats.xml import parse_xml
from onomaxis.projects.android.launch_theme import modern_theme
from onomaxis.tree import Tree

TOOLS = "http://schemas.android.com/tools"
STYLES = [
    ("plain", '<resources>\n    <style name="Launch">\n        <item name="a">b</item>\n    </style>\n</resources>\n'),
    ("a prefix", f'<resources xmlns:tools="{TOOLS}">\n    <style name="Launch"><item name="a" tools:targetApi="m">b</item></style>\n</resources>\n'),
    ("a prefix of its own", f'<resources><style name="Launch" xmlns:t="{TOOLS}"><item name="a" t:targetApi="m">b</item></style></resources>'),
    ("empty", '<resources>\r\n  <style name="Launch" parent="Theme.X" />\r\n</resources>\r\n'),
    ("empty, whole", '<resources><style name="Launch" parent="Theme.X"></style></resources>'),
]


@pytest.mark.parametrize("text", [text for _, text in STYLES], ids=[name for name, _ in STYLES])
def test_the_copy_is_a_style_that_reads(text: str) -> None:
    """All items stay, the two attributes come, every prefix is declared, line ends are the file's."""
    tree = Tree.of({"app/src/main/res/values-night/styles.xml": text.encode()})
    draft = modern_theme(tree, "app", "Launch", lambda path: path, "@mipmap/logo", "#123456")
    made = dict(draft.created)
    data = made["app/src/main/res/values-night-v31/styles.xml"]
    style = next(iter(parse_xml(data).root.find("style")))
    old = next(iter(parse_xml(text.encode()).root.find("style")))
    items = {item.value("name"): item.text for item in style.find("item")}
    assert items == {item.value("name"): item.text for item in old.find("item")} | {
        "android:windowSplashScreenBackground": "#123456",
        "android:windowSplashScreenAnimatedIcon": "@drawable/launch_icon",
    }
    assert style.value("parent") == old.value("parent")
    for item in style.find("item"):
        for attribute in item.attributes:
            prefix = attribute.name.partition(":")[0] if ":" in attribute.name else ""
            assert not prefix or prefix in item.prefixes
    assert ("\r\n" in text) == (b"\r\n" in data)
    assert b"launch_icon" not in data or "app/src/main/res/drawable/launch_icon.xml" in made
