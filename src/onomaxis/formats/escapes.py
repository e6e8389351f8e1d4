"""One encoder per syntax: how a value is written so that it reads back the same.

An encoder gets the value and the text that stood there before, whose style (quotes or none) it keeps.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Sequence
from typing import Protocol, Self, TypeVar

from onomaxis import late
from onomaxis.errors import FormatError

Encoder = Callable[[str, str], str]

# Characters that Xcode itself writes without quotes in a project file.
_BARE_OPENSTEP = late.compile(r"[A-Za-z0-9_$/:.]+\Z")
_ANDROID_ESCAPES = {"\\": "\\\\", "'": "\\'", '"': '\\"', "\n": "\\n", "\t": "\\t"}


def xml_text(value: str, written: str = "") -> str:
    """Escape for XML character data."""
    return value.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def _xml_attribute(value: str) -> str:
    """Escape white space too: a reader makes a space of it otherwise (XML 1.0, "Attribute-Value Normalization")."""
    return xml_text(value).replace("\n", "&#10;").replace("\t", "&#9;").replace("\r", "&#13;")


def _xml_double(value: str, written: str) -> str:
    return _xml_attribute(value).replace('"', "&quot;")


def _xml_single(value: str, written: str) -> str:
    return _xml_attribute(value).replace("'", "&apos;")


def _cdata(value: str, written: str) -> str:
    return value.replace("]]>", "]]]]><![CDATA[>")


def android_string(value: str) -> str:
    """Apply Android's own string escapes (developer.android.com, String resources, "Formatting and styling").

    Apostrophes, quotes and backslashes are escaped, a leading ``@`` or ``?`` would be read as a reference, and
    white space that aapt2 would trim or fold is kept by ``\\u0020``.
    """
    escaped = "".join(_ANDROID_ESCAPES.get(char, char) for char in value)
    if escaped[:1] in ("@", "?"):
        escaped = "\\" + escaped
    escaped = re.sub(r"(?<= ) |^ | \Z", r"\\u0020", escaped)
    return escaped


def _android_text(value: str, written: str) -> str:
    return android_string(value).replace("&", "&amp;").replace("<", "&lt;").replace("]]>", "]]&gt;")


def manifest_text(value: str) -> str:
    """Apply the escapes of an attribute that holds a text: as in resources, but quotes and spaces are plain.

    Source: aapt2 flattens attributes with white space preserved, in which mode quotes mean themselves.
    """
    escaped = value.replace("\\", "\\\\").replace("\n", "\\n").replace("\t", "\\t")
    return "\\" + escaped if escaped[:1] in ("@", "?") else escaped


def _manifest(encoder: Encoder) -> Encoder:
    return lambda value, written: encoder(manifest_text(value), written)


def _entity(encoder: Encoder, quote: str) -> Encoder:
    """Return the encoder of a text that an entity of the document stands for (XML 1.0, "Entity Declarations")."""
    named = {'"': "&quot;", "'": "&apos;"}[quote]
    return lambda value, written: encoder(value, written).replace("%", "&#37;").replace(quote, named)


def decode_manifest(text: str) -> str:
    """Decode an attribute's text after XML: escapes mean what they mean in resources, quotes and spaces stay."""
    if "\\" not in text:
        return text
    return decode_android('"' + re.sub(r'\\.|"', lambda m: m[0] if m[0] != '"' else '\\"', text) + '"')


def _android_cdata(value: str, written: str) -> str:
    return _cdata(android_string(value), written)


def openstep(value: str, written: str = "") -> str:
    """Write a string of an OpenStep property list: bare where Xcode would leave it bare, else quoted.

    A string that was quoted without need stays quoted.
    """
    was_quoted_by_choice = written.startswith('"') and bool(_BARE_OPENSTEP.match(written[1:-1]))
    if _BARE_OPENSTEP.match(value) and "//" not in value and not was_quoted_by_choice:
        return value
    return f'"{_backslashed(value)}"'


def _openstep_entry(value: str, written: str) -> str:
    """A value of a ``.strings`` file: quoted, as every editor writes it, unless it stood there bare and may."""
    return openstep(value, written) if written and not written.startswith('"') else f'"{_backslashed(value)}"'


def _gradle_expression(value: str, written: str) -> str:
    """A quoted literal in place of a whole expression, readable in Groovy and Kotlin."""
    return f'"{_double_dollar(value, written)}"'


def _script_expression(value: str, written: str) -> str:
    """A quoted literal in place of a whole expression of JavaScript."""
    return f"'{_single(value, written)}'"


def _unwritable(value: str, written: str) -> str:
    raise FormatError("this value is put together of several that count elsewhere too: change it by hand")


def _backslashed(value: str) -> str:
    return (
        value.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n").replace("\t", "\\t").replace("\r", "\\r")
    )


def _xcconfig(value: str, written: str) -> str:
    """Two slashes would begin a comment: a reference to nothing stands between them, which the build takes out."""
    if "\n" in value or "\r" in value or value != value.strip(" \t\f\v"):
        raise FormatError(f"“{value}” cannot be written in an xcconfig file (line break or outer space)")
    return re.sub(r"/(?=/)", "/$()", value)


def _properties(value: str, written: str) -> str:
    escaped = value.replace("\\", "\\\\").replace("\n", "\\n").replace("\t", "\\t")
    if escaped.startswith(" "):
        escaped = "\\" + escaped
    return "".join(char if char.isascii() else _java_unicode(char) for char in escaped)


def _java_unicode(char: str) -> str:
    units = char.encode("utf-16-be")
    return "".join(f"\\u{units[i]:02x}{units[i + 1]:02x}" for i in range(0, len(units), 2))


def _double_dollar(value: str, written: str) -> str:
    """A double-quoted string of a language in which ``$`` starts an interpolation."""
    return _backslashed(value).replace("$", "\\$")


def _single(value: str, written: str) -> str:
    return value.replace("\\", "\\\\").replace("'", "\\'").replace("\n", "\\n")


def _double(value: str, written: str) -> str:
    return _backslashed(value)


def _single_dollar(value: str, written: str) -> str:
    """A single-quoted string of a language in which ``$`` starts an interpolation there too (Dart, "Strings")."""
    return _single(value, written).replace("$", "\\$").replace("\r", "\\r")


def _ruby_double(value: str, written: str) -> str:
    """A double-quoted Ruby string: ``#`` before a brace or a sigil starts an interpolation (Ruby, "Literals")."""
    return re.sub(r"#(?=[{$@])", r"\\#", _backslashed(value))


def _unescaped(closing: str) -> Encoder:
    """A literal without escapes: what would end it cannot be written."""

    def write(value: str, written: str) -> str:
        if closing in value or "\n" in value or value.endswith(closing[0]) or "\\#(" in value:
            raise FormatError(f"“{value}” cannot be written in a literal without escapes")
        return value

    return write


def _resource_script(value: str, written: str) -> str:
    """A string of a Windows resource script (Microsoft, "VERSIONINFO resource")."""
    return value.replace("\\", "\\\\").replace('"', '""').replace("\n", "\\n").replace("\t", "\\t")


def _kotlin_raw(value: str, written: str) -> str:
    if '"""' in value or value.endswith('"'):
        raise FormatError(f"“{value}” cannot be written in a raw string")
    return value.replace("$", "${'$'}")


def _number(value: str, written: str) -> str:
    if not value.isdecimal():
        raise FormatError(f"“{value}” is not a number, and a number stands there")
    return value


def _raw(value: str, written: str) -> str:
    return value


def _json(value: str, written: str) -> str:
    return json.dumps(value, ensure_ascii=False)[1:-1]


def _slashed(value: str, written: str) -> str:
    return value.replace(".", "/")


def _jni(value: str, written: str) -> str:
    """Mangle a package or class (Java Native Interface specification, "Resolving Native Method Names")."""
    return "".join(
        _JNI.get(char) or (char if char.isalnum() and char.isascii() else _unicode(char)) for char in value
    )


# More than any text that a configuration says.
_LONGEST = 100_000
_JNI = {".": "_", "/": "_", "_": "_1", ";": "_2", "[": "_3"}


def _unicode(char: str) -> str:
    units = char.encode("utf-16-be").hex()
    return "".join(f"_0{units[at : at + 4]}" for at in range(0, len(units), 4))


def _template(value: str, written: str) -> str:
    """The body of a template literal (ECMAScript, "Template literals")."""
    return value.replace("\\", "\\\\").replace("`", "\\`").replace("${", "\\${")


_PLAIN_YAML = late.compile(r"[^\W\d][\w /()&+.-]*\Z|[\w]+(?:[.+-][\w]+)+\Z")
_YAML_WORDS = frozenset("y n yes no true false on off null".split())


def _yaml(value: str, written: str) -> str:
    """A YAML scalar in the style of the one before: plain where it may be, else quoted (YAML 1.2, "Flow scalars").

    Quotes that the text before needed, and that stand as they are written here, were no choice of style.
    """
    if written.startswith("'"):
        return "'" + value.replace("'", "''") + "'"
    if written.startswith('"'):
        old = decode_backslashes(written[1:-1])
        by_need = written == _quoted_yaml(old) and not _may_be_plain(old)
        return value if by_need and _may_be_plain(value) else _quoted_yaml(value)
    number = re.fullmatch(r"[\d_.]+(?:e\d+)?", value) is not None and not written.replace(".", "").isdigit()
    return value if _may_be_plain(value) and not number else _quoted_yaml(value)


def _may_be_plain(value: str) -> bool:
    plain = bool(_PLAIN_YAML.match(value)) or value.isdigit()
    return plain and value.lower() not in _YAML_WORDS and value == value.strip()


def _quoted_yaml(value: str) -> str:
    text = json.dumps(value, ensure_ascii=False)
    return re.sub("[\x7f-\xa0\u2028\u2029\ufeff]", lambda match: f"\\u{ord(match[0]):04x}", text)


_ENCODERS: dict[str, Encoder] = {
    "raw": _raw,
    "template": _template,
    "yaml": _yaml,
    "json": _json,
    "slashed": _slashed,
    "jni": _jni,
    "number": _number,
    "xml-text": xml_text,
    "xml-double": _xml_double,
    "xml-single": _xml_single,
    "xml-cdata": _cdata,
    "android-text": _android_text,
    "android-cdata": _android_cdata,
    "android-entity-double": _entity(_android_text, '"'),
    "android-entity-single": _entity(_android_text, "'"),
    "manifest-double": _manifest(_xml_double),
    "manifest-single": _manifest(_xml_single),
    "manifest-entity-double": _entity(_manifest(xml_text), '"'),
    "manifest-entity-single": _entity(_manifest(xml_text), "'"),
    "openstep": openstep,
    "openstep-entry": _openstep_entry,
    "gradle-expression": _gradle_expression,
    "script-expression": _script_expression,
    "none": _unwritable,
    "xcconfig": _xcconfig,
    "properties": _properties,
    "double-dollar": _double_dollar,
    "double": _double,
    "single": _single,
    "single-dollar": _single_dollar,
    "ruby-double": _ruby_double,
    "raw-single": _unescaped("'"),
    "raw-double": _unescaped('"'),
    "swift-raw": _unescaped('"#'),
    "resource-script": _resource_script,
    "kotlin-raw": _kotlin_raw,
}


def encode(syntax: str, value: str, written: str = "") -> str:
    """Write *value* in *syntax*, keeping the style of *written*. Raises FormatError when it cannot be expressed."""
    return _ENCODERS[syntax](value, written)


# Syntaxes whose literals hold what they say: a backslash there is a backslash.
UNESCAPED = frozenset({"kotlin-raw", "raw-single", "raw-double", "swift-raw"})


def decode(syntax: str, written: str) -> str:
    """Return what a literal of a programming language says. The inverse of :func:`encode`."""
    if syntax == "kotlin-raw":
        return written.replace("${'$'}", "$")
    if syntax in UNESCAPED:
        return written
    if syntax == "resource-script":
        return decode_backslashes(written.replace('""', '"'))
    return decode_backslashes(written)


# The attribute of a string resource that is not a format string.
UNFORMATTED = ' formatted="false"'


def string_element(name: str, text: str) -> str:
    """Return a string resource as an element."""
    more = UNFORMATTED if conversions(text) > 1 else ""
    return f'<string name="{name}"{more}>{_android_text(text, "")}</string>'


def conversions(text: str) -> int:
    """Count what a format string would take an argument for (``%s``, ``%d``, a lone ``%``; not ``%%`` or ``%n``)."""
    return len(re.findall(r"%(?![%n]|\Z)", text.replace("%%", "")))


class _Stretch(Protocol):
    """A stretch of text: a piece of a value, a literal."""

    @property
    def text(self) -> str: ...

    def _replace(self, *, text: str) -> Self: ...


_S = TypeVar("_S", bound=_Stretch)


def replaced(text: str, old: str, new: str, count: int = -1) -> str:
    """Return *text* with *old* replaced. Raises ValueError where that would be longer than any value is."""
    if text.count(old) * len(new) > _LONGEST:
        raise ValueError("the text would be too long")
    return text.replace(old, new, count)


def trimmed(stretches: Sequence[_S]) -> tuple[_S, ...]:
    """Take the white space off both ends of what stretches of text say together."""
    found = list(stretches)
    for order, strip in ((range(len(found)), str.lstrip), (range(len(found) - 1, -1, -1), str.rstrip)):
        for index in order:
            found[index] = found[index]._replace(text=strip(found[index].text))
            if found[index].text:
                break
    return tuple(found)


def decode_backslashes(body: str) -> str:
    """Decode the escapes that C-like, Kotlin, Groovy, Swift and OpenStep strings share."""
    return (
        re.sub(r"\\(u\{[0-9A-Fa-f]+\}|[uU][0-9A-Fa-f]{4}|[0-7]{3}|.)", _decode_one, body, flags=re.DOTALL)
        .encode("utf-16", "surrogatepass")
        .decode("utf-16", "replace")
    )


def _decode_one(match: re.Match[str]) -> str:
    code = match[1]
    if len(code) > 1:
        digits = code.strip("uU{}")
        return chr(int(digits, 16 if code[0] in "uU" else 8))
    return {"n": "\n", "t": "\t", "r": "\r", "b": "\b", "f": "\f", "0": "\0"}.get(code, code)


# White space that the resource compiler folds: not the no-break, ideographic or other spaces of Unicode.
_FOLDED = frozenset(" \t\n\r\f\v")


def decode_android(text: str) -> str:
    """Decode a string resource after XML: escapes, quoted stretches, folded white space."""
    out: list[str] = []
    quoted = False
    at = 0
    while at < len(text):
        char = text[at]
        if char == "\\" and at + 1 < len(text):
            match = re.compile(r"u([0-9A-Fa-f]{4})").match(text, at + 1)
            out.append(chr(int(match[1], 16)) if match else {"n": "\n", "t": "\t"}.get(text[at + 1], text[at + 1]))
            at += 6 if match else 2
            continue
        if char == '"':
            quoted = not quoted
        elif char in _FOLDED and not quoted:
            if out and out[-1] != "\0":
                out.append("\0")  # a fold mark: one space, dropped at the ends
        else:
            out.append(char)
        at += 1
    joined = "".join(out).strip("\0").replace("\0", " ")
    return joined.encode("utf-16", "surrogatepass").decode("utf-16", "replace")
