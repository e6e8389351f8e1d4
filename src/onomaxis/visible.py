"""Text from files made safe to show."""

from __future__ import annotations

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


# What is markup, or addresses somebody (GitHub Flavored Markdown, "Backslash escapes"; GitHub, "Mentioning people").
_ESCAPED = str.maketrans({**{char: f"\\{char}" for char in "\\`*_{}[]<>()#+!|~"}, "@": "@\u200b"})


def escaped(text: str) -> str:
    """Return text from a file so that Markdown shows it as it is, in one line of a table too."""
    return visible(" ".join(text.split())).translate(_ESCAPED)


def code(text: str) -> str:
    """Return text from a file as code in Markdown: no markup, no new column of a table."""
    flat = visible(" ".join(text.split())).replace("|", "\\|")
    if "`" not in flat:
        return f"`{flat}`" if flat else ""
    longest = max(len(run) for run in "".join(char if char == "`" else " " for char in flat).split())
    ticks = "`" * (longest + 1)
    return f"{ticks} {flat} {ticks}"
