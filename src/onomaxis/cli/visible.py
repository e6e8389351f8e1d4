"""Text from files made safe to show."""

from __future__ import annotations

_CONTROLS = {code: 0x2400 + code for code in range(32) if code not in (9, 10)} | {127: 0x2421}
_CONTROLS |= dict.fromkeys(range(0x80, 0xA0), 0xFFFD)


def visible(text: str) -> str:
    """Return text from a file so that a terminal shows its control characters instead of obeying them."""
    return text.translate(_CONTROLS)
