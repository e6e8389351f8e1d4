"""Variants that a script makes by the environment: read, added, retired, adopted; the runtime itself says what they are."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path

import pytest

from conftest import commit_all, files, judge, least, memory, onomaxis, snapshot
from onomaxis.brands.adopt import adopted as adopted_text
from onomaxis.brands.flavors import plan_flavor
from onomaxis.brands.new_flavor import FlavorWish
from onomaxis.brands.retirement import plan_retirement
from onomaxis.brands.subjects import subjects
from onomaxis.checks.inspection import look_over
from onomaxis.errors import OnomaxisError, RefusedError
from onomaxis.formats.script import ScriptFile
from onomaxis.projects.flavored_files import files_of
from onomaxis.projects.frameworks.variants import asked, parts_of
from onomaxis.surveys.survey import read_projects
from onomaxis.tree import Tree
from onomaxis.writing.change import applied

PACKAGE = '{\n  "name": "lendspan",\n  "scripts": {\n    "start:mossgate": "APP_VARIANT=mossgate run start"\n  },\n  "dependencies": { "expo": "54.0.0" }\n}\n'
BODY = "{{\n  name: {name},\n  slug: 'lendspan',\n  version: '1.2.0',\n  ios: {{ bundleIdentifier: {id}, buildNumber: '7' }},\n  android: {{ package: {id}, versionCode: 7 }},\n}};\n"
ENV = "process.env.APP_VARIANT"
PAIRS = {"alderbank": ("Alderbank", "org.lendspan.alderbank"), "mossgate": ("Mossgate", "org.lendspan.mossgate")}
PLAIN = ("Lendspan", "org.lendspan.app")


def table(quote: str = "'", tail: str = ",") -> str:
    rows = "".join(
        f"  {key}: {{ name: {quote}{name}{quote}, id: {quote}{id_}{quote} }}{tail if key == 'mossgate' else ','}\n" for key, (name, id_) in PAIRS.items()
    )
    return f"const brands = {{\n{rows}}};\n"


def chain(at: int) -> str:
    return "".join(f"{ENV} === '{key}' ? '{PAIRS[key][at]}' : " for key in PAIRS) + f"'{PLAIN[at]}'"


def cases(name: str, at: int) -> str:
    rows = "".join(f"    case '{key}':\n      return '{pair[at]}';\n" for key, pair in PAIRS.items())
    return f"function {name}() {{\n  switch ({ENV}) {{\n{rows}    default:\n      return '{PLAIN[at]}';\n  }}\n}}\n"


def ifs(name: str, at: int) -> str:
    rows = "".join(f"  if ({ENV} === '{key}') {{\n    return '{pair[at]}';\n  }}\n" for key, pair in PAIRS.items())
    return f"const {name} = () => {{\n{rows}  return '{PLAIN[at]}';\n}};\n"


def elses(name: str, at: int) -> str:
    rows = " else ".join(f"if (asked === '{key}') {{ return '{pair[at]}'; }}" for key, pair in PAIRS.items())
    return f"function {name}(asked) {{\n  {rows} else {{ return '{PLAIN[at]}'; }}\n}}\n"


HANDED = f"named({ENV})", f"idOf({ENV})"
OWN = "".join(f"const IS_{key.upper()} = {ENV} === '{key}';\n" for key in PAIRS)
OWN_CHAINS = ["".join(f"IS_{key.upper()} ? '{PAIRS[key][at]}' : " for key in PAIRS) + f"'{PLAIN[at]}'" for at in (0, 1)]
# What stands before the configuration, what its name and its ID say, whether an app without a variant is built.
STYLES: dict[str, tuple[str, str, str, bool]] = {
    "table": (f"const asked = {ENV};\n{table()}", "brands[asked].name", "brands[asked].id", False),
    "table, double quotes, no comma": (table('"', ""), f"brands[{ENV}].name", f"brands[{ENV}].id", False),
    "table with a default": (f"const asked = {ENV} || 'alderbank';\n{table()}", "brands[asked].name", "brands[asked].id", True),
    "one table each": (
        "".join(f"const {n} = {{ {', '.join(f'{key}: {pair[at]!r}' for key, pair in PAIRS.items())} }};\n" for at, n in enumerate(("names", "ids"))),
        f"names[{ENV}]", f"ids[{ENV}]", False,
    ),
    "table asked with a default": (table(), f"brands[{ENV} ?? 'alderbank'].name", f"brands[{ENV} ?? 'alderbank'].id", True),
    "tables, else the app's own": (
        f"const asked = {ENV};\n" + "".join(f"const {n} = {{ {', '.join(f'{key}: {pair[at]!r}' for key, pair in PAIRS.items())} }};\n" for at, n in enumerate(("names", "ids"))),
        f"names[asked] || '{PLAIN[0]}'", f"(ids[asked] ?? ' {PLAIN[1]}\\n').trim()", True,
    ),
    "choices": ("", chain(0), chain(1), True),
    "names of their own": (OWN, *OWN_CHAINS, True),
    "cases": (cases("named", 0) + cases("idOf", 1), "named()", "idOf()", True),
    "ifs": (ifs("named", 0) + ifs("idOf", 1), "named()", "idOf()", True),
    "else ifs, handed in": (elses("named", 0) + elses("idOf", 1), *HANDED, True),
    "a key in brackets": ("", chain(0).replace(ENV, "process.env['APP_VARIANT']"), chain(1), True),
    "turned round": ("", chain(0).replace(f"{ENV} === 'mossgate'", f"'mossgate' === {ENV}"), chain(1), True),
}  # fmt: skip


def project(style: str, newline: str = "\n") -> dict[str, str]:
    head, name, id_, _ = STYLES[style]
    return {"package.json": PACKAGE, "app.config.js": (head + "module.exports = " + BODY.format(name=name, id=id_)).replace("\n", newline)}


def adopt(tree: Tree) -> Tree:
    """Return a tree with the identity file that adopting it writes."""
    return tree.overlay({"onomaxis.toml": adopted_text(subjects(read_projects(tree)), {}).encode()}, ())


def said(tree: Tree) -> dict[str, dict[str, tuple[str, str]]]:
    """Return by flavor and platform what the program reads."""
    found: dict[str, dict[str, tuple[str, str]]] = {}
    for item in read_projects(tree):
        for app in item.apps:
            found.setdefault(app.flavor, {})[app.platform] = (app.name.text if app.name else "", app.id.text if app.id else "")
    return found


def ran(text: str, variant: str) -> dict:
    """Return the configuration as the runtime makes it."""
    script = f"const m = {{}};(function (module) {{\n{text}\n}})(m);console.log(JSON.stringify(m.exports));"
    env = {"PATH": "/usr/bin", **({"APP_VARIANT": variant} if variant else {})}
    done = subprocess.run([judge("node"), "-e", script], capture_output=True, text=True, env=env, check=True)
    return json.loads(done.stdout)


# What stands before a configuration in TypeScript, and types its name.
TYPES = [
    "type Brand = { name: string; id: string };\n", "type Of<T> = { name: T, id: T };\n", "const typed = (x: { name: string }): { id: string } => x;\n",
    "interface Brand { name: string; id: string }\n", "let old: { name: string, id: string } = undefined as any;\n",
    "const more: Record<string, { name: string; id: string }> = {};\n", "const f: (x: { id: string }) => { name: string } = (x) => x;\n",
]  # fmt: skip


@pytest.mark.parametrize("types", TYPES)
@pytest.mark.parametrize("style", ["table", "table asked with a default", "choices"])
def test_types_are_no_values(style: str, types: str) -> None:
    """A script with types says what it says without them, and a new variant is written where it is written without."""
    plain, typed = (memory({"package.json": PACKAGE, f"app.config.{end}": head + project(style)["app.config.js"]}) for end, head in (("js", ""), ("ts", types)))
    assert said(typed) == said(plain)
    made = [applied(tree, plan_flavor(tree, NEW).changes).read(f"app.config.{end}") or b"" for tree, end in ((plain, "js"), (typed, "ts"))]
    assert made[1] == types.encode() + made[0]


NEW = FlavorWish("pennywick", id="org.lendspan.pennywick", shown="Penny's Wick")


@pytest.mark.parametrize("newline", ["\n", "\r\n"], ids=["lf", "crlf"])
@pytest.mark.parametrize("style", STYLES)
def test_a_variant_comes_and_goes(style: str, newline: str) -> None:
    """It is called as asked, the others as before; with it gone every byte is as it was."""
    before = memory(project(style, newline))
    known, plain = said(before), STYLES[style][3]
    usual = {"alderbank", "mossgate"} - ({"alderbank"} if "default" in style else set())
    assert set(known) == usual | ({""} if plain else set())
    after = applied(before, plan_flavor(before, NEW).changes)
    both = dict.fromkeys(("android", "ios"), ("Penny's Wick", "org.lendspan.pennywick"))
    assert said(after) == {**known, "pennywick": both}
    assert '"start:pennywick": "APP_VARIANT=pennywick run start"' in (after.read("package.json") or b"").decode()
    assert (after.read("app.config.js") or b"").count(b"\r\n") == ((after.read("app.config.js") or b"").count(b"\n") if newline == "\r\n" else 0)
    gone = applied(after, plan_retirement(after, "pennywick").changes)
    assert {path: gone.read(path) for path in gone.files} == {path: before.read(path) for path in before.files}
    assert set(said(applied(before, plan_retirement(before, "mossgate").changes))) == set(known) - {"mossgate"}


@pytest.mark.processes
@pytest.mark.parametrize("style", STYLES)
def test_the_runtime_says_the_same(style: str) -> None:
    """Every variant, before and after, is what the script gives when it is run."""
    before = memory(project(style))
    after = applied(before, plan_flavor(before, NEW).changes)
    gone = applied(after, plan_retirement(after, "mossgate").changes)
    for tree in (before, after, gone):
        text = (tree.read("app.config.js") or b"").decode()
        for flavor, platforms in said(tree).items():
            made = ran(text, flavor)
            assert platforms == {"android": (made["name"], made["android"]["package"]), "ios": (made["name"], made["ios"]["bundleIdentifier"])}, flavor


# What people write around a variant: the script, and what of it stands once mossgate is gone.
AROUND = [
    (f"const t = {{\n  alderbank: 'A', // the first\n  mossgate: 'M', // a note of its own\n  ...more,\n}};\nconst n = t[{ENV}];\n", ["// the first", "...more", "alderbank: 'A'"]),
    (f"const t = {{ alderbank: 'A', ...more, mossgate: 'M' }};\nconst n = t[{ENV}];\n", ["...more"]),
    (f"const t = {{\n  ...more,\n  mossgate: 'M',\n  // the second\n  alderbank: 'A',\n}};\nconst n = t[{ENV}];\n", ["...more", "// the second"]),
    (f"const f = () => {{\n  // asked first\n  if ({ENV} === 'mossgate') {{ return 'M'; }}\n  // everything else\n  if ({ENV} === 'alderbank') return 'A';\n  return 'L';\n}};\nconst n = f();\n", ["// asked first", "// everything else", "return 'L'"]),
    (f"function f() {{\n  switch ({ENV}) {{\n    // one\n    case 'mossgate':\n      return 'M';\n    // two\n    case 'alderbank':\n      return 'A';\n    default:\n      return 'L';\n  }}\n}}\nconst n = f();\n", ["// one", "// two"]),
    (f"function f() {{\n  switch (process.platform) {{ case 'mossgate': return 'p'; }}\n  return {ENV} === 'mossgate' ? 'M' : {ENV} === 'alderbank' ? 'A' : 'L';\n}}\nconst n = f();\n", ["case 'mossgate': return 'p';"]),
]  # fmt: skip


@pytest.mark.parametrize(("head", "stays"), AROUND)
def test_what_people_wrote_around_a_variant_stays(head: str, stays: list[str]) -> None:
    """Comments, spreads and other switches beside a variant are nobody's to take; what is left reads as a script."""
    before = memory({"package.json": PACKAGE, "app.config.js": f"const more = {{}};\n{head}module.exports = {{ name: 'x', id: n }};\n"})
    script = ScriptFile(before.read("app.config.js") or b"")
    text = script.view
    cuts = [part.cut for part in parts_of(script, "mossgate", ["alderbank", "mossgate"])]
    assert cuts
    for start, end in reversed(cuts):
        text = text[:start] + text[end:]
    assert all(part in text for part in stays), text
    assert "'M'" not in text
    for variant in ("alderbank", ""):
        assert ran(text.replace("case 'mossgate'", "case 'x'"), variant).get("id") == ran(script.view, variant).get("id")


def test_an_else_with_a_comment_before_it_is_left_and_named() -> None:
    """Where a comment stands between a block and its else, nothing is cut: the variant is named instead."""
    text = f"const f = () => {{ if ({ENV} === 'mossgate') {{ return 'M'; }} /* else */ else {{ return 'L'; }} }};\n"
    assert parts_of(ScriptFile(text.encode()), "mossgate", ["mossgate"]) == []


def test_quotes_and_encodings_of_a_script() -> None:
    """New text stands in the script's own quotes; what its encoding cannot hold is refused with its file."""
    script = f'module.exports = {{ name: "L", ios: {{ bundleIdentifier: "a.b" }}, android: {{ package: {ENV} === "x" ? "a.b.x" : "a.b" }} }};\n'
    before = memory({"package.json": PACKAGE, "app.config.js": script})
    after = applied(before, plan_flavor(before, NEW).changes)
    text = (after.read("app.config.js") or b"").decode()
    assert f'{ENV} === "pennywick" ? "Penny\'s Wick" : "L"' in text and "'org" not in text
    old = memory({"package.json": PACKAGE, "app.config.js": script.encode() + "// h\u00f6he\n".encode("latin-1")})
    with pytest.raises(OnomaxisError) as refused:
        plan_flavor(old, NEW._replace(shown="M\u00f6we"))
    assert refused.value.exit_code in (2, 3)


def test_the_first_variant_of_a_script() -> None:
    """A script that knows none makes its first by the usual variable; a static file is stamped instead."""
    script = "module.exports = " + BODY.format(name="'Lendspan'", id="'org.lendspan.app'")
    before = memory({"package.json": PACKAGE.replace("mossgate", "x"), "app.config.js": script})
    after = applied(before, plan_flavor(before, NEW).changes)
    assert said(after)["pennywick"]["ios"] == ("Penny's Wick", "org.lendspan.pennywick") and said(after)[""]["ios"] == ("Lendspan", "org.lendspan.app")
    gone = applied(after, plan_retirement(after, "pennywick").changes)
    assert gone.read("app.config.js") == script.encode()
    static = {"expo": {"name": "L", "ios": {"bundleIdentifier": "a.b"}, "android": {"package": "a.b"}}}
    plain = memory({"package.json": PACKAGE, "app.json": json.dumps(static, indent=2) + "\n"})
    planned = plan_flavor(plain, NEW)
    assert planned.empty and any("it is stamped" in note.text for note in planned.notes)


BESIDE = {
    "public/mossgate/manifest.json": '{\n  "name": "Mossgate",\n  "short_name": "Moss",\n  "id": "/mossgate"\n}\n',
    "public/index.mossgate.html": "<title>Mossgate</title>\n<a href='/mossgate/'>org.lendspan.mossgate</a>\n",
    "mossgate.webmanifest": '{"name": "Mossgate"}\n',
    ".env.mossgate": "TITLE=Mossgate\r\nURL=https://mossgate.lendspan.org\r\n",
    "profiles.json": '{\n  "build": {\n    "mossgate": { "env": { "APP_VARIANT": "mossgate" } }\n  }\n}\n',
    ".env": "TITLE=Lendspan\n", "public/index.html": "<title>Lendspan</title>\n", "notes/mossgate.txt": "Mossgate\n",
    "android/app/src/mossgate/assets/index.html": "<title>Mossgate</title>\n", "other.json": '{"build": {"mossgate": {"env": {"OTHER": "mossgate"}}}}\n',
}  # fmt: skip


def test_pages_and_settings_of_a_variant(tmp_path: Path) -> None:
    """Manifest, page, environment and ways to build of a sibling become those of the new one, and go with it."""
    root = files(tmp_path / "x", {**project("choices"), **BESIDE})
    commit_all(root)
    before = snapshot(root)
    done = onomaxis("flavor", "add", "pennywick", root, "--id", "org.lendspan.pennywick", "--shown", "Penny & Wick")
    assert done.code == 0 and "look it over" in done.out + done.err
    made = {path: (root / path).read_bytes().decode() for path in sorted(set(snapshot(root)) - set(before)) if not path.endswith("/")}
    assert set(made) == {"public/pennywick/manifest.json", "public/index.pennywick.html", "pennywick.webmanifest", ".env.pennywick"}
    assert json.loads(made["public/pennywick/manifest.json"]) == {"name": "Penny & Wick", "short_name": "Moss", "id": "/pennywick"}
    assert made["public/index.pennywick.html"] == "<title>Penny &amp; Wick</title>\n<a href='/pennywick/'>org.lendspan.pennywick</a>\n"
    assert made[".env.pennywick"] == "TITLE=Penny & Wick\r\nURL=https://pennywick.lendspan.org\r\n"
    assert json.loads((root / "profiles.json").read_text())["build"]["pennywick"] == {"env": {"APP_VARIANT": "pennywick"}}
    assert "pennywick" not in (root / "other.json").read_text()
    commit_all(root)
    assert onomaxis("flavor", "retire", "pennywick", root).code == 0 and snapshot(root) == before


def test_a_page_that_bears_another_name() -> None:
    """The name under which another variant is shown, in a manifest or a page; its own name, and longer ones, are right."""
    beside = {f"public/{name}/manifest.json": json.dumps({"name": pair[0], "short_name": name[:4]}) for name, pair in PAIRS.items()}
    beside |= {f"index.{name}.html": f"<title>{pair[0]}</title>\n" for name, pair in PAIRS.items()}
    contents = {**project("choices"), **beside}

    def found(changed: dict[str, str]) -> list[tuple[str, str]]:
        findings = look_over(memory({**contents, **changed}), ["flavors"])[0]
        return [(item.at[0][0], item.message) for item in findings if item.rule.code == "FLAVOR13"]

    path = "public/mossgate/manifest.json"
    assert found({}) == [] == found({path: beside[path].replace("Mossgate", "Mossgate of Alderbank")})
    ((file, message),) = found({path: beside[path].replace("Mossgate", "Alderbank")})
    assert file == path and "bears the name of alderbank" in message
    assert [file for file, _ in found({"index.mossgate.html": "<title>Alderbank</title>\n"})] == ["index.mossgate.html"]


@pytest.mark.parametrize(
    ("beside", "own"), [("app.js", False), ("style.css", False), ("package.json", False), ("icon-192.png", True), ("browserconfig.xml", True)]
)
def test_a_folder_with_code_is_a_site_of_its_own(beside: str, own: bool) -> None:
    """A page beside its scripts and styles is not a flavor's page: it neither gets a twin nor goes with the flavor."""
    for folder in ("", "web/"):
        tree = memory({f"{folder}mossgate/index.html": "x", f"{folder}mossgate/deep/{beside}": "x", "other.js": "x"})
        assert list(files_of(tree, "", "mossgate")) == ([f"{folder}mossgate/index.html"] if own else [])


@pytest.mark.parametrize(
    "text",
    ["const a{n} = process.env.APP_VARIANT === 'mossgate';", "case 'mossgate':", "if (x === 'mossgate') ", "a.mossgate ? 'mossgate' : ", "const a{n} = 1;"],
)
def test_a_script_that_goes_on_and_on_is_read_soon(text: str) -> None:
    """Reading what of it is a variant's grows with its length, not with the square of it."""

    def read(number: int) -> None:
        script = ScriptFile("\n".join(text.format(n=n) for n in range(number)).encode())
        parts_of(script, "mossgate", ["alderbank", "mossgate"])
        asked(script, ["mossgate"])

    some = least(lambda: read(300), 0)
    enough = 8 * some + 0.1
    assert least(lambda: read(1200), enough) <= enough


@pytest.mark.parametrize(
    "text",
    [
        "switch (", "case 'mossgate':", "if (process.env.X === 'mossgate'", "x = process.env.X === 'mossgate' ? (", "const a = { mossgate", "'mossgate' ===",
        "=== 'mossgate'", "{ alderbank: 1, mossgate: }", "else if (process.env.X == 'mossgate')", "process.env.X === 'mossgate' ? 1 :", "const mossgate = mossgate;",
    ],
)  # fmt: skip
def test_scripts_that_are_not_whole(text: str) -> None:
    """Whatever stands there, reading ends, and nothing is taken for a variant that is none."""
    contents = {**project("choices"), "app.config.ts": text}
    tree = memory(contents)
    said(tree)
    for plan in (lambda: plan_flavor(tree, NEW), lambda: plan_retirement(tree, "mossgate")):
        try:
            changed = applied(tree, plan().changes)
        except RefusedError:
            continue
        assert changed.read("package.json")
