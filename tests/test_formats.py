"""The readers: spans point at what was written, values decode, encoders read back the same."""

from __future__ import annotations

import plistlib
import random
import re
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from onomaxis.errors import FormatError
from onomaxis.formats import openstep
from onomaxis.formats.escapes import decode_android, encode
from onomaxis.formats.jsonc import parse_json, plain
from onomaxis.formats.lexer import LANGUAGES, regions, tokens
from onomaxis.formats.openstep import Text, opening, parse_openstep
from onomaxis.formats.plist import parse_plist
from onomaxis.formats.properties import parse_properties
from onomaxis.formats.source import Source
from onomaxis.formats.xcconfig import parse_xcconfig
from onomaxis.formats.xml import parse_xml

NAMES = [
    "Lendspan", 'Zoë’s "R&D" <Möwe> 1', "it's", "a\\b", "@home", "?why", "100 %", "  outer  two  ", "שלום", "🪜 ladder", "]]>", "$(PRODUCT)",
    "$name ${x}", "tab\there", "# no comment", "= value: x", "-dash", "x//y", "&amp;",
]  # fmt: skip


@pytest.mark.parametrize("name", NAMES)
def test_a_name_reads_back_the_same_from_every_syntax(name: str) -> None:
    """What an encoder writes, an independent or our own reader decodes to the same text."""
    for syntax, quote in (("xml-double", '"'), ("xml-single", "'")):
        document = f"<a b={quote}{encode(syntax, name)}{quote}/>"
        assert ElementTree.fromstring(document).get("b") == name
    assert ElementTree.fromstring(f"<a>{encode('xml-text', name)}</a>").text == name
    assert ElementTree.fromstring(f"<a><![CDATA[{encode('xml-cdata', name)}]]></a>").text == name
    android = ElementTree.fromstring(f"<a>{encode('android-text', name)}</a>").text or ""
    assert decode_android(android) == name
    plist = f'<plist version="1.0"><string>{encode("xml-text", name)}</string></plist>'
    assert plistlib.loads(plist.encode()) == name
    for syntax in ("openstep", "openstep-entry"):
        parsed = parse_openstep(f"{{ k = {encode(syntax, name)}; }}".encode())
        assert parsed.top.text("k") == name
    read = parse_properties(f"k={encode('properties', name)}\n".encode()).get("k")
    assert read is not None and read.value == name


def test_what_a_syntax_cannot_hold_is_refused() -> None:
    """An encoder says so instead of writing something else."""
    for syntax, value in (("xcconfig", "a\nb"), ("xcconfig", " a"), ("number", "1.0"), ("kotlin-raw", '"""')):
        with pytest.raises(FormatError):
            encode(syntax, value)
    with pytest.raises(FormatError):
        Source.read("h\xe9".encode("latin-1")).raw("ß")


@pytest.mark.parametrize("codec", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be"])
@pytest.mark.parametrize("newline", ["\n", "\r\n"])
def test_spans_are_byte_exact_in_every_encoding(codec: str, newline: str) -> None:
    """The byte span of a value holds exactly its text, whatever the encoding and line ends."""
    text = newline.join(["/* Größe 🪜 */", '"ключ" = "Möwe";', '"CFBundleDisplayName" = "Zoë";', ""])
    data = text.encode(codec)
    document = parse_openstep(data)
    node = document.top.entries[1].value
    assert isinstance(node, Text) and node.value == "Zoë"
    source = document.source
    start, end = source.offset(node.start), source.offset(node.end)
    assert data[start:end].decode("utf-16-le" if codec == "utf-16" else codec.replace("-sig", "")) == '"Zoë"'
    assert (source.line(node.start), source.newline) == (3, newline)
    changed = data[:start] + source.raw('"Ωb"') + data[end:]
    assert changed.decode(codec) == text.replace('"Zoë"', '"Ωb"')


XML = """<?xml version="1.0" encoding="{0}"?>
<!DOCTYPE r [<!ENTITY app "Lendspan">]>
<r xmlns:a="urn:x" plain='1'>
  <!-- <s name="no">no</s> -->
  <s name="one" a:b = "x &amp; y">Grüße &lt;b&gt;</s>
  <s name='two'><![CDATA[raw <b> ü]]></s>
  <s name="three">&app;</s><e/>
  <s name="mixed">a<b>c</b></s>
</r>
"""


@pytest.mark.parametrize(
    "data",
    [
        b"<a><b></a>",
        b"",
        b"<a>&nope;</a>",
        b'<?xml version="1.0" encoding="nope"?><a/>',
        b"\xff\xfe<\x00a",
        b"<a>" * 600 + b"</a>" * 600,
        b'<!DOCTYPE a [<!ENTITY x "%s">]><a b="&x;"/>' % (b"x" * 5000),
        b'<!DOCTYPE a [<!ENTITY x "%s">]><a><b>&x;</b></a>' % (b"x" * 5000),
        b"<!DOCTYPE a [<!ENTITY x SYSTEM 'file:///etc/passwd'>]><a>&x;</a>x",
    ],
)
def test_broken_xml_names_the_line(data: bytes) -> None:
    """Malformed or hostile XML is a FormatError with a line, never another exception."""
    with pytest.raises(FormatError) as caught:
        parse_xml(data)
    assert caught.value.line >= 1


def test_openstep_opening_and_faults() -> None:
    """A missing build setting is inserted in order; broken files give a line."""
    data = b"// !$*UTF8*$!\n{\n\tbuildSettings = {\n\t\tA = 1;\n\t\tC = (\n\t\t\tx,\n\t\t);\n\t};\n}\n"
    document = parse_openstep(data)
    for key in ("B", "D", "0"):
        at, before, after = opening(document, document.top.dict("buildSettings"), key)
        changed = parse_openstep(data[:at] + f"{before}v{after}".encode() + data[at:])
        assert [entry.key.value for entry in changed.top.dict("buildSettings").entries] == sorted(["A", "C", key])
    for broken in (b"{ a = ; }", b"{ a = 1 b = 2; }", b'{ a = "x; }', b"{ a = (1, 2; }", b"{" * 300, b"{ a = 1; } x"):
        with pytest.raises(FormatError) as caught:
            parse_openstep(broken)
        assert caught.value.line == 1


CODE = [
    (".kt", 'val a = "x ${f("y")} z" // c "n"\n/* a /* b */ "no" */ val b = `it\'s` + """r\\${q}"""', ["x ", "y", " z"]),
    (".java", 'char c = \'"\'; String s = "a\\"b"; /* " */ String t = """\n x "q" """;', ['"', 'a\\"b', '\n x "q" ']),
    (".swift", 'let a = #"x"y"#; let b = "p\\(q("r"))s" /* /* */ "n" */', ['x"y', "p", "r", "s"]),
    (".gradle", "def r = ~/a'b/; x = 6 / 2 / 1; s 'it\\'s' // '\n t \"${u ? 'v' : \"w\"}\"", ["it\\'s", "", "v", "w", ""]),
    (".m", '@"a" // "b\n#define X "c"', ["a", "c"]),
    (".dart", "var a = r'\\'; var b = '''x'y'''; var c = '${d['e']}';", ["\\", "x'y", "", "e", ""]),
    (".rb", "target 'App' # 'no'\n=begin\n'no'\n=end\nx \"#{y 'z'}\"", ["App", "", "z", ""]),
    (".js", "a = /['\"]/; b = `c${'d'}e`; // 'f'", ["c", "d", "e"]),
]


def test_readers_never_crash_and_tokens_join_back() -> None:
    """On random mixtures of marks every lexer ends, in order, inside the text."""
    chance = random.Random(7)
    marks = ['"', "'", "`", "/*", "*/", "//", "${", "}", "{", "\\", "\n", "a", "$", "(", ")", '"""', "#", "é", "/", "="]
    for _ in range(400):
        text = "".join(chance.choice(marks) for _ in range(40))
        view = Source.read(text.encode()).view
        for language in LANGUAGES.values():
            ends = [0]
            for token in tokens(view, language):
                assert ends[-1] <= token.start <= token.end <= len(view)
                ends.append(token.end)
            assert all(0 <= r.start <= r.end <= len(view) for r in regions(view, language))
        for parse in (parse_xml, parse_openstep, parse_plist):
            with pytest.raises(FormatError) if parse is not parse_openstep else _maybe():
                parse(text.encode())
        parse_xcconfig(text.encode())
        parse_properties(text.encode())


class _maybe:
    def __enter__(self) -> None:
        return None

    def __exit__(self, kind: type | None, *_: object) -> bool:
        return kind is not None and issubclass(kind, FormatError)


# -- project files: plain objects are read when they are asked for

_WORDS = st.sampled_from(["isa", "A1", "PBXFileReference", "a/b.c", '"x y"', '"q\\"u"', '"}"', '"; = {"', '"/* no */"', "Ü", '"\\U00e9"', '"$(A)"', "_.:-"])
_GAPS = st.sampled_from(["", " ", "\n\t", " /* c; } */ ", "// } = ;\n"])


@st.composite
def _values(draw: st.DrawFn, depth: int = 0) -> str:
    """A value of a property list as people and tools write it: with gaps, comments, doubled keys, odd ends."""
    kind = draw(st.sampled_from(["word", "word", "array", "dict"] if depth < 3 else ["word"]))
    if kind == "word":
        return draw(_WORDS)
    if kind == "array":
        inner = "".join(f"{draw(_GAPS)}{draw(_values(depth + 1))}{draw(_GAPS)}," for _ in range(draw(st.integers(0, 3))))
        return f"({inner}{draw(_GAPS)})"
    return f"{{{draw(_members(depth))}{draw(_GAPS)}}}"


@st.composite
def _members(draw: st.DrawFn, depth: int) -> str:
    return "".join(f"{draw(_GAPS)}{draw(_WORDS)}{draw(_GAPS)}={draw(_GAPS)}{draw(_values(depth + 1))}{draw(_GAPS)};" for _ in range(draw(st.integers(0, 4))))


def _shape(node: openstep.Node) -> object:
    if isinstance(node, openstep.Text):
        return node.value, node.start, node.end
    if isinstance(node, openstep.Array):
        return node.start, node.end, [_shape(item) for item in node.items]
    return node.start, node.end, [(_shape(entry.key), _shape(entry.value), entry.end) for entry in node.entries]


@given(st.one_of(_members(0).map(lambda text: f"{{{text}}}"), _members(0)), st.sampled_from(["utf-8", "utf-16"]))
def test_what_is_read_late_is_what_is_read_at_once(text: str, encoding: str) -> None:
    """Values, spans and order are the same, however an object is read."""
    read = openstep.parse_openstep.__wrapped__
    found = _shape(read(text.encode(encoding)).top)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(openstep, "_PLAIN", re.compile(r"(?!)"))
        assert found == _shape(read(text.encode(encoding)).top)


FIVE = "{ // comment\n  a: 'it\\'s', $b: +7, \"c\": .5, d: 0x1F, e: -1, f: [1., 'x',], 'g h': null, }\n"


def test_json5_is_read_where_a_tool_reads_it() -> None:
    """Keys without quotes, texts in single ones, more numbers; elsewhere it is refused by its name, with the line."""
    top = parse_json(FIVE.encode(), True).top
    assert plain(top) == {"a": "it's", "$b": 7, "c": 0.5, "d": 31, "e": -1, "f": [1.0, "x"], "g h": None}
    single = top.get("a")
    assert single is not None and single.syntax == "single" and FIVE[single.start : single.end] == "'it\\'s'"
    for text in ("{a: 1}", "{'a': 1}", "{\"a\": 'b'}", '{"a": .5}', '{"a": +1}'):
        with pytest.raises(FormatError, match="JSON5"):
            parse_json(text.encode())
    for text in ("{a b: 1}", "{a: b}", "{1a: 1}", "{'a: 1}", "{a: 0x}"):
        with pytest.raises(FormatError):
            parse_json(text.encode(), True)
