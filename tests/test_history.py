"""What a branch changes about an identity: what is told equals what was done, whatever was done."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image

from conftest import Trap, commit_all, files, onomaxis
from onomaxis.history.differences import GUARDS
from test_checks import BUILD, MAIN, PBX, clean

MIPMAP = "app/src/main/res/mipmap-hdpi/ic_launcher.png"
ICONSET = "ios/App/Assets.xcassets/AppIcon.appiconset"
Row = tuple[str, str, str, str | None, str | None]


def sub(path: str, old: str, new: str, count: int = 0) -> Callable[[Path], None]:
    def edit(root: Path) -> None:
        text = (root / path).read_text()
        assert old in text, (path, old)
        (root / path).write_text(text.replace(old, new, count or -1))

    return edit


def paint(path: str, color: str) -> Callable[[Path], None]:
    def edit(root: Path) -> None:
        Image.new("RGB", (72, 72), color).save(root / path)

    return edit


def all_of(*edits: Callable[[Path], None]) -> Callable[[Path], None]:
    def edit(root: Path) -> None:
        for one in edits:
            one(root)

    return edit


def ours(*words: str) -> Callable[[Path], None]:
    def edit(root: Path) -> None:
        done = onomaxis(
            words[0],
            *words[1:2] if words[0] == "flavor" else (),
            *words[2:3] if words[0] == "flavor" else (),
            root,
            *words[3 if words[0] == "flavor" else 1 :],
            "--allow-dirty",
            "--yes",
        )
        assert done.code == 0, done.err

    return edit


def moved(old: str, new: str) -> Callable[[Path], None]:
    def edit(root: Path) -> None:
        (root / new).parent.mkdir(parents=True, exist_ok=True)
        shutil.move(root / old, root / new)

    return edit


A, M = ("android", "alderbank"), ("android", "mossgate")
EVERY_A = [A, M]
EVERY_I = [("ios", ""), ("ios", "alderbank"), ("ios", "mossgate")]


def rows(where: list[tuple[str, str]], facet: str, before: str | None, after: str | None) -> set[Row]:
    return {(*one, facet, before, after) for one in where}


# What was done; the rows that tell it, what came and what went (platform and flavor).
BRANCHES: dict[str, tuple[Callable[[Path], None], set[Row], set[tuple[str, str]], set[tuple[str, str]]]] = {
    "nothing": (lambda root: None, set(), set(), set()),
    "a comment": (sub(BUILD, "android {", "// what ships\nandroid {"), set(), set(), set()),
    "lines moved": (sub("app/src/main/res/values/strings.xml", "<resources>", "<resources>\n\n\n"), set(), set(), set()),
    "a version": (sub(BUILD, 'versionName = "1.2"', 'versionName = "1.3"'), rows(EVERY_A, "version", "1.2", "1.3"), set(), set()),
    "a build": (sub(BUILD, "versionCode = 7", "versionCode = 8"), rows(EVERY_A, "build", "7", "8"), set(), set()),
    "versions of Apple": (sub(PBX, "MARKETING_VERSION = 1.2;", "MARKETING_VERSION = 2.0;"), rows(EVERY_I, "version", "1.2", "2.0"), set(), set()),
    "a flavor's ID": (
        sub(BUILD, '"org.lendspan.mossgate"', '"org.lendspan.moss"'),
        rows([M], "id", "org.lendspan.mossgate", "org.lendspan.moss") | rows([M], "service:google-android", "org.lendspan.mossgate", None),
        set(),
        set(),
    ),
    "a suffix": (
        sub(BUILD, '".alderbank"', '".alder"'),
        rows([A], "id", "org.lendspan.app.alderbank", "org.lendspan.app.alder") | rows([A], "service:google-android", "org.lendspan.app.alderbank", None),
        set(),
        set(),
    ),
    "the app's ID": (
        sub(BUILD, 'applicationId = "org.lendspan.app"', 'applicationId = "org.lendspan.base"'),
        rows([A], "id", "org.lendspan.app.alderbank", "org.lendspan.base.alderbank") | rows([A], "service:google-android", "org.lendspan.app.alderbank", None),
        set(),
        set(),
    ),
    "an ID of Apple": (
        sub(PBX, "org.lendspan.mossgate;", "org.lendspan.moss;"),
        rows([("ios", "mossgate")], "id", "org.lendspan.mossgate", "org.lendspan.moss")
        | rows([("ios", "mossgate")], "service:google-ios", "org.lendspan.mossgate", None),
        set(),
        set(),
    ),
    "a name": (sub("app/src/mossgate/res/values/strings.xml", "Mossgate", "Moss"), rows([M], "name", "Mossgate", "Moss"), set(), set()),
    "a name of Apple": (sub(PBX, "APP_NAME = Mossgate;", "APP_NAME = Moss;"), rows([("ios", "mossgate")], "name", "Mossgate", "Moss"), set(), set()),
    "a name in a language": (
        lambda root: files(root, {"app/src/main/res/values-de/strings.xml": '<resources><string name="app_name">Leihe</string></resources>\n'}) and None,
        rows(EVERY_A, "name:de", None, "Leihe"),
        set(),
        set(),
    ),
    "a picture": (paint(MIPMAP, "blue"), rows(EVERY_A, "icon", "*", "*"), set(), set()),
    "a picture for one": (
        all_of(lambda root: (root / MIPMAP.replace("main", "mossgate")).parent.mkdir(parents=True), paint(MIPMAP.replace("main", "mossgate"), "blue")),
        rows([M], "icon", "*", "*"),
        set(),
        set(),
    ),
    "a picture of Apple": (paint(f"{ICONSET}/icon.png", "blue"), rows(EVERY_I, "icon", "*", "*"), set(), set()),
    "a permission": (
        sub(MAIN, "<application", '<uses-permission android:name="android.permission.CAMERA"/>\n    <application', 1),
        rows(EVERY_A, "permission", None, "android.permission.CAMERA"),
        set(),
        set(),
    ),
    "a module of another name": (
        all_of(moved("app", "client"), sub("settings.gradle.kts", ":app", ":client"), sub("onomaxis.toml", "format = 1\n", "format = 1\n")),
        rows(EVERY_A, "module", "app", "client"),
        set(),
        set(),
    ),
    "a module in another folder": (all_of(moved("app", "apps/app"), sub("settings.gradle.kts", ":app", ":apps:app")), set(), set(), set()),
    "a flavor of another name": (
        all_of(
            sub(BUILD, 'create("mossgate")', 'create("moss")'),
            moved("app/src/mossgate", "app/src/moss"),
            sub("onomaxis.toml", "[flavors.mossgate", "[flavors.moss"),
        ),
        rows([("android", "moss")], "flavor", "mossgate", "moss"),
        set(),
        set(),
    ),
    "a flavor added": (
        ours("flavor", "add", "pennywick", "--id", "org.lendspan.penny", "--shown", "Penny", "--platform", "android"),
        set(),
        {("android", "pennywick")},
        set(),
    ),
    "a flavor retired": (
        sub(BUILD, '        create("mossgate") {\n            dimension = "brand"\n            applicationId = "org.lendspan.mossgate"\n        }\n', ""),
        set(),
        set(),
        {M},
    ),
    "a service": (
        sub("app/src/mossgate/google-services.json", '"project_number": "1000"', '"project_number": "2000"'),
        rows([M], "service:google-android", "*", "*"),
        set(),
        set(),
    ),
    "a service gone": (
        lambda root: (root / "app/src/mossgate/google-services.json").unlink(),
        rows([M], "service:google-android", "org.lendspan.mossgate", None),
        set(),
        set(),
    ),
    "a service of another ID": (
        sub("app/src/mossgate/google-services.json", "org.lendspan.mossgate", "org.lendspan.other"),
        rows([M], "service:google-android", "org.lendspan.mossgate", None),
        set(),
        set(),
    ),
}


def shop(root: Path) -> Path:
    contents = clean()
    contents[MAIN] = contents[MAIN].replace("<application ", '<application android:icon="@mipmap/ic_launcher" ', 1)
    contents[f"{ICONSET}/Contents.json"] = json.dumps({"images": [{"filename": "icon.png", "idiom": "universal", "size": "1024x1024"}]})
    made = files(root, contents)
    for path in (MIPMAP, f"{ICONSET}/icon.png"):
        (made / path).parent.mkdir(parents=True, exist_ok=True)
        Image.new("RGB", (72, 72), "red").save(made / path)
    commit_all(made)
    return made


@pytest.fixture(scope="module")
def origin(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return shop(tmp_path_factory.mktemp("origin") / "x")


def told(root: Path, *more: str) -> tuple[set[Row], dict[str, object], int]:
    done = onomaxis("survey", root, "--since", "HEAD", "--json", *more)
    document = done.json
    found = {(item["platform"], item["flavor"], item["facet"], item["before"], item["after"]) for item in document["changes"]}
    return found, document, done.code


def alike(found: set[Row], wanted: set[Row]) -> bool:
    """Compare rows; a star stands for an opaque text that differs from the other side's."""
    stars = {row[:3] for row in wanted if row[3] == "*"}
    opaque = {row for row in found if row[:3] in stars}
    return (
        {row[:3] for row in opaque} == stars
        and all(row[3] != row[4] and row[3] and row[4] for row in opaque)
        and found - opaque == {row for row in wanted if row[3] != "*"}
    )


@pytest.mark.parametrize("branch", BRANCHES)
@pytest.mark.parametrize("committed", [False, True], ids=["as it lies", "committed"])
def test_what_a_branch_changes(tmp_path: Path, origin: Path, branch: str, committed: bool) -> None:
    """Rows, what came and what went equal what was done; back again tells the same the other way round."""
    root = tmp_path / "x"
    shutil.copytree(origin, root)
    edit, wanted, added, retired = BRANCHES[branch]
    edit(root)
    found, document, code = told(root)
    named = [{(item["platform"], item["flavor"]) for item in document[key]} for key in ("added", "retired")]  # type: ignore[index, union-attr]
    assert alike(found, wanted), found ^ wanted
    assert named == [added, retired] and code == 0
    assert re.fullmatch("[0-9a-f]{40}", str(document["since"]))
    for item in document["changes"]:  # type: ignore[union-attr]
        for at in (item["at"], item["was_at"]):
            assert at is None or (at["line"] > 0 and not at["file"].startswith("/"))
        assert item["at"] is None or (root / item["at"]["file"]).is_file()
    if committed:
        commit_all(root)
        subprocess.run(["git", "-C", root, "checkout", "-q", "HEAD~1"], check=True, capture_output=True)
        back = onomaxis("survey", root, "--since", "HEAD@{1}", "--json").json
        turned = {(i["platform"], i["flavor"], i["facet"], i["after"], i["before"]) for i in back["changes"] if i["facet"] not in ("flavor", "module")}
        assert alike(turned, {row for row in wanted if row[2] not in ("flavor", "module")})
        assert [{(i["platform"], i["flavor"]) for i in back[key]} for key in ("retired", "added")] == [added, retired]
        assert onomaxis("survey", root, "--since", "HEAD@{1}...", "--json").json["changes"] == []


@pytest.mark.parametrize(
    "branch", ["nothing", "a version", "a flavor's ID", "a name", "a picture", "a permission", "a service", "a flavor retired", "a flavor added"]
)
def test_guards(tmp_path: Path, origin: Path, branch: str) -> None:
    """Each guard sees its own facets, says so in one line, and nothing else; --exit-code sees all."""
    root = tmp_path / "x"
    shutil.copytree(origin, root)
    BRANCHES[branch][0](root)
    wanted = {
        "a version": "version",
        "a flavor's ID": "id",
        "a name": "name",
        "a picture": "icon",
        "a permission": "permissions",
        "a service": "services",
        "a flavor retired": "id",
    }.get(branch)
    for guard in GUARDS:
        done = onomaxis("survey", root, "--since", "HEAD", "--guard", guard)
        seen = guard == wanted or (branch == "a flavor's ID" and guard == "services")
        assert done.code == (1 if seen else 0), (guard, done.err)
        assert bool(done.err.strip()) == seen
    assert onomaxis("survey", root, "--since", "HEAD", "--exit-code").code == (0 if branch == "nothing" else 1)
    if branch == "a flavor's ID":
        said = onomaxis("survey", root, "--since", "HEAD", "--guard", "id,name").err
        assert "Android mossgate: ID changes from org.lendspan.mossgate to org.lendspan.moss; 1 published build carries the old one (ledger)" in " ".join(
            said.split()
        )


def test_values_and_secrets_as_the_identity_file_gives_them(tmp_path: Path) -> None:
    """A value's row is each app's that takes it; a secret is told as changed, and not shown."""
    root = shop(tmp_path / "x")
    text = (root / "onomaxis.toml").read_text() + '\n[values.motto]\nvalue = "lend"\n[values.key]\nsecret = true\nvalue = "k1"\n'
    (root / "onomaxis.toml").write_text(text)
    commit_all(root)
    (root / "onomaxis.toml").write_text(
        text.replace('value = "lend"', 'value = "borrow"').replace('"k1"', '"k2"') + '[flavors.mossgate.values]\nmotto = "quiet"\n'
    )
    found, document, _ = told(root)
    both = [("android", "alderbank"), ("ios", ""), ("ios", "alderbank")]
    assert {row for row in found if row[2] == "value:motto"} == rows(both, "value:motto", "lend", "borrow") | rows(
        [M, ("ios", "mossgate")], "value:motto", "lend", "quiet"
    )
    secret = [item for item in document["changes"] if item["facet"] == "value:key"]  # type: ignore[union-attr]
    assert len(secret) == 5 and all(item["secret"] and item["before"] is item["after"] is None for item in secret)
    whole = onomaxis("survey", root, "--since", "HEAD").out + onomaxis("survey", root, "--since", "HEAD", "--as", "markdown").out
    assert "k1" not in whole and "k2" not in whole and "••••" in whole
    assert onomaxis("survey", root, "--since", "HEAD", "--guard", "values").code == 1


def test_what_nobody_can_tell(tmp_path: Path, origin: Path) -> None:
    """A file that does not parse, a computed ID, an identity file that is broken: unresolved, no row, exit 3 for a guard."""
    root = tmp_path / "x"
    shutil.copytree(origin, root)
    sub(BUILD, 'applicationId = "org.lendspan.mossgate"', "applicationId = idOf(name)")(root)
    found, document, _ = told(root)
    assert not {row for row in found if row[2] == "id"}
    assert any(item["when"] == "now" and item["facet"] == "id" and item["file"] == BUILD for item in document["unresolved"])  # type: ignore[union-attr]
    done = onomaxis("survey", root, "--since", "HEAD", "--guard", "id")
    assert done.code == 3 and "the id (now) cannot be determined" in " ".join(done.err.split())
    assert onomaxis("survey", root, "--since", "HEAD", "--guard", "icon").code == 0
    commit_all(root)
    subprocess.run(["git", "-C", root, "checkout", "-q", "HEAD~1", "--", "."], check=True)
    then = onomaxis("survey", root, "--since", "HEAD", "--json").json
    assert any(item["when"] == "then" for item in then["unresolved"]) and not [i for i in then["changes"] if i["facet"] == "id"]
    (root / "onomaxis.toml").write_text("format = \n")
    broken = onomaxis("survey", root, "--since", "HEAD", "--json").json
    assert any(item["facet"] == "value" and item["file"] == "onomaxis.toml" and item["when"] == "now" for item in broken["unresolved"])
    assert onomaxis("survey", root, "--since", "HEAD", "--guard", "values").code == 3


def test_a_tree_that_had_no_project_then(tmp_path: Path) -> None:
    """Every app came since; the identity file too."""
    root = files(tmp_path / "x", {"readme.txt": "soon\n"})
    commit_all(root)
    files(root, clean())
    found, document, code = told(root)
    assert not found and code == 0 and len(document["added"]) == 5 and document["retired"] == []  # type: ignore[arg-type]


def test_revisions_that_cannot_be_read(tmp_path: Path, origin: Path) -> None:
    """No such revision, no repository, a bare one, a shallow clone, options that mean nothing alone: exit 2, in words."""
    root = tmp_path / "x"
    shutil.copytree(origin, root)
    for revision in ("none", "-x", "HEAD~9", "", "HEAD\n"):
        done = onomaxis("survey", root, "--since", revision) if revision else onomaxis("survey", root, "--guard", "id")
        assert done.code == 2 and "onomaxis: " in done.err, done.err
    unknown = onomaxis("survey", root, "--since", "HEAD", "--guard", "id,nmae")
    assert unknown.code == 2 and "nothing to guard" in unknown.err
    commit_all(root)
    (root / "more.txt").write_text("x")
    commit_all(root)
    shallow = tmp_path / "shallow"
    subprocess.run(["git", "clone", "-q", "--depth", "1", f"file://{root}", shallow], check=True, capture_output=True)
    done = onomaxis("survey", shallow, "--since", "HEAD~1")
    assert done.code == 2 and "--unshallow" in " ".join(done.err.split())
    bare = tmp_path / "bare"
    subprocess.run(["git", "clone", "-q", "--bare", root, bare], check=True, capture_output=True)
    assert onomaxis("survey", bare, "--since", "HEAD").code == 2
    shutil.rmtree(root / ".git")
    done = onomaxis("survey", root, "--since", "HEAD")
    assert done.code == 2 and "git cannot read revision HEAD" in done.err


def test_markdown_holds_no_markup_of_the_project(tmp_path: Path, origin: Path) -> None:
    """Names with bars, backticks and links stay texts in a comment."""
    root = tmp_path / "x"
    shutil.copytree(origin, root)
    sub("app/src/mossgate/res/values/strings.xml", "Mossgate", "a|b `c` [d](http://e) &lt;img>")(root)
    lines = onomaxis("survey", root, "--since", "HEAD", "--as", "markdown").out.splitlines()
    line = next(item for item in lines if "| name |" in item)
    assert len(re.split(r"(?<!\\)\|", line)) == 6 and "`` a\\|b `c` [d](http://e) <img> ``" in line


# -- what holds for a flavor, what a CI system builds


def test_the_matrix_of_a_ci_system(origin: Path) -> None:
    """An entry for each app of the survey, called as the build tools call it; what is not known is left out."""
    entries = json.loads(onomaxis("flavor", "list", origin, "--as", "matrix").out)["include"]
    apps = onomaxis("survey", origin, "--json").json["apps"]
    assert [(e["platform"], e.get("flavor", ""), e["id"], e["version"], e["build"]) for e in entries] == [
        (a["platform"], a["flavor"], a["id"], a["version"], a["build"]) for a in apps
    ]
    moss = next(e for e in entries if e["platform"] == "android" and e["flavor"] == "mossgate")
    assert (moss["variant"], moss["task"], moss["module"]) == ("mossgateRelease", ":app:bundleMossgateRelease", "app") and "scheme" not in moss
    apple = next(e for e in entries if e["platform"] == "ios" and e.get("flavor") == "mossgate")
    assert apple["configuration"] == "Release-mossgate" and "variant" not in apple
    assert all(isinstance(text, str) and text for entry in entries for text in entry.values())


def test_only_what_changed_is_built(tmp_path: Path, origin: Path) -> None:
    """With a revision, the matrix holds the apps whose identity or art changed, and those that came."""
    root = tmp_path / "x"
    shutil.copytree(origin, root)
    assert json.loads(onomaxis("flavor", "list", root, "--as", "matrix", "--changed-since", "HEAD").out) == {"include": []}
    sub("app/src/mossgate/res/values/strings.xml", "Mossgate", "Moss")(root)
    found = json.loads(onomaxis("flavor", "list", root, "--as", "matrix", "--changed-since", "HEAD").out)["include"]
    assert [(e["platform"], e["flavor"]) for e in found] == [M]
    assert onomaxis("flavor", "list", root, "--changed-since", "HEAD").code == 2


def test_what_holds_for_a_flavor(tmp_path: Path) -> None:
    """Every level is told with its line; what the file does not say is the project's; a secret shows when asked."""
    root = shop(tmp_path / "x")
    more = (
        '\n[app.values]\na = "app"\n[android.values]\nb = "platform"\n[flavors.mossgate.values]\nc = "flavor"\n[flavors.mossgate.android.values]\nd = "both"\n'
    )
    more += '[values.a]\n[values.b]\n[values.c]\nsecret = true\n[values.d]\n[values.e]\nvalue = "default"\n[values.f]\ntemplate = "{a}!"\n'
    (root / "onomaxis.toml").write_text("format = 1\n[flavors.mossgate]\nname = 'Mossgate'\n" + more)
    found = onomaxis("flavor", "show", "MossGate", root, "--json").json
    assert "values" in found, found
    android = {row["facet"]: row for row in found["values"] if row["platform"] == "android"}
    assert found["flavor"] == "mossgate"
    assert {key: (row["value"], row["level"]) for key, row in android.items() if key.startswith("value:")} == {
        "value:a": ("app", "app"), "value:b": ("platform", "platform"), "value:c": (None, "flavor"),
        "value:d": ("both", "flavor-platform"), "value:e": ("default", "value"), "value:f": ("app!", "template"),
    }  # fmt: skip
    assert android["value:c"]["secret"] and "secret" not in android["value:a"]
    assert (android["name"]["level"], android["name"]["from"]) == ("flavor", "onomaxis.toml:3")
    assert (android["id"]["value"], android["id"]["level"]) == ("org.lendspan.mossgate", "project") and android["id"]["from"].startswith(BUILD)
    assert any(row["value"] == "flavor" for row in onomaxis("flavor", "show", "mossgate", root, "--json", "--reveal").json["values"])
    assert "flavor-platform" in onomaxis("flavor", "show", "mossgate", root).out
    wrong = onomaxis("flavor", "show", "mosgate", root)
    assert wrong.code == 2 and "Did you mean “mossgate”?" in wrong.err


SMALL = {
    "settings.gradle.kts": 'include(":app")\n',
    BUILD: 'plugins { id("com.android.application") }\n\nandroid {\n    namespace = "org.lendspan.app"\n    defaultConfig {\n        applicationId = "org.lendspan.app"\n        versionCode = 7\n        versionName = "1.2"\n    }\n}\n',
    MAIN: '<manifest xmlns:android="http://schemas.android.com/apk/res/android">\n    <application android:label="Lendspan" android:icon="@mipmap/ic_launcher"/>\n</manifest>\n',
}


def test_the_history_of_a_repository_that_is_not_to_be_trusted(tmp_path: Path, trap: Trap) -> None:
    """Subjects and paths of control characters break nothing; no command that its settings name is run."""
    root = files(tmp_path / "x", {**SMALL})
    commit_all(root)
    (root / "app/build.gradle.kts").write_text(SMALL[BUILD].replace("versionCode = 7", "versionCode = 97"))
    (root / "odd\x01name").write_text("x")
    git = ["git", "-C", str(root), "-c", "user.name=a", "-c", "user.email=a@b.invalid"]
    subprocess.run([*git, "add", "-A"], check=True)
    subprocess.run([*git, "commit", "-qm", "bump \x01 \x1b[31m of \x01 a kind"], check=True)
    plain = subprocess.run([*git, "cat-file", "commit", "HEAD"], capture_output=True, check=True).stdout
    head, _, rest = plain.partition(b"\n\n")
    signed = head + b"\ngpgsig -----BEGIN PGP SIGNATURE-----\n x\n -----END PGP SIGNATURE-----\n\n" + rest
    made = subprocess.run([*git, "hash-object", "-t", "commit", "-w", "--stdin"], input=signed, capture_output=True, check=True).stdout.decode().strip()
    subprocess.run([*git, "reset", "-q", "--hard", made], check=True)
    for key, value in (("log.showSignature", "true"), ("gpg.program", str(trap.path)), ("diff.external", trap.word), ("core.pager", trap.word)):
        subprocess.run([*git, "config", key, value], check=True)
    subprocess.run([*git, "log", "-1"], capture_output=True, check=False)
    assert trap.sprung()
    done = onomaxis("survey", root, "--history", "--facet", "build", "--json")
    assert done.code == 0 and [(event["commit"], event["facet"]) for event in done.json["history"]] == [(made, "build")]
    assert "\x1b" not in onomaxis("survey", root, "--history").out
    assert onomaxis("survey", root, "--since", "HEAD~1", "--exit-code").code == 1
    assert not trap.sprung()


@pytest.mark.parametrize("encoding", ["utf-8", "utf-16"])
def test_a_colour_of_the_icon_in_any_encoding(tmp_path: Path, encoding: str) -> None:
    """The ground of an adaptive icon is a colour of a file of values: its change is one of the icon."""
    ground = '<?xml version="1.0" encoding="{}"?>\n<resources>\n    <color name="ground">#{}</color>\n</resources>\n'
    icon = '<adaptive-icon xmlns:android="http://schemas.android.com/apk/res/android"><background android:drawable="@color/ground"/></adaptive-icon>\n'
    res = "app/src/main/res"
    root = files(tmp_path / "x", {**SMALL, f"{res}/mipmap-anydpi-v26/ic_launcher.xml": icon, f"{res}/values/x.txt": ""})
    (root / res / "values/ground.xml").write_bytes(ground.format(encoding, "112233").encode(encoding))
    commit_all(root)
    assert onomaxis("survey", root, "--since", "HEAD", "--json").json["changes"] == []
    (root / res / "values/ground.xml").write_bytes(ground.format(encoding, "445566").encode(encoding))
    assert {row["facet"] for row in onomaxis("survey", root, "--since", "HEAD", "--json").json["changes"]} == {"icon"}


def test_a_comment_shows_no_controls(tmp_path: Path) -> None:
    """Markdown goes to a terminal too: what steers one is shown, not obeyed."""
    root = files(tmp_path / "x", {**SMALL})
    commit_all(root)
    (root / "app/build.gradle.kts").write_text(SMALL[BUILD].replace('versionName = "', 'versionName = "\x1b[2J'))
    out = onomaxis("survey", root, "--since", "HEAD", "--as", "markdown").out
    assert "versi" in out and "\x1b" not in out
