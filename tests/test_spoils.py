"""Checking as a release engineer would: silent where all is right, sharp where one thing is off."""

from __future__ import annotations

from collections import defaultdict
from functools import cache, partial

import pytest

from conftest import THOROUGH
from flavored import flavored
from hybrids import KINDS, spelled
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.checks.finding import Finding
from onomaxis.checks.inspection import look_over
from onomaxis.checks.registry import every_rule
from onomaxis.tree import Tree
from right import RIGHT
from spoils import Files, Spoil, spoils

# Everything but pictures, which these projects do not have.
FAMILIES = list(dict.fromkeys(rule.family for rule in every_rule() if rule.family != "icons"))


def tree(files: Files) -> Tree:
    return Tree.of({path: text.encode() for path, text in files.items()})


def look(files: Files, publish: bool = True) -> tuple[Finding, ...]:
    return look_over(tree(files), FAMILIES, publish=publish)[0]


@cache
def grouped() -> dict[str, list[Spoil]]:
    found: dict[str, list[Spoil]] = defaultdict(list)
    for spoil in spoils():
        found[f"{spoil.kind}-{spoil.comparison}"].append(spoil)
    return found


GROUPS = [f"{kind}-{comparison}" for kind in ("native", "flutter", "react-native") for comparison in ("siblings", "references", "platforms", "services")]
GROUPS += [
    f"{kind}-{comparison}"
    for kind, those in (
        ("capacitor", ("platforms", "references", "readiness")),
        ("expo", ("platforms", "services", "readiness")),
        ("maui", ("platforms", "services", "readiness")),
        ("cordova", ("platforms", "readiness")),
    )
    for comparison in those
]


def answered(files: Files) -> Files:
    """Answer the question about encryption that a store asks of every upload to iOS."""
    key = "<dict>\n\t<key>ITSAppUsesNonExemptEncryption</key>\n\t<false/>"
    return {path: text.replace("<dict>", key, 1) if path.endswith("Info.plist") else text for path, text in files.items()}


# Projects of every kind and agencies' in every style, right in all that these rules look at.
QUIET = {
    **RIGHT,
    **{kind: partial(spelled, kind, "org.lendspan.shed", "Shed", "1.2.0", "7") for kind in ("nativescript", "unity", "godot", "tauri")},
    **{f"agency-{seed}": partial(lambda seed: {path: data.decode() for path, data in flavored(seed).files.items()}, seed) for seed in ("android-0", "android-1", "android-2", "android-17", "apple-1", "apple-3", "apple-25", "flutter-6", "both-0", "both-2")},
}  # fmt: skip


@pytest.mark.parametrize("project", QUIET)
def test_nothing_is_said_where_all_is_right(project: str) -> None:
    """Not a note, be it for publication or not."""
    files = answered(QUIET[project]())
    assert look(files) == () == look(files, publish=False)


@pytest.mark.parametrize("group", GROUPS)
def test_each_fault_is_named(group: str) -> None:
    """Put one fault in: it is said in which file, and of what; what is said names no empty place."""
    missed = []
    for spoil in grouped()[group][:: 1 if THOROUGH else 4]:
        found = look(spoil.files)
        assert all(item.at and all(file for file, _ in item.at) for item in found)
        if not any(
            spoil.says.casefold() in item.message.casefold() and (not spoil.at or any(file.endswith(spoil.at) for file, _ in item.at)) for item in found
        ):
            missed.append((spoil.name, [item.message for item in found]))
    assert not missed


def test_there_are_enough_of_them() -> None:
    """Every group is looked at, and there are more than four hundred faults."""
    assert sorted(grouped()) == sorted(GROUPS)
    assert sum(map(len, grouped().values())) > 600


# What makes a rule speak that has no row elsewhere: kind and name of a fault.
SPEAKS = {
    "FLAVOR10": ("flutter", "no entry point of mossgate"),
    "FLAVOR11": ("native", "CI does not build mossgate"),
    "FLAVOR12": ("native", "an entry less in the environment of mossgate"),
    "FLAVOR13": ("flutter", "the entry point of mossgate is another's"),
    "REF01": ("native", "an activity that is gone"),
    "REF02": ("native", "the shortcut of mossgate goes to an old app"),
    "REF03": ("native", "code asks for one fixed authority"),
    "REF04": ("native", "a manifest of another package"),
    "REF05": ("native", "code asks for another authority"),
    "REF06": ("native", "tests that run in an old app"),
    "REF07": ("native", "the watch app of Debug-mossgate belongs to another"),
    "REF08": ("native", "the scheme of mossgate names a target that is gone"),
    "REF09": ("native", "the scheme of mossgate tests the app itself"),
    "REF10": ("native", "the export of mossgate forgets the widget"),
    "REF11": ("native", "pods for a later system"),
    "REF12": ("native", "the entitlements of mossgate are gone"),
    "REF13": ("native", "a storyboard that is gone"),
    "REF15": ("native", "a configuration of mossgate is gone"),
    "REF16": ("native", "the widget is in another group"),
    "REF17": ("native", "a module that is gone"),
    "REF18": ("native", "a script starts an old app of mossgate"),
    "REF19": ("react-native", "Android asks for another component"),
    "PLATFORM01": ("native", "another URL scheme on iOS"),
    "PLATFORM02": ("expo", "another host on iOS"),
    "PLATFORM03": ("maui", "the manifest's package is another"),
    "PLATFORM04": ("flutter", "the Linux app has another ID"),
    "ID09": ("expo", "no ID on iOS"),
    "NAME09": ("capacitor", "the launcher is called otherwise"),
}


@pytest.mark.parametrize("code", SPEAKS)
def test_each_rule_of_comparison_speaks(code: str) -> None:
    """One fault, the rule that is for it; nothing of it where the fault is gone."""
    kind, name = SPEAKS[code]
    spoil = next(item for group, items in grouped().items() if group.startswith(f"{kind}-") for item in items if item.name == name)
    assert code in {item.rule.code for item in look(spoil.files)}


def test_a_configuration_with_the_file_of_another_flavor() -> None:
    """Its settings would be another brand's: named at the configuration; its own file is right, and so is a shared one."""
    files = RIGHT["native"]()
    path = "ios/Lend.xcodeproj/project.pbxproj"
    for flavor, wrong in (("alderbank", True), ("mossgate", False)):
        reference = f'\t\tF900 = {{isa = PBXFileReference; path = "{flavor}.xcconfig"; sourceTree = SOURCE_ROOT; }};\n'
        text = files[path].replace("\t\tG000 = {", f"{reference}\t\tG000 = {{", 1)
        head = text.index("/* Debug-mossgate */ = {", text.index("C001"))
        at = text.index("\t\t\tbuildSettings", head)
        text = f"{text[:at]}\t\t\tbaseConfigurationReference = F900;\n{text[at:]}"
        found = look({**files, path: text, f"ios/{flavor}.xcconfig": "X = 1\n"})
        said = [item.message for item in found if item.rule.code == "REF14"]
        assert bool(said) is wrong and (not wrong or "alderbank.xcconfig" in said[0])


NEW = FlavorWish("pennywick", id="org.lendspan.pennywick", shown="Pennywick")


@pytest.mark.parametrize("kind", KINDS)
def test_a_fresh_project_of_a_template(kind: str) -> None:
    """As wizards leave it: an example's ID and name are notes; errors when it is to be published."""
    files = spelled(kind, "com.example.shed", "My App", "1.0.0", "1")
    severe = [item for item in look(files, publish=False) if item.rule.severity != "note"]
    assert not severe, severe
    assert {"ID03", "NAME02"} & {item.rule.code for item in look(files) if item.rule.severity == "error"}
