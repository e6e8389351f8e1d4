"""Podfiles of many styles, run by Ruby before and after each change: what they map and name is what was asked, all else as before."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Callable, Sequence
from functools import cache
from pathlib import Path
from typing import Any

import pytest

from conftest import judge, memory
from onomaxis.brands.flavors import plan_flavor
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.brands.retirement import plan_retirement
from onomaxis.rename.rename import plan_rename
from onomaxis.surveys.survey import take_survey
from onomaxis.tree import Tree
from onomaxis.wishes import Wish
from onomaxis.writing.change import applied
from xcode import pbxproj

PODS = "target 'Lend' do\n  pod 'Alpha', '~> 1.0'\nend\n"
DEBUG = "'Debug-alder' => :debug, 'Debug-moss' => :debug"
LINES = "  'Debug-alder' => :debug, # a\n  'Release-alder' => :release,\n  'Debug-moss' => :debug,\n  'Release-moss' => :release"
ROWS = {
    "no project": PODS,
    "one line": f"project 'Lend', 'Debug' => :debug, 'Release' => :release, {DEBUG}, 'Release-moss' => :release\n{PODS}",
    "lines": f"project 'Lend.xcodeproj',\n{LINES}\n{PODS}",
    "braces": f"project('Lend', {{\n{LINES},\n}})\n{PODS}",
    "symbols": f"project 'Lend', 'Debug-alder': :debug, 'Release-alder': :release, 'Debug-moss': :debug, 'Release-moss': :release\n{PODS}",
    "only debug": f"project 'Lend', {DEBUG}\n{PODS}",
    "plain only": f"project 'Lend', 'Debug' => :debug, 'Release' => :release\n{PODS}",
    "constant": f"MAP = {{\n{LINES},\n}}.freeze\nproject 'Lend', MAP\n{PODS}",
    "variable": f"map = {{ {DEBUG} }}\nproject 'Lend', map\n{PODS}",
    "merge": f"base = {{ 'Debug' => :debug }}\nproject 'Lend', base.merge({DEBUG})\n{PODS}",
    "splat": f"base = {{ 'Debug' => :debug }}\nproject 'Lend', **base, {DEBUG}\n{PODS}",
    "each": f"FLAVORS = %w[alder moss]\nmap = {{}}\nFLAVORS.each {{ |f| map[\"Debug-#{{f}}\"] = :debug }}\nproject 'Lend', map\n{PODS}",
    "flat": f'flavors = %i[alder moss]\nproject \'Lend\', flavors.flat_map {{ |f| [["Debug-#{{f}}", :debug], ["Release-#{{f}}", :release]] }}.to_h\n{PODS}',
    "strings": f"flavors = ['alder', 'moss']\nmap = flavors.to_h {{ |f| [\"Debug-#{{f}}\", :debug] }}\nproject 'Lend', map\n{PODS}",
    "index": f"map = {{}}\nmap['Debug-alder'] = :debug\nmap['Debug-moss'] = :debug\nproject 'Lend', map\n{PODS}",
    "in a target": f"target 'Lend' do\n  project 'Lend', {DEBUG}\n  pod 'Alpha'\nend\n",
    "two": f"target 'Lend' do\n  project 'Lend', {DEBUG}\nend\ntarget 'Other' do\n  project 'Other', 'Debug-alder' => :debug\nend\n",
    "pods": f"project 'Lend', {DEBUG}\ntarget 'Lend' do\n  pod 'Beta', :configurations => ['Debug-alder', 'Debug-moss']\nend\n",
    "condition": f"if ENV['NOBODY'].nil?\n  project 'Lend', {DEBUG}\nend\n{PODS}",
    "heredoc": f"text = <<~TEXT\n  'Debug-alder' => :debug\nTEXT\nproject 'Lend', {DEBUG}\n{PODS}",
    "comments": f"# project 'Lend', 'Debug-alder' => :debug\n=begin\nproject 'Lend', 'Debug-moss' => :debug\n=end\nproject \"Lend\", {DEBUG}\n{PODS}",
    "methods": f"def shared\n  pod 'Beta', configurations: ['Debug-alder', 'Debug-moss']\nend\nproject 'Lend', {DEBUG}\ntarget 'Lend' do\n  shared\nend\n",
    "crlf": f"project 'Lend',\n{LINES}\n{PODS}".replace("\n", "\r\n"),
}
NAMES = ["Debug", "Release", *(f"{kind}-{flavor}" for flavor in ("alder", "moss") for kind in ("Debug", "Release"))]


@cache
def trees() -> dict[str, Tree]:
    own = {name: {"PRODUCT_BUNDLE_IDENTIFIER": ".".join(("org.lend", *name.split("-")[1:]))} for name in NAMES}
    every = {"GENERATE_INFOPLIST_FILE": "YES", "INFOPLIST_KEY_CFBundleDisplayName": "Lend"}
    project = pbxproj(NAMES, {"SDKROOT": "iphoneos"}, {"Lend": ("app", {"*": every, **own})})
    return {name: memory({"ios/Lend.xcodeproj/project.pbxproj": project, "ios/Podfile": text}) for name, text in ROWS.items()}


def told(folder: Path, every: Sequence[Tree]) -> list[dict[str, Any]]:
    """Return what Ruby makes of the Podfile of each tree."""
    paths = []
    for number, tree in enumerate(every):
        paths.append(folder / f"{number}.rb")
        paths[-1].write_bytes(tree.read("ios/Podfile") or b"")
    lines = "".join(f"{path}\n" for path in paths)
    script = Path(__file__).parent / "podfile_judge.rb"
    done = subprocess.run([judge("ruby"), str(script)], input=lines, capture_output=True, text=True, check=True)
    found = [json.loads(line) if line else {} for line in done.stdout.split("\n")[:-1]]
    assert len(found) == len(every) and all(found), done.stderr
    return found


def without(said: dict[str, Any], name: str) -> dict[str, Any]:
    """Return what a Podfile says without what it says of a flavor."""

    def kept(item: Any) -> Any:
        if isinstance(item, dict):
            return {key: kept(text) for key, text in item.items() if name not in key}
        return [kept(part) for part in item if not (isinstance(part, str) and name in part)] if isinstance(item, list) else item

    return {key: kept(item) for key, item in said.items()}


def changed(plan: Callable[[Tree], Any]) -> list[Tree]:
    return [applied(tree, plan(tree).changes) for tree in trees().values()]


@pytest.mark.processes
def test_ruby_reads_what_was_asked(tmp_path: Path) -> None:
    """A new flavor is for debugging where it says Debug, a retired one is gone, a renamed project and target are named so."""
    before = dict(zip(ROWS, told(tmp_path, list(trees().values())), strict=True))
    notes: dict[str, int] = {}

    def add(tree: Tree) -> Any:
        plan = plan_flavor(tree, FlavorWish("oakhill", id="org.oak", shown="Oak"))
        notes[str(len(notes))] = sum("by hand" in note.text for note in plan.notes)
        return plan

    grown = changed(add)
    assert not any(notes.values())
    for (name, old), new in zip(before.items(), told(tmp_path, grown), strict=True):
        mapped = {key: kind for *_, map_ in new["projects"] for key, kind in map_.items() if "oakhill" in key}
        assert mapped.pop("Debug-oakhill") == "debug" and mapped in ({}, {"Release-oakhill": "release"}), (name, mapped)
        told_before = old if old["projects"] else {**old, "projects": [["", "Lend", {}]]}
        assert without(new, "oakhill") == told_before, name
        pods = [options["configurations"] for *_, rest in new["pods"] for options in rest if isinstance(options, dict)]
        assert all("Debug-oakhill" in names for names in pods), name
    for tree, later in zip(trees().values(), grown, strict=True):
        gone = applied(later, plan_retirement(later, "oakhill").changes)
        assert gone.read("ios/Podfile") == tree.read("ios/Podfile")
    for (name, old), new in zip(before.items(), told(tmp_path, changed(lambda tree: plan_retirement(tree, "moss"))), strict=True):
        assert without(old, "moss") == without(new, "moss") and "moss" not in json.dumps(new), name
    for (name, old), new in zip(before.items(), told(tmp_path, changed(lambda tree: plan_rename(take_survey(tree), Wish(project_name="Shed")))), strict=True):
        assert new == json.loads(json.dumps(old).replace('"Lend', '"Shed')), name
