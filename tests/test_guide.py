"""The guide is what happens: each command on its pages, run in a copy of the demo, prints what stands below it."""

from __future__ import annotations

import sys
from pathlib import Path

import pytest

sys.path.insert(0, str(Path(__file__).parent.parent / "tools"))
from guide import GUIDE, rendered

PAGES = sorted(page.stem for page in GUIDE.glob("*.md"))
pytestmark = [pytest.mark.journeys, pytest.mark.processes]


@pytest.mark.parametrize("page", PAGES)
def test_a_page_of_the_guide(page: str, tmp_path: Path) -> None:
    text = (GUIDE / f"{page}.md").read_text("utf-8")
    assert rendered(text, tmp_path) == text, "python tools/guide.py writes it anew"


def test_every_page_is_linked() -> None:
    listed = (GUIDE.parent.parent / "README.md").read_text("utf-8")
    assert [page for page in PAGES if f"docs/guide/{page}.md" not in listed] == []
