"""Text from files made safe to show."""

from __future__ import annotations

import re

# What turns the direction of all that follows (Unicode Standard Annex 9): a name could be shown as another.
_TURNS = (*range(0x202A, 0x202F), *range(0x2066, 0x206A))
_CONTROLS: dict[int, int | str] = {
    **{code: 0x2400 + code for code in range(32) if code not in (9, 10)},
    127: 0x2421,
    **dict.fromkeys(range(0x80, 0xA0), 0xFFFD),
    **{code: f"<U+{code:04X}>" for code in _TURNS},
}


def visible(text: str) -> str:
    """Return text from a file so that a terminal shows its control characters instead of obeying them."""
    return text.translate(_CONTROLS)


_MARKUP = re.compile(r"[\\`*_{}\[\]<>()#|~]")


def cell(text: str, code: bool = False) -> str:
    """Return a text for a cell of a Markdown table: no markup, nobody addressed (GitHub Flavored Markdown).

    As *code* it stands in a fixed face, where it can.
    """
    plain = visible(" ".join(text.split()))
    if code and plain and "`" not in plain:
        return f"`{plain}`".replace("|", "\\|")
    return _MARKUP.sub(r"\\\g<0>", plain).replace("@", "@\u200b")
