"""Brands in files of their own and in a table: read with their lines, refused in words, written where they stand."""

from __future__ import annotations

import csv
import io
import tomllib
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import commit_all, examples, files, onomaxis, snapshot
from onomaxis.brands.documents import apart
from onomaxis.brands.subjects import load_identity
from onomaxis.identity.reading import read_identity
from onomaxis.identity.table import brands_of, cell_said, flattened, new_table, rewritten_table, without_brand
from onomaxis.surveys.beside import Beside
from onomaxis.tree import Tree
from test_any_tree import KTS, android

NAME = "onomaxis.toml"
HEAD = 'format = 1\n[app]\nid = "org.lendspan"\n[values.tint]\ntype = "color"\nplaces = [{ resource = "color/tint" }]\n'
MOSS = '# the quiet ones\n[flavors.mossgate]\nid-suffix = ".moss"\nname = "Moss" # short\n[flavors.mossgate.names]\nde = "Moos"\n'


def tree(contents: dict[str, str | bytes]) -> Tree:
    return Tree.of({path: text if isinstance(text, bytes) else text.encode() for path, text in contents.items()})


def identity(contents: dict[str, str | bytes]):  # type: ignore[no-untyped-def]
    found = load_identity(tree(contents))
    assert found is not None
    return found


def test_all_forms_are_one_identity() -> None:
    """Brands of the file, of included ones, of those that they include, of the table: each with its file and line."""
    table = '\ufeffflavor;name;names.de;values.tint;services.hosts;build\r\nelm;"Elm; ""H""";Ulme;#112233;"a.org b.org\r\nc.org";7\r\n;;;;;\r\noak;;;;;\r\n'
    found = identity(
        {
            NAME: HEAD.replace("format = 1\n", 'format = 1\ninclude = ["brands/*.toml"]\nbrands = "brands.csv"\n') + '[flavors.lendspan]\nname = "L"\n',
            "brands/moss.toml": MOSS,
            "brands/more.toml": 'include = ["deep/*/x.toml", "brands/moss.toml"]\n',
            "deep/a/x.toml": '[flavors.ash]\nname = "Ash"\n',
            "deep/a/b/x.toml": '[flavors.no]\nname = "no"\n',
            "brands.csv": table,
        }
    )
    assert found.flavors == ("lendspan", "ash", "mossgate", "elm", "oak")
    moss, elm = found.brand("mossgate", "android"), found.brand("elm", "ios")
    assert moss.get("id") == "org.lendspan.moss" and moss.names["de"].text == "Moos"
    assert (found.home(moss.names["de"].line), moss.names["de"].line) == ("brands/moss.toml", 6)
    assert elm.get("name") == 'Elm; "H"' and elm.get("id") == "org.lendspan" and elm.get("build") == "7"
    assert [said.text for said in elm.hosts] == ["a.org", "b.org", "c.org"]
    assert (found.home(elm.values["tint"].line), elm.values["tint"].line) == ("brands.csv", 2)
    assert (found.home(found.line("flavors", "oak")), found.line("flavors", "oak")) == ("brands.csv", 5)
    assert (found.home(found.line("app", "id")), found.line("app", "id")) == (NAME, 5)


REFUSED: list[tuple[str, dict[str, str | bytes], str, int, str]] = [
    ("twice", {"b/a.toml": "[flavors.x]\n", "b/b.toml": '\n[flavors.x]\nname = "y"\n'}, "b/b.toml", 2, "the flavor x stands here and at b/a.toml:1"),
    ("case", {"b/a.toml": "[flavors.x]\n", "b/b.toml": "[flavors.X]\n"}, "b/b.toml", 1, "where it is spelled x"),
    ("in the file too", {"b/a.toml": "[flavors.lendspan]\n"}, "b/a.toml", 1, f"and at {NAME}:"),
    ("table too", {"b/a.toml": "[flavors.x]\n", "t.csv": "flavor,name\ny,a\nx,b\n"}, "t.csv", 3, "and at b/a.toml:1"),
    ("twice in the table", {"t.csv": "flavor,name\ny,a\ny,b\n"}, "t.csv", 3, "and at t.csv:2"),
    ("a circle", {"b/a.toml": 'include = ["b/b.toml"]\n', "b/b.toml": 'include = ["b/a.toml"]\n'}, "b/b.toml", 1, "b/a.toml → b/b.toml → b/a.toml"),
    ("itself", {"b/a.toml": 'include = ["b/a.toml"]\n'}, "b/a.toml", 1, "include each other"),
    ("outside", {"b/a.toml": 'include = ["../x.toml"]\n'}, "b/a.toml", 1, "not a path below"),
    ("absolute", {"b/a.toml": 'include = ["/x.toml"]\n'}, "b/a.toml", 1, "not a path below"),
    ("not there", {"b/a.toml": 'include = ["b/none.toml"]\n'}, "b/a.toml", 1, "there is no file b/none.toml"),
    ("app", {"b/a.toml": '[app]\nname = "x"\n'}, "b/a.toml", 1, f"“app” stands in {NAME} only"),
    ("values", {"b/a.toml": "[values.x]\n"}, "b/a.toml", 1, f"“values” stands in {NAME} only"),
    ("key", {"b/a.toml": '[flavors.x]\nnmae = "x"\n'}, "b/a.toml", 2, "Did you mean “name”?"),
    ("syntax", {"b/a.toml": "[flavors.x\n"}, "b/a.toml", 1, "not readable TOML"),
    ("bytes", {"b/a.toml": b"[flavors.x]\nname = '\xff'\n"}, "b/a.toml", 2, "not UTF-8"),
    ("color", {"t.csv": 'flavor,values.tint\nx,"\n\nred"\n'}, "t.csv", 2, "is not a colour"),
    ("undeclared", {"t.csv": "flavor,values.tnit\nx,red\n"}, "t.csv", 2, "Did you mean “tint”?"),
    ("column", {"t.csv": "flavor,nmae\nx,a\n"}, "t.csv", 1, "Did you mean “name”?"),
    ("column below", {"t.csv": "flavor,android.verison\nx,a\n"}, "t.csv", 1, "Did you mean “android.version”?"),
    ("column of a table", {"t.csv": "flavor,services\nx,a\n"}, "t.csv", 1, "no key “services”"),
    ("column twice", {"t.csv": "flavor,name,name\nx,a,b\n"}, "t.csv", 1, "columns 2 and 3"),
    ("first column", {"t.csv": "name,flavor\nx,a\n"}, "t.csv", 1, "not “flavor”"),
    ("too long", {"t.csv": "flavor,name\nx,a\ny,b,c\n"}, "t.csv", 3, "3 cells"),
    ("no name", {"t.csv": "flavor,name\n,a\n"}, "t.csv", 2, "names no flavor"),
    ("bad name", {"t.csv": "flavor,name\n../x,a\n"}, "t.csv", 2, "names no flavor"),
    ("open quote", {"t.csv": 'flavor,name\nx,"a\n'}, "t.csv", 2, "Are all quotes closed?"),
    ("latin", {"t.csv": "flavor,name\nx,a\ny,ü\n".encode("latin-1")}, "t.csv", 3, "not UTF-8"),
    ("wide", {"t.csv": "flavor,name\n".encode("utf-16")}, "t.csv", 1, "not UTF-8"),
    ("empty", {"t.csv": ""}, "t.csv", 1, "is empty"),
    ("a NUL", {"t.csv": "flavor,name\nx,a\0\n"}, "t.csv", 2, "NUL"),
]


@pytest.mark.parametrize(("contents", "file", "line", "said"), [row[1:] for row in REFUSED], ids=[row[0] for row in REFUSED])
def test_what_is_not_right_is_told_with_its_place(tmp_path: Path, contents: dict[str, str | bytes], file: str, line: int, said: str) -> None:
    """Exit 2, file and line of the brand's own file, what to do; nothing changes."""
    head = 'format = 1\ninclude = ["b/*.toml"]\n' + ('brands = "t.csv"\n' if "t.csv" in contents else "")
    text = HEAD.replace("format = 1\n", head) + '[flavors.lendspan]\nname = "L"\n'
    root = files(tmp_path, {**android(KTS.format("", "")), NAME: text})
    for path, content in contents.items():
        (root / path).parent.mkdir(exist_ok=True)
        (root / path).write_bytes(content if isinstance(content, bytes) else content.encode())
    before = snapshot(root)
    done = onomaxis("stamp", root)
    words = " ".join(done.err.split())
    assert done.code == 2 and f"{file}:{line}:" in words and said in words, done.err
    assert snapshot(root) == before


GROOVY = "plugins { id 'com.android.application' }\nandroid {\n  namespace 'org.lendspan'\n  defaultConfig { applicationId 'org.lendspan' }\n  flavorDimensions 'b'\n  productFlavors {\n    mossgate { dimension 'b'; applicationIdSuffix '.moss' }\n    elm { dimension 'b'; applicationId 'org.elm' }\n  }\n}\n"


def shop(root: Path) -> Path:
    contents = {path: text for path, text in android("").items() if not path.endswith(".kts")}
    return files(root, {**contents, "settings.gradle": "include ':app'\n", "app/build.gradle": GROOVY})


@pytest.mark.parametrize("form", ["--split", "--table"])
def test_adopting_apart_and_living_with_it(tmp_path: Path, form: str) -> None:
    """Written apart, it says the same; rename, add, again and retire keep every brand where it stands; undo is exact."""
    root = shop(tmp_path)
    onomaxis("adopt", root)
    whole = load_identity(Tree.open(root))
    (root / NAME).unlink()
    assert onomaxis("adopt", root, form).code == 0
    apart = load_identity(Tree.open(root))
    assert whole is not None and apart is not None and sorted(apart.flavors) == sorted(whole.flavors)
    for flavor in ("", *whole.flavors):
        mine, other = apart.brand(flavor, "android"), whole.brand(flavor, "android")
        assert {key: said.text for key, said in mine.facets.items()} == {key: said.text for key, said in other.facets.items()}
    assert onomaxis("stamp", root, "--json").json["files"] == []
    home = {"--split": "brands/{}.toml", "--table": "brands.csv"}[form]
    assert {apart.home(apart.line("flavors", name)) for name in apart.flavors} == {home.format(name) for name in apart.flavors}
    commit_all(root)
    before = snapshot(root)
    assert onomaxis("rename", root, "--flavor", "elm", "--id", "org.elms").code == 0
    assert "org.elms" in (root / home.format("elm")).read_text() and snapshot(root)[NAME] == before[NAME]
    assert onomaxis("stamp", root, "--json", "--allow-dirty").json["files"] == []
    assert onomaxis("flavor", "add", "oak", root, "--id", "org.oak", "--shown", "Oak, the", "--allow-dirty").code == 0
    later = load_identity(Tree.open(root))
    assert later is not None and later.home(later.line("flavors", "oak")) == home.format("oak")
    assert later.brand("oak", "android").get("name") == "Oak, the"
    assert onomaxis("stamp", root, "--json", "--allow-dirty").json["files"] == []
    assert onomaxis("flavor", "retire", "oak", root, "--allow-dirty").code == 0
    assert onomaxis("undo", root, "--allow-dirty").code == 0
    assert onomaxis("flavor", "retire", "mossgate", root, "--allow-dirty").code == 0
    left = load_identity(Tree.open(root))
    assert left is not None and "mossgate" not in left.flavors and "oak" in left.flavors
    for _ in range(3):
        assert onomaxis("undo", root, "--allow-dirty").code == 0
    assert snapshot(root) == before


def test_an_identity_that_is_there_is_parted(tmp_path: Path) -> None:
    """Comments go with the brand that they stand above; a second time there is nothing to part; a taken place refuses."""
    root = shop(tmp_path)
    text = HEAD + "\n" + MOSS + "\n# the tall ones\n[flavors.elm]\nid = 'org.elm'\n\n"
    (root / NAME).write_text(text.replace('\n[values.tint]\ntype = "color"\nplaces = [{ resource = "color/tint" }]\n', "\n"))
    commit_all(root)
    done = onomaxis("adopt", root, "--again", "--split")
    assert done.code == 0, done.err
    assert (root / "brands/mossgate.toml").read_text() == MOSS.replace('"Moss"', '"Lend"')  # as the project says
    assert (root / "brands/elm.toml").read_text().startswith("# the tall ones\n[flavors.elm]\nid = 'org.elm'\n")
    main = tomllib.loads((root / NAME).read_text())
    assert main["include"] == ["brands/*.toml"] and "flavors" not in main and "quiet" not in (root / NAME).read_text()
    assert onomaxis("adopt", root, "--again", "--split", "--allow-dirty", "--json").json["files"] == []
    onomaxis("undo", root, "--allow-dirty")
    (root / "brands").mkdir(exist_ok=True)
    (root / "brands/elm.toml").write_text("x = 1\n")
    refused = onomaxis("adopt", root, "--again", "--split", "--allow-dirty")
    assert refused.code == 2 and "exists already" in refused.err


@pytest.mark.parametrize("table", [False, True])
@pytest.mark.parametrize("quotes", ['"""', "'''"])
def test_what_only_looks_like_a_brand_stays_in_its_text(tmp_path: Path, quotes: str, table: bool) -> None:
    """A line of a string that reads like a table's head is text; what is written apart is read again and says the same."""
    note = f"{quotes}\n[flavors.elm]\nname = 'no brand'\n[flavors.fake]\n{quotes}"
    brands = {"elm": {"id": "org.elm", "name": "Elm, # [flavors.x]"}, "oak": {"id": "org.oak"}}
    told = f"format = 1\n\n[values.note]\nvalue = {note}\nplaces = [{{ resource = 'string/note' }}]\n\n# tall ones\n[flavors.elm]\nid = 'org.elm'\nname = \"Elm, # [flavors.x]\"\n\n[flavors.oak]\nid = 'org.oak'\n"
    root = files(tmp_path / "x", {NAME: told})
    found = apart(Tree.open(root), {NAME: told.encode()}, table)
    main = tomllib.loads(found[NAME].decode())
    assert main["values"] == tomllib.loads(told)["values"] and "flavors" not in main
    assert sorted(found) == sorted([NAME, *(["brands.csv"] if table else ["brands/elm.toml", "brands/oak.toml"])])
    again = read_identity(NAME, found[NAME], around=Beside(Tree.open(root), found))
    assert {name: dict(brand) for name, brand in again.top["flavors"].items()} == brands


@pytest.mark.parametrize("data", ["\nflavor,name\n", "\n", '""\n', ",\n", "\ufeff\n"])
def test_a_table_without_a_header_is_refused_in_words(tmp_path: Path, data: str) -> None:
    """A first line that names no columns: exit code 2 with the place, no fault."""
    root = shop(tmp_path)
    (root / NAME).write_text('format = 1\nbrands = "b.csv"\n')
    (root / "b.csv").write_text(data)
    done = onomaxis("check", root)
    assert done.code == 2 and "b.csv:1" in done.err and "first column" in " ".join(done.err.split())


TEXT = st.text(st.characters(exclude_characters="\0", exclude_categories=("Cs",)), min_size=1, max_size=12).map(str.strip).filter(bool)


@examples(60)
@given(st.dictionaries(st.sampled_from(["ash", "elm", "oak", "moss"]), st.fixed_dictionaries({}, optional={"name": TEXT, "id": TEXT, "names": st.fixed_dictionaries({"de": TEXT})}), min_size=1), TEXT, st.sampled_from([",", ";", "\t"]), st.sampled_from(["\n", "\r\n"]))  # fmt: skip
def test_tables_round_trip(brands: dict[str, dict[str, object]], new: str, mark: str, newline: str) -> None:
    """What is written is read back by the standard reader and by ours; a changed cell changes its record alone."""
    data = new_table(brands)
    rows = list(csv.DictReader(io.StringIO(data.decode(), newline="")))
    assert {row["flavor"]: {k: cell_said(v) for k, v in row.items() if v and k != "flavor"} for row in rows} == {n: flattened(b) for n, b in brands.items()}
    assert {name: flattened(brand) for name, brand, _ in brands_of("t.csv", data)} == {n: flattened(b) for n, b in brands.items()}
    out = io.StringIO(newline="")
    writer = csv.writer(out, delimiter=mark, lineterminator=newline, quoting=csv.QUOTE_ALL)
    writer.writerow(["flavor", *(["name"] if mark == "," else ["name", "id"]), "build"])
    for name, brand in brands.items():
        writer.writerow([name, brand.get("name", ""), *([] if mark == "," else [brand.get("id", "")])])
    old = out.getvalue().encode()
    first = next(iter(brands))
    later = rewritten_table("t.csv", old, {first: {"name": new}})
    read = {name: flattened(brand) for name, brand, _ in brands_of("t.csv", later)}
    was = {name: flattened(brand) for name, brand, _ in brands_of("t.csv", old)}
    assert read == {**was, first: {**was[first], "name": new}}
    gone = {name for name, _, _ in brands_of("t.csv", without_brand("t.csv", old, first))}
    assert gone == set(brands) - {first}
