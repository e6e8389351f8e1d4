"""Values: what each type allows, and templates that derive one value from others."""

from __future__ import annotations

import re
import time
from collections.abc import Mapping
from urllib.parse import urlsplit

from onomaxis import late
from onomaxis.errors import InputError
from onomaxis.identity.schema import COLOR

_FIELD = late.compile(r"\{\{|\}\}|\{([A-Za-z][\w.-]*)\}")
# What a template calls a keystore's certificate by: the keystore's name stands in the middle, or at the end.
_OF_KEY = late.compile(r"fingerprint\.(.+)\.sha(?:1|256)\Z|key-hash\.(.+)\Z")
RELEASE = "release"
# What a template calls the display name in a language by: ``{name.de}``; the name itself where it has none there.
NAME_IN = late.compile(r"name\.(?=[A-Za-z])(.+)\Z")

# developer.android.com, "More resource types", Dimension.
_DIMENSION = late.compile(r"-?\d+(?:\.\d+)?(?:dp|sp|px|pt|mm|in|dip)\Z")


def needed(template: str) -> list[str]:
    """Return the names that a template refers to; ``{{`` and ``}}`` stand for braces."""
    return [match[1] for match in _FIELD.finditer(template) if match[1]]


def keystore_of(name: str) -> str:
    """Return the keystore that a template's name is about (``key-hash`` alone: that of releases), or nothing."""
    if name == "key-hash":
        return RELEASE
    match = _OF_KEY.match(name)
    return (match[1] or match[2]) if match else ""


def fill(template: str, known: Mapping[str, str], templates: Mapping[str, str], depth: int = 0) -> str | None:
    """Fill a template from known values and other templates; None where one of them has no value."""
    texts = dict(known)
    for name in needed(template):
        if name not in texts:
            inner = templates.get(name)
            text = fill(inner, known, templates, depth + 1) if inner is not None and depth < 20 else None
            if text is None:
                return None
            texts[name] = text
    return _FIELD.sub(lambda match: texts[match[1]] if match[1] else match[0][0], template)


def check_value(kind: str, pattern: str, text: str, patience: Patience | None = None) -> str:
    """Return what is wrong with a value of a type, or nothing; *patience* is what all patterns of a file share."""
    if kind == "color" and not COLOR.match(text):
        return "is not a colour, such as #7A3E2B"
    if kind == "url":
        try:
            parts = urlsplit(text)
            right = bool(parts.scheme and parts.netloc and not re.search(r"\s", text))
        except ValueError:
            right = False
        if not right:
            return "is not a URL with scheme and host"
    if kind == "integer" and not re.fullmatch(r"-?\d+", text):
        return "is not a whole number"
    if kind == "number" and not re.fullmatch(r"-?\d+(?:\.\d+)?", text):
        return "is not a number"
    if kind == "boolean" and text not in ("true", "false"):
        return "is neither true nor false"
    if kind == "dimension" and not _DIMENSION.match(text):
        return "is not a dimension with a unit, such as 16dp"
    if pattern and not (patience or Patience()).matches(pattern, text):
        return f"does not match {pattern}"
    return ""


# A pattern comes with the repository: it may be one that takes for ever, and is given so many seconds; all of a file
# together have so many more.
_PATIENCE, _IN_ALL = 0.5, 5.0


class Patience:
    """The time that the patterns of one file may take together."""

    def __init__(self, left: float = _IN_ALL) -> None:
        """Begin with *left* seconds."""
        self.left = left

    def matches(self, pattern: str, text: str) -> bool:
        """Match the whole of *text*. Raises InputError for a pattern that takes too long, alone or after others."""
        import regex

        begun = time.process_time()
        try:
            if self.left <= 0:
                raise TimeoutError
            return regex.fullmatch(pattern, text, timeout=min(_PATIENCE, self.left)) is not None
        except TimeoutError:
            raise InputError(
                f"the pattern {pattern} takes too long on “{text[:60]}”", remedy="Write it without nested repetition."
            ) from None
        except regex.error as error:
            raise InputError(f"the pattern {pattern} is not a regular expression: {error}") from None
        finally:
            self.left -= time.process_time() - begun
