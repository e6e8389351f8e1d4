"""Flavors that ask a function of the build script for what they are called, and variables of a flavor's own block."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import files, onomaxis
from onomaxis.formats.lexer import GROOVY, KOTLIN, tokens
from onomaxis.projects.android.script_functions import functions_of
from onomaxis.surveys.survey import take_survey
from onomaxis.tree import Tree

BRANDS = ("alderbank", "mossgate")
LOAD_G = 'file("../brands/${name}.properties").withInputStream { p.load(it) }'
LOAD_K = 'p.load(rootProject.file("brands/$name.properties").inputStream())'
# What stands above the android block, what a flavor's block says (``B`` is the flavor), Kotlin, the file of the ID.
PROPS, JSON, HERE = "brands/B.properties", "brands/B.json", "app/build.gradle"
TABLE = {
    "a closure": (f"def brand = {{ String name ->\n  def p = new Properties()\n  {LOAD_G}\n  return p\n}}", "def p = brand('B')\n applicationId p['app.id']", PROPS),
    "a closure without return": (f"def brand = {{ name ->\n  def p = new Properties()\n  {LOAD_G}\n  p\n}}", "def p = brand('B')\n applicationId p.getProperty('app.id')", PROPS),
    "a shared closure": (f"ext.brand = {{ name -> def p = new Properties(); {LOAD_G}; p }}", "applicationId brand('B').getProperty('app.id')", PROPS),
    "a shared closure by its holder": (f"ext.brand = {{ name -> def p = new Properties(); {LOAD_G}; p }}", "def p = project.ext.brand('B')\n applicationId p.getProperty('app.id')", PROPS),
    "a holder's closure at once": (f"ext.brand = {{ name -> def p = new Properties(); {LOAD_G}; p }}", "applicationId project.ext.brand('B')['app.id']", PROPS),
    "it": ('def brand = { def p = new Properties(); p.load(new FileInputStream(file("../brands/${it}.properties"))); p }', "applicationId brand('B')['app.id']", PROPS),
    "a function": (f"def brand(name) {{\n  def p = new Properties()\n  {LOAD_G}\n  return p\n}}", "applicationId brand('B')['app.id']", PROPS),
    "a typed function": (f"Properties brand(String name) {{\n  Properties p = new Properties()\n  {LOAD_G}\n  return p\n}}", "Properties mine = brand('B')\n applicationId mine['app.id']", PROPS),
    "a joined path": ("def brand(name) { def p = new Properties(); p.load(new FileInputStream(file('../brands/' + name + '.properties'))); return p }", "applicationId brand('B')['app.id']", PROPS),
    "a key too": (f"def brandValue(String name, String key) {{\n  def p = new Properties()\n  {LOAD_G}\n  return p.getProperty(key)\n}}", "applicationId brandValue('B', 'app.id')", PROPS),
    "JSON": ('def brand = { name -> new groovy.json.JsonSlurper().parse(rootProject.file("brands/${name}.json")) }', "applicationId brand('B').app.id", JSON),
    "a sum": (f"def brand(name) {{\n  def p = new Properties()\n  {LOAD_G}\n  return p\n}}", "def p = brand('B')\n applicationId p['app.id'] + ''", PROPS),
    "an ID put together": ('def idOf(name) { return "org.lendspan.${name}" }', "applicationId idOf('B')", HERE),
    "a branch": ("def brand(name) {\n if (name == 'x') { return 'org.x' }\n return 'org.lendspan.' + name\n}", "applicationId brand('B')", HERE),
    "the last is a branch": ("def brand(name) {\n if (name == 'alderbank') { 'org.lendspan.alderbank' } else { 'org.lendspan.mossgate' }\n}", "applicationId brand('B')", HERE),
    "a block's own variable": ("", "def mine = 'org.lendspan.B'\n applicationId mine", HERE),
    "a block's own map": ("", "def mine = [id: 'org.lendspan.B', other: 'x']\n applicationId mine.id", HERE),
    "a part of a file": ("def all = new groovy.json.JsonSlurper().parse(rootProject.file('brands/all.json'))", "def mine = all.B\n applicationId mine.id", "brands/all.json"),
    "a block's variable of a block's": ("", "def first = 'org.lendspan'\n def mine = first + '.B'\n applicationId mine", HERE),
    "a file of the block's own": ("", "def p = new Properties()\n p.load(new FileInputStream(rootProject.file('brands/B.properties')))\n applicationId p['app.id']", PROPS),
    "the flavor's name": ("", 'applicationId "org.lendspan.${name}"', HERE),
    "its name in a sum": ("", "applicationId 'org.lendspan.' + name", HERE),
    "its name by it": ("", "applicationId 'org.lendspan.' + it.name", HERE),
    "its name as an argument": ('def idOf(name) { return "org.lendspan.${name}" }', "applicationId idOf(name)", HERE),
    "its name as a key": ("def ids = [alderbank: 'org.lendspan.alderbank', mossgate: 'org.lendspan.mossgate']", "applicationId ids[name]", HERE),
    "its name in Kotlin": ("", 'applicationId = "org.lendspan.$name"', HERE + ".kts"),
    "its name in Kotlin's map": ('val ids = mapOf("alderbank" to "org.lendspan.alderbank", "mossgate" to "org.lendspan.mossgate")', 'applicationId = ids.getValue(name)', HERE + ".kts"),
    "a Kotlin function": (f"fun brand(name: String): java.util.Properties {{\n  val p = java.util.Properties()\n  {LOAD_K}\n  return p\n}}", 'val p = brand("B")\n applicationId = p.getProperty("app.id")', PROPS),
    "a Kotlin expression": ('fun brand(name: String) = Properties().apply { load(rootProject.file("brands/$name.properties").inputStream()) }', 'applicationId = brand("B").getProperty("app.id")', PROPS),
    "a Kotlin lambda": (f"val brand = {{ name: String ->\n  val p = Properties()\n  {LOAD_K}\n  p\n}}", 'val p = brand("B")\n applicationId = p["app.id"] as String', PROPS),
    "a typed lambda": (f"val brand: (String) -> Properties = {{ name ->\n  val p = Properties()\n  {LOAD_K}\n  p\n}}", 'applicationId = brand("B")["app.id"].toString()', PROPS),
    "a named argument": (f"fun brand(folder: String, name: String): Properties {{\n  val p = Properties()\n  {LOAD_K}\n  return p\n}}", 'applicationId = brand(name = "B", folder = "x").getProperty("app.id")', PROPS),
    "Kotlin text": ('fun idOf(brand: String) = "org.lendspan.$brand"', 'applicationId = idOf("B")', HERE + ".kts"),
}  # fmt: skip


def project(folder: Path, head: str, said: str) -> Path:
    kotlin = " = " in said.splitlines()[-1] and "applicationId =" in said
    plug = 'plugins { id("com.android.application") }'
    block = (lambda b: f'  create("{b}") {{') if kotlin else (lambda b: f"  {b} {{")
    blocks = "\n".join(f"{block(name)}\n dimension{' =' if kotlin else ''} 'brand'\n {said.replace('B', name)}\n  }}" for name in BRANDS)
    blocks = blocks.replace("'brand'", '"brand"') if kotlin else blocks
    dims = 'flavorDimensions += "brand"' if kotlin else 'flavorDimensions "brand"'
    equals = " =" if kotlin else ""
    script = f'{plug}\n{head}\nandroid {{\n namespace{equals} "org.lendspan.app"\n {dims}\n productFlavors {{\n{blocks}\n }}\n}}\n'
    kept = {f"brands/{name}.properties": f"app.id=org.lendspan.{name}\n" for name in BRANDS}
    kept |= {f"brands/{name}.json": f'{{"app": {{"id": "org.lendspan.{name}"}}}}\n' for name in BRANDS}
    rows = ", ".join(f'"{name}": {{"id": "org.lendspan.{name}"}}' for name in BRANDS)
    kept["brands/all.json"] = f"{{{rows}}}\n"
    return files(folder, {"settings.gradle": "include ':app'\n", f"app/build.gradle{'.kts' if kotlin else ''}": script, **kept})


@pytest.mark.parametrize("way", TABLE)
def test_a_function_gives_each_flavor_its_own(tmp_path: Path, way: str) -> None:
    """Each flavor's ID is read through the function, stands where it is written, and a new one lands there alone."""
    head, said, file = TABLE[way]
    root = project(tmp_path, head, said)
    survey = take_survey(Tree.open(root))
    assert not survey.unresolved
    found = {app.flavor: app.id for app in survey.apps}
    assert {name: value.text for name, value in found.items() if value} == {name: f"org.lendspan.{name}" for name in BRANDS}
    for name, value in found.items():
        assert value is not None
        assert value.pieces[0].place is not None and value.pieces[0].place.file == file.replace("B", name)
    done = onomaxis("rename", root, "--flavor", "mossgate", "--id", "org.lendspan.mossgate.two", "--yes")
    assert done.code == 0, done.out + done.err
    again = {app.flavor: app.id.text for app in take_survey(Tree.open(root)).apps if app.id}
    assert again == {"alderbank": "org.lendspan.alderbank", "mossgate": "org.lendspan.mossgate.two"}


UNTOLD = {
    "a branch that the build decides": ("def brand(name) {\n if (project.hasProperty('x')) { return 'org.x' }\n return 'org.lendspan.' + name\n}", "applicationId brand('B')"),
    "two of the name": ("def brand(name) { 'org.' + name }\ndef brand(name, other) { 'org.z' }", "applicationId brand('B')"),
    "too few": ("def brand(name, other) { 'org.' + name }", "applicationId brand('B')"),
    "a computed file": ('def p = new Properties()\np.load(new FileInputStream(file("../brands/${project.name}.properties")))', "applicationId p['app.id']"),
    "a joined computed file": ("def p = new Properties()\np.load(new FileInputStream(file('../brands/' + which + '.properties')))", "applicationId p['app.id']"),
    "given anew": ("", "def mine = 'org.lendspan.B'\n if (project.hasProperty('x')) { mine = 'org.x' }\n applicationId mine"),
    "a name of the script's own": ("def name = project.path", 'applicationId "org.lendspan.${name}"'),
    "a name of the project's": ('def id = "org.lendspan.${name}"', "applicationId id"),
    "a map's name": ('def ids = [a: "org.lendspan.${name}"]', "applicationId ids.a"),
    "another function's parameter": ('def one(name) { two() }\ndef two() { "org.lendspan.${name}" }', "applicationId one('B')"),
    "a parameter outside": ('def id = "org.lendspan.${brand}"\ndef idOf(brand) { id }', "applicationId idOf('B')"),
    "itself": ("def brand(name) { brand(name) }", "applicationId brand('B')"),
    "each other": ("def one(name) { two(name) }\ndef two(name) { one(name) }", "applicationId one('B')"),
    "its own variable": ("", "def mine = mine\n applicationId mine"),
}  # fmt: skip


@pytest.mark.parametrize("way", UNTOLD)
def test_what_is_decided_when_the_build_runs_is_unresolved(tmp_path: Path, way: str) -> None:
    """Nothing is guessed: no ID at all is said, not the namespace's either, and the line is named."""
    root = project(tmp_path, *UNTOLD[way])
    survey = take_survey(Tree.open(root))
    assert [app.id for app in survey.apps] == [None, None]
    faults = [item for item in survey.unresolved if item.facet == "android.application-id"]
    assert len(faults) == 2 and all(item.file == "app/build.gradle" and item.line > 1 for item in faults)
    assert not any("${" in item.reason for item in faults)


def test_a_new_brand_is_told_what_its_siblings_fill_in(tmp_path: Path) -> None:
    """Adopting and stamping agree on values behind a function; a new flavor builds with an ID of its own."""
    head, said, _ = TABLE["a closure"]
    root = project(tmp_path, head, said + "\n manifestPlaceholders = [host: p['host']]")
    for name in BRANDS:
        with (root / f"brands/{name}.properties").open("a") as out:
            out.write(f"host={name}.lendspan.org\n")
    assert onomaxis("adopt", root, "--values").code == 0
    assert "host" in (root / "onomaxis.toml").read_text()
    assert "Nothing to change" in onomaxis("stamp", root, "--dry-run").err
    done = onomaxis("flavor", "add", "pennywick", root, "--id", "org.lendspan.pennywick", "--yes")
    assert done.code == 0 and "fill in host; pennywick does not" in " ".join(done.err.split())
    assert {app.flavor: app.id.text for app in take_survey(Tree.open(root)).apps if app.id}["pennywick"] == "org.lendspan.pennywick"


def test_functions_that_call_each_other_twice_come_to_an_end(tmp_path: Path) -> None:
    """Each doubles the calls: one value may make so many and no more. Nested closures are read once."""
    head = "".join(f"def f{n}(x) {{ f{n + 1}(f{n + 1}(x)) }}\n" for n in range(8)) + "def f8(x) { x }\n"
    survey = take_survey(Tree.open(project(tmp_path, head, "applicationId f0('B')")))
    assert [app.id for app in survey.apps] == [None, None]
    assert "too often" in next(item.reason for item in survey.unresolved)
    assert not functions_of(tokens("def x = {\n" * 2000 + "}\n" * 2000 + "x(" * 2000, GROOVY))


@pytest.mark.parametrize("language", [GROOVY, KOTLIN])
@pytest.mark.parametrize(
    "text", ["{ def x = }", "def x(", "x = { a -> ", "}}} def x = 1 {{{", "fun x() =", "{ val a = 1 } a", "def = ", "val x: (", "x(x(x(x("]
)
def test_any_text_declares_something_or_nothing(language: object, text: str) -> None:
    """Broken scripts are read to their end."""
    told = functions_of(tokens(text, language))  # type: ignore[arg-type]  # a table of languages
    assert set(told) <= {"x"}
