"""Every refusal has a way out: what its remedy says, typed as it stands there, is done."""

from __future__ import annotations

import ast
import re
import shlex
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import NamedTuple

import pytest

import onomaxis as package
from conftest import commit_all, files, onomaxis
from hybrids import KINDS, spelled
from onomaxis.demo import copy_packages

SQUARE = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><rect width="9" height="9" fill="#285"/><rect x="3" y="3" width="3" height="3"/></svg>'
WIDE = SQUARE.replace("0 0 9 9", "0 0 9 8")


class Way(NamedTuple):
    """A command that is refused, what its remedy says, and the command line that follows it; ``+`` adds to the first.

    ``before`` makes the project what it must be for it: ``edit FILE OLD NEW`` (no OLD: NEW is added),
    ``packages`` and ``commit``; other words are commands.
    """

    refused: str
    said: str
    followed: str
    project: str = "demo"
    before: tuple[str, ...] = ()


WAYS = (
    Way("rename --id org.lendspan.tool-shed", "--android-id and --ios-id", "rename --android-id org.lendspan.toolshed --ios-id org.lendspan.tool-shed"),
    Way("rename --id org.lendspan.tool_shed", "--android-id and --ios-id", "rename --android-id org.lendspan.tool_shed --ios-id org.lendspan.toolshed"),
    Way("rename --android-id org.lendspan.new --ios-id org.lendspan.app", "--code-package", "+ --code-package org.lendspan.fresh"),
    Way("rename --android-id org.lendspan.new --ios-id org.lendspan.app", "--keep-code", "+ --keep-code"),
    Way("rename", "--id, --name, --version, --build", "rename --build 42"),
    Way("rename --id org.lendspan.desk", "Pick one with --app", "+ --app org.lendspan.counter", "branded"),
    Way("rename --app org.lendspan.app --flavor oakhollow --name Oak", "The flavors are: alderbank", "rename --app org.lendspan.app --flavor alderbank --name Oak", "branded"),
    Way("rename --platform ios --android-id org.lendspan.x", "Add --platform android", "+ --platform android"),
    Way("renumber", "Say --version (major, minor, patch or 2.5.0), --build (+1 or 42), or both", "renumber --version minor"),
    Way("renumber --every-flavor", "Say --version, --build, or both", "+ --build +1", "branded"),
    Way("renumber --build +1", "Give it whole, such as --version 1.0.0 --build 1.", "renumber --build 1", "small", ("edit app/build.gradle 'versionCode 1' ''", "commit",)),
    Way("renumber --every-flavor --build +1", "Leave --every-flavor out", "renumber --build +1", "small"),
    Way("icons", "Give --art FILE", "icons --art art.svg", "small"),
    Way("icons --icon-name emblem", "Give --art FILE", "+ --art art.svg", "small"),
    Way("icons --art wide.svg --strict", "leave --strict out", "icons --art wide.svg", "small"),
    Way("icons --every-flavor --art art.svg", "Leave --every-flavor out", "icons --art art.svg", "small"),
    Way("icons --art art.svg --notification bell", "Give --monochrome", "+ --monochrome mono.svg", "small"),
    Way("icons --app counter --art counter.svg --every-flavor --store-art out", "Give --store-art 'out/{flavor}'.", "icons --app counter --art counter.svg --every-flavor --store-art out/{flavor}", "branded"),
    Way("icons --art counter.svg", "Pick with --app NAME or FOLDER", "+ --app counter", "branded"),
    Way("adopt --app org.lendspan.app", "Pass --again", "+ --again", "branded"),
    Way("stamp", "onomaxis adopt writes one", "adopt"),
    Way("check --fix", "onomaxis adopt writes it", "adopt"),
    Way("stamp --with-identity --flavor mossgate", "Give --into FOLDER with them", "+ --into {out}", "branded"),
    Way("stamp --flavor mossgate --flavor alderbank", "Give --into FOLDER for a copy each", "+ --into {out}", "branded"),
    Way("stamp --into {out}", "Give --flavor F", "+ --flavor mossgate", "branded"),
    Way("stamp --into {out}", "or --every-flavor", "+ --every-flavor", "branded"),
    Way("stamp --into {out} --flavor mossgate --dry-run", "Leave them out with --into", "stamp --into {out} --flavor mossgate", "branded"),
    Way("stamp --missing --flavor mossgate", "Give it without --flavor", "stamp --missing", "branded"),
    Way("flavor add oakhollow --value server", "Write --value KEY=TEXT", "flavor add oakhollow --app org.lendspan.app --id org.lendspan.oak --value server=https://oak.invalid", "branded"),
    Way("flavor list --changed-since HEAD", "Give --as matrix with it", "+ --as matrix", "branded"),
    Way("flavor add oakhollow", "--base NAME", "+ --base lendspan --id-suffix .oak", "small"),
    Way("flavor add oakhollow", "--only-flavors", "+ --only-flavors --id-suffix .oak", "small"),
    Way("flavor add mossgate --app org.lendspan.counter --name Moss", "onomaxis rename --flavor mossgate changes it; so does stamp, by the identity file.", "rename --flavor mossgate --name Moss --app org.lendspan.counter", "branded"),
    Way("inspect packages/alderbank-41.aab --flavor alderbank", "Say which: --against PROJECT", "+ --against .", "branded", ("packages",)),
    Way("rehearse --state {out}", "or --show", "+ --show"),
    Way("rehearse packages/alderbank-41.aab --state README.md", "Name a folder: --state FOLDER", "rehearse packages/alderbank-41.aab --state {out}", "branded", ("packages",)),
    Way("survey --facet name", "Give --history with it", "+ --history"),
    Way("survey --exit-code", "Give --since REV with them", "+ --since HEAD"),
    Way("report --out x.md", "Give --release FROM..TO", "+ --release HEAD..HEAD"),
    Way("report", "Name the page: --out FILE", "report --out {out}.html", "demo", ("edit report.html '' '<p>mine</p>'",)),
    Way("fingerprint keys/release.p12 --password-env NONE", "--password-file FILE", "fingerprint keys/release.p12 --password-file secret.txt", "branded", ("edit secret.txt '' 'lendspan'",)),
    Way("undo --change 0009", "onomaxis history lists them", "history", "small", ("rename --name Barn --yes",)),
    Way("undo", "onomaxis history lists the changes", "history", "small", ("rename --name Barn --yes", "undo --yes")),
    Way("undo", "pass --despite-changes", "+ --despite-changes", "small", ("rename --name Barn --yes", "edit app/src/main/res/values/strings.xml Barn Hut")),
    Way("rename --name Barn", "pass --allow-dirty", "+ --allow-dirty", "small", ("edit app/src/main/res/values/strings.xml Old Hut",)),
    Way("rename --android-id org.lendspan.barn", "Give --id for both", "rename --id org.lendspan.barn", "tauri"),
    Way("stamp --flavor oakhollow", "Add it: onomaxis flavor add oakhollow.", "flavor add oakhollow --app org.lendspan.app", "branded", ("edit onomaxis.toml '' '[flavors.oakhollow]\\nname = \"Oak\"\\nid = \"org.lendspan.oak\"\\n'", "commit")),
    Way("rename --app org.lendspan.app --flavor community --name Common", "Say --platform android", "+ --platform android", "branded"),
    Way("ledger add counter --from packages/alderbank-41.aab", "Name its project: ledger add PROJECT --from", "ledger add . --from packages/alderbank-41.aab", "branded", ("packages", "commit")),
    Way("flavor add oakhollow --only-flavors", "Say what the flavor's is with --id", "+ --id org.lendspan.oak", "small", ("edit app/build.gradle \"'org.lendspan.shed'\\n        versionCode\" \"System.getenv('A')\\n        versionCode\"", "commit")),
    Way("rename --id org.lendspan.barn", "Pass --published", "+ --published", "small", ("ledger add --yes", "commit")),
)  # fmt: skip

# Remedies that name an option or a command and have no row here, with the reason.
ELSEWHERE = {
    "users see the display name": "explains an option; the way out is another technical name: test_technical.py",
    "Take another: --port 0": "a server that goes on running: test_standins.py starts it so",
    "no terminal to ask": "needs a process without a terminal; the options that it names have a row",
    "foreign-entry": "changes that came with the repository: test_writing.py",
    "onomaxis undo takes it back; do that first": "interrupted changes: test_writing.py, test_faults.py",
    "a preview would show half": "the same",
    "The change waits half done": "the same",
    "--yes says that it is meant": "a tree that is a brand: test_template_shop.py",
    "onomaxis stamp --flavor": "the same",
    "Pick one with --app NAME.": "several libraries: test_android.py",
    "--app * --flavor": "targets as flavors: test_dimensions.py",
    "Name it: --against PROJECT": "as with --flavor, which has a row",
    "onomaxis check --flavor": "a tree that is a brand: test_template_shop.py",
    "' --platform ": "goes with the next",
    "Rename each: --flavor": "variants whose IDs have nothing in common: no test follows it",
    "Say which is meant with --flavor": "builds of flavors alone: test_dimensions.py",
    "takes a command of its own": "goes with the row above",
    "Give another --icon-name": "a set of this name: test_icons.py",
    "onomaxis stamp --service": "service files: test_build_phases.py",
    "onomaxis rename --id-from": "the same",
    "Give it whole, such as --build 1": "as with the version, which has a row",
    "or pass --keep-code": "repositories in the project: test_tree.py",
    "--inset": "a note about art, not a refusal",
    "leave that option away": "the other half of a row",
}


RES = "app/src/main/res/"
SMALL = {
    "app/src/main/AndroidManifest.xml": '<manifest xmlns:android="http://schemas.android.com/apk/res/android">\n'
    '    <application android:label="@string/app_name" android:icon="@mipmap/ic_launcher"/>\n</manifest>\n',
    f"{RES}mipmap-anydpi-v26/ic_launcher.xml": '<adaptive-icon xmlns:android="http://schemas.android.com/apk/res/android">\n'
    '    <background android:drawable="@mipmap/ic_launcher_background"/>\n    <foreground android:drawable="@mipmap/ic_launcher_foreground"/>\n</adaptive-icon>\n',
    **{"art.svg": SQUARE, "wide.svg": WIDE, "mono.svg": SQUARE.split("<rect")[0] + '<rect x="3" y="3" width="3" height="3"/></svg>'},
}


def prepared(way: Way, tmp_path: Path, request: pytest.FixtureRequest) -> Path:
    """Return the project of a way, as it must be before."""
    if way.project in KINDS:
        root = files(tmp_path / "kind", spelled(way.project, "org.lendspan.shed", "Shed", "1.2.0", "7"))
    else:
        made = request.getfixturevalue(way.project)
        root = made("org.lendspan.shed", SMALL) if way.project == "small" else files(made, {"counter.svg": SQUARE})
    commit_all(root)
    for step in way.before:
        word, *rest = shlex.split(step)
        if word == "edit":
            path, (old, new) = root / rest[0], (text.replace("\\n", "\n") for text in rest[1:])
            text = path.read_text() if path.exists() else ""
            assert old in text
            path.write_text(text.replace(old, new, 1) if old else text + new)
        elif word == "packages":
            copy_packages(root)
        elif word == "commit":
            commit_all(root)
        else:
            assert onomaxis(word, *rest, cwd=root, yes=False).code == 0
    return root


@pytest.mark.parametrize("way", WAYS, ids=lambda way: f"{way.refused} - {way.said}"[:90])
def test_what_a_remedy_says_is_done(way: Way, tmp_path: Path, request: pytest.FixtureRequest) -> None:
    """Refused with the remedy; the command that follows it goes through."""
    root = prepared(way, tmp_path, request)

    def run(line: str) -> list[str]:
        return shlex.split(line.replace("{out}", str(tmp_path / "out")).replace("{root}", str(root)))

    refused = onomaxis(*run(way.refused), cwd=root)
    assert refused.code in (2, 3) and way.said in " ".join(refused.err.split()), refused.err
    followed = way.refused + way.followed[1:] if way.followed.startswith("+") else way.followed
    done = onomaxis(*run(followed), cwd=root)
    assert done.code in ((0, 1) if followed.startswith("inspect") or followed.startswith("rehearse") else (0,)), (followed, done.err)


def remedies() -> Iterator[str]:
    """Yield the texts of the program's remedies that name an option or a command."""
    for path in Path(package.__file__).parent.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            named = isinstance(node, ast.keyword) and node.arg == "remedy"
            for part in ast.walk(node.value) if named else ():
                pieces = part.values if isinstance(part, ast.JoinedStr) else [part]
                text = "".join(str(piece.value) if isinstance(piece, ast.Constant) else "*" for piece in pieces)
                if isinstance(part, (ast.JoinedStr, ast.Constant)) and re.search(r"onomaxis [a-z]+|(?<!\w)--[a-z]", text):
                    yield text


def test_every_remedy_with_a_command_is_followed() -> None:
    """Each stands in a row here, or is followed by another test that is named."""

    def like(said: str) -> Callable[[str], bool]:
        return lambda text: said in text or bool(re.search(re.escape(text).replace(r"\*", ".*"), said))

    covered = [like(way.said) for way in WAYS] + [like(said) for said in ELSEWHERE]
    found = list(remedies())
    assert len(found) > 50
    assert [text for text in found if not any(is_like(text) for is_like in covered)] == []
