"""The page to show around: whole in itself, text stays text, every flavor has its place; read by a parser and a browser."""

from __future__ import annotations

import itertools
import re
import shutil
import subprocess
from html.parser import HTMLParser
from pathlib import Path

import pytest

from brands import project
from conftest import commit_all, files, judge, onomaxis
from onomaxis.cli.survey import as_document
from onomaxis.demo import copy_demo
from onomaxis.report.facts import report_of
from onomaxis.report.page import page_of
from onomaxis.surveys.survey import take_survey
from onomaxis.tree import Tree

VOID = {"meta", "img", "input", "wbr", "link", "br"}


class Page(HTMLParser):
    """What a page holds: elements with attributes, texts, what was left open."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.open: list[str] = []
        self.elements: list[tuple[str, dict[str, str]]] = []
        self.texts: list[str] = []
        self.feed(text)
        self.close()

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.elements.append((tag, {key: value or "" for key, value in attrs}))
        self.open += [] if tag in VOID else [tag]

    def handle_endtag(self, tag: str) -> None:
        assert self.open.pop() == tag, (tag, self.getpos())

    def handle_data(self, data: str) -> None:
        if not {"script", "style"} & set(self.open):
            self.texts.append(data)

    def of(self, tag: str) -> list[dict[str, str]]:
        return [attributes for name, attributes in self.elements if name == tag]


SAID = """format = 1
[app.colors]
brand = "#7A3E2B"
[app.services]
hosts = ["go.lendspan.org"]
[flavors.alderbank.values]
server = "https://alderbank.lendspan.org"
key = "very secret"
[flavors.mossgate]
[values.server]
type = "url"
places = []
[values.key]
secret = true
places = []
"""


def page(contents: dict[str, str]) -> tuple[str, Page]:
    tree = Tree.of({path: text.encode() for path, text in contents.items()})
    text = page_of(report_of(tree, "Lendspan"))
    return text, Page(text)


def test_it_is_called_after_the_app() -> None:
    """Where all platforms call it alike; else after the folder: which of several names counts is not guessed."""
    contents = {path: text.encode() for path, text in project().items()}
    said = {app["name"] for app in as_document(take_survey(Tree.of(contents)))["apps"] if not app["flavor"]}
    other = {path: text.replace(b"Lendspan", b"Tool Shed") for path, text in contents.items() if path.endswith("values/strings.xml")}
    assert said == {"Lendspan"} and report_of(Tree.of(contents)).title == "Lendspan" and other
    assert report_of(Tree.of({**contents, **other})).title == Tree.of({}).root.name


def test_the_page_is_whole_in_itself() -> None:
    """Well-formed, nothing loads from outside, the same bytes every time; each flavor has its place, links lead to it."""
    contents = {**project(), "onomaxis.toml": SAID}
    text, read = page(contents)
    assert not read.open and text == page(contents)[0]
    ids = [attributes["id"] for _, attributes in read.elements if "id" in attributes]
    assert len(ids) == len(set(ids)) and {"flavor-alderbank", "flavor-mossgate"} <= set(ids)
    targets = [a["href"] for a in read.of("a")]
    assert targets and all(target.startswith("#") and target[1:] in ids for target in targets)
    assert all(a["src"].startswith("data:image/png;base64,") and a["alt"] for a in read.of("img"))
    assert not read.of("link") and not re.search(r"@import|url\(|src=.?http", text)
    for id_ in ("org.lendspan.app.alderbank", "org.lendspan.mossgate", "org.lendspan.alderbank"):
        assert f">{id_}<" in text
    shown = " ".join(read.texts)
    assert "very secret" not in text and "a secret" in shown and "https://alderbank.lendspan.org" in shown
    assert {"background:#7A3E2B"} == {a["style"] for a in read.of("span") if "style" in a} and "go.lendspan.org" in shown


def test_landmarks_and_names() -> None:
    """One main part, a title, a language, headings that skip no level, labels for what can be filled in."""
    text, read = page(project())
    assert len(read.of("main")) == 1 and read.of("html")[0]["lang"] and read.of("title")
    levels = [int(tag[1]) for tag, _ in read.elements if re.fullmatch(r"h\d", tag)]
    assert levels[0] == 1 and all(after - before <= 1 for before, after in itertools.pairwise(levels))
    assert all(a.get("aria-label") or a.get("aria-labelledby") for tag in ("nav", "section") for a in read.of(tag))
    assert len(read.of("label")) == len(read.of("input")) + len(read.of("select"))
    assert all(a.get("scope") for a in read.of("th")) and "not stated" not in text


@pytest.mark.parametrize("nasty", ["<script>alert(1)</script>", "\" onload='x'", "</title><b>", "{{ 7 * 7 }}", "&amp;lt;", "Lend\u202espan"])
def test_what_looks_like_markup_stays_text(nasty: str) -> None:
    """Names of apps and texts of files are shown as they are, and run nothing."""
    from xml.sax.saxutils import escape

    contents = project()
    path = "app/src/main/res/values/strings.xml"
    contents[path] = contents[path].replace(">Lendspan<", f">{escape(nasty)}<".replace("'", "\\'").replace('"', '\\"'))
    tree = Tree.of({name: text.encode() for name, text in contents.items()})
    text = page_of(report_of(tree, nasty))
    read = Page(text)
    assert not read.open and len(read.of("script")) == 1 and not read.of("b")
    shown = nasty.replace("\u202e", "<U+202E>")
    assert shown in " ".join(read.texts) and "\u202e" not in text and "49" not in "".join(read.texts).split("Findings")[0].replace("149", "")


def test_another_file_of_that_name_stays(tmp_path: Path) -> None:
    """Where nobody names the page, only a page of the program's own is written over."""
    copy_demo(tmp_path / "shop")
    page = tmp_path / "report.html"
    page.write_text("<title>of the tests</title>")
    done = onomaxis("report", "shop", cwd=tmp_path)
    assert done.code == 3 and "--out" in done.err and page.read_text() == "<title>of the tests</title>"
    assert onomaxis("report", "shop", "--out", "report.html", cwd=tmp_path).code == 0
    assert onomaxis("report", "shop", cwd=tmp_path).code == 0 and b"what every flavor" in page.read_bytes()


def test_the_sheet_of_a_release(tmp_path: Path) -> None:
    """Each app at both revisions, whatever lies in the work tree now; what the ledger tells of this very build; text stays text."""
    root = files(tmp_path / "x", project())
    commit_all(root)
    git = ["git", "-C", str(root)]
    subprocess.run([*git, "tag", "v1"], check=True)
    ledger = "date,platform,flavor,id,version,build,fingerprint,digest\n"
    ledger += f"2026-01-01,android,mossgate,org.lendspan.mossgate,1.2,7,,\n2026-02-02,android,mossgate,org.lendspan.mossgate,1.3,8,,sha256:{'ab' * 32}\n"
    files(root, {"onomaxis.ledger.csv": ledger})
    assert onomaxis("rename", root, "--flavor", "mossgate", "--name", "Moss | <b>", "--allow-dirty").code == 0
    assert onomaxis("renumber", root, "--version", "1.3", "--build", "8", "--allow-dirty").code == 0
    commit_all(root)
    assert onomaxis("rename", root, "--flavor", "mossgate", "--name", "Later").code == 0
    done = onomaxis("report", root, "--release", "v1..", "--out", tmp_path / "sheet.md", "--json").json["release"]
    moss = next(line for line in done["lines"] if (line["platform"], line["flavor"]) == ("android", "mossgate"))
    assert (moss["version"], moss["build"]) == ({"before": "1.2", "after": "1.3"}, {"before": "7", "after": "8"})
    assert moss["name"] == {"before": "Lendspan", "after": "Moss | <b>"} and (moss["published"], moss["digest"][:11]) == ("2026-02-02", "sha256:abab")
    assert {line["published"] for line in done["lines"] if line is not moss} == {""} and len(done["commit"]) == 40 and done["gone"] == []
    page = (tmp_path / "sheet.md").read_text()
    rows = [line for line in page.splitlines() if line.startswith("| ")]
    assert len(rows) == len(done["lines"]) + 2 and len({len(re.findall(r"(?<!\\)\|", row)) for row in rows}) == 1 and "Later" not in page
    assert "Lendspan → Moss \\| \\<b\\>" in page
    assert onomaxis("report", root, "--release", "v1..HEAD", "--out", tmp_path / "sheet.html").code == 0
    read = Page((tmp_path / "sheet.html").read_text())
    assert not read.open and not read.of("b") and "Moss | <b>" in read.texts and "#release" in [a["href"] for a in read.of("a")]
    for words in (["--release", "v1"], ["--release", "v1...HEAD"], ["--release", "gone..HEAD"], ["--out", "x.md"], ["--release", "v1..", "--since", "v1"]):
        assert onomaxis("report", root, *words, cwd=tmp_path).code == 2, words


def test_the_program_writes_it(tmp_path: Path) -> None:
    """With what changed since a revision; a folder that is not there is an error; the project is left alone."""
    root = files(tmp_path / "x", project())
    commit_all(root)
    strings = root / "app/src/main/res/values/strings.xml"
    strings.write_text(strings.read_text().replace("Lendspan", "Tool Shed"))
    out = tmp_path / "r.html"
    done = onomaxis("report", root, "--out", out, "--since", "HEAD", "--json")
    assert (done.code, done.json["flavors"]) == (0, ["alderbank", "mossgate", ""])
    read = Page(out.read_text("utf-8"))
    shown = " ".join(" ".join(read.texts).split())
    assert "Changes since HEAD" in shown and "Lendspan Tool Shed" in shown
    assert re.search(
        r"x 2 flavors, \d+ apps · commit [0-9a-f]+ of \w+, \d{4}-\d\d-\d\d and changes that are not committed .*Changes since HEAD.*Flavors Show", shown
    ), shown[:200]
    assert onomaxis("report", root, "--out", tmp_path / "none/r.html").code == 2
    assert onomaxis("report", root, "--out", out, "--since", "nope").code == 2
    assert not (root / "report.html").exists() and not (root / ".onomaxis").exists()


@pytest.mark.pictures
@pytest.mark.parametrize("width", [1280, 390])
def test_in_a_browser(branded: Path, tmp_path: Path, width: int) -> None:
    """Nothing is cut at either width, the page asks nobody for anything, its script runs without an error."""
    browser = judge("chromium")
    out = tmp_path / "r.html"
    assert onomaxis("report", branded, "--out", out).code == 0
    probe = (
        "<script>var over=[].filter.call(document.querySelectorAll('body *'),function(e){if(e.closest('.wide'))return false;"
        "return e.getBoundingClientRect().right>document.documentElement.clientWidth+1;}).length;"
        "document.title='over '+over+' wide '+document.documentElement.scrollWidth+' asked '+performance.getEntriesByType('resource').filter(function(r){return r.name.indexOf('data:')!==0}).length"
        "+' tools '+!document.getElementById('tools').hidden;</script></body>"
    )
    out.write_text(out.read_text("utf-8").replace("</body>", probe), "utf-8")
    words = [
        browser,
        "--headless",
        "--no-sandbox",
        "--disable-gpu",
        f"--window-size={width},900",
        "--enable-logging=stderr",
        f"--user-data-dir={tmp_path / 'profile'}",
        "--dump-dom",
        out.as_uri(),
    ]
    done = subprocess.run(words, capture_output=True, text=True, check=False, timeout=120)
    title = re.search(r"<title>(.*?)</title>", done.stdout)
    assert title, done.stderr[-500:]
    wide = int(re.search(r"wide (\d+)", title[1])[1])  # type: ignore[index]
    assert title[1] == f"over 0 wide {wide} asked 0 tools true" and wide <= max(width, 500)
    assert ":CONSOLE" not in done.stderr
    shutil.rmtree(tmp_path / "profile", ignore_errors=True)


# The accessibility checker of the npm registry, where somebody installed it beside the project: npm install axe-core.
CHECKER = [path for folder in (Path.cwd(), *Path.cwd().parents) if (path := folder / "node_modules/axe-core/axe.min.js").exists()]

if CHECKER:

    @pytest.mark.pictures
    @pytest.mark.parametrize("dark", [False, True])
    @pytest.mark.parametrize("width", [1280, 390])
    def test_the_accessibility_checker_finds_nothing(branded: Path, tmp_path: Path, width: int, dark: bool) -> None:
        """Landmarks, names, contrast, in both appearances: what a stranger's checker says of the page."""
        out = tmp_path / "r.html"
        assert onomaxis("report", branded, "--out", out).code == 0
        probe = (
            f"<script>{CHECKER[0].read_text('utf-8')}</script><script>axe.run().then(function(found){{document.title='found '+"
            "JSON.stringify(found.violations.map(function(v){return v.id+': '+v.nodes[0].html.slice(0,90)+v.nodes[0].failureSummary}));});</script></body>"
        )
        out.write_text(out.read_text("utf-8").replace("</body>", probe), "utf-8")
        words = [
            judge("chromium"),
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            f"--window-size={width},900",
            f"--user-data-dir={tmp_path / 'profile'}",
            "--virtual-time-budget=20000",
        ]
        more = ["--blink-settings=preferredColorScheme=0"] if dark else ["--blink-settings=preferredColorScheme=1"]
        done = subprocess.run([*words, *more, "--dump-dom", out.as_uri()], capture_output=True, text=True, check=False, timeout=120)
        title = re.search(r"<title>(.*?)</title>", done.stdout, re.DOTALL)
        assert title and title[1] == "found []", (title, done.stderr[-300:])
        shutil.rmtree(tmp_path / "profile", ignore_errors=True)
