"""Nothing takes for ever: every pattern of the program meets inputs made to slow it down, at two sizes."""

from __future__ import annotations

import ast
import re
import signal
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

import onomaxis

pytestmark = pytest.mark.faults

SOURCE = Path(onomaxis.__file__).parent
CALLS = {"compile", "match", "search", "finditer", "fullmatch", "findall", "sub", "subn", "split"}
UNITS = [
    " ",
    "\n",
    "\t",
    " \n",
    "\r\n",
    "a",
    "A",
    "1",
    "_",
    "/",
    "*",
    "/*",
    "*/",
    "//",
    "#",
    "\\",
    "\\\\",
    "\\a",
    '"',
    "'",
    '""',
    '"a',
    "(",
    ")",
    "[",
    "]",
    "{",
    "}",
    "<",
    ">",
    "<a",
    "<!--",
    "=",
    "a=",
    "=a",
    " a",
    "a ",
    "a.",
    ".a",
    ",",
    ", ",
    "a,",
    ":",
    "::",
    "a:",
    ";",
    "-",
    "$",
    "${",
    "@",
    "&",
    "%",
    "+",
    "?",
    "|",
    "`",
    "0x",
    "a/",
    "/a",
    "import ",
    "\udc80",
]


# Patterns that never meet more than so many characters: their callers see to it.
BOUNDED = {"(?P<flavor>.+?)": 120, r"\w*\Z": 200}


def patterns() -> Iterator[tuple[str, str | bytes, int, bool]]:
    """Yield every pattern in the source: where it stands, its text, its flags, whether it is tried at one place alone.

    What is filled into a pattern is a word here.
    """
    for path in sorted(SOURCE.rglob("*.py")):
        text_ = path.read_text("utf-8")
        tree = ast.parse(text_)
        names = {}
        for node in tree.body:
            if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
                text = text_of(node.value, names)
                if text is not None:
                    names[node.targets[0].id] = text
        seen = set()
        for node in ast.walk(tree):
            if (
                isinstance(node, ast.Call)
                and isinstance(node.func, ast.Attribute)
                and node.func.attr in CALLS
                and getattr(node.func.value, "id", "") in ("re", "late")
            ):
                text = text_of(node.args[0], names)
                flags = 0
                for word in ast.walk(ast.Module([ast.Expr(item) for item in (*node.args[1:], *(k.value for k in node.keywords if k.arg == "flags"))], [])):
                    if isinstance(word, ast.Attribute) and getattr(word.value, "id", "") == "re":
                        flag = getattr(re, word.attr)
                        flags |= flag if isinstance(flag, re.RegexFlag) else 0
                if text is not None and (text, flags) not in seen:
                    seen.add((text, flags))
                    yield (f"{path.relative_to(SOURCE).as_posix()}:{node.lineno}", text, flags, at_one_place(node, text_))


def at_one_place(node: ast.Call, module: str) -> bool:
    """Tell whether a pattern is only ever matched at a given place, never sought."""
    method = node.func.attr
    if method in ("match", "fullmatch"):
        return True
    if method != "compile":
        return False
    line = module.splitlines()[node.lineno - 1 - next((i for i in range(3) if " = " in module.splitlines()[node.lineno - 1 - i]), 0)]
    if re.search(r"(?:re|late)\.compile\(.*\)\.(?:full)?match\(", line):
        return True
    name = line.partition(" = ")[0].strip()
    where = module if name.startswith("_") else "\n".join(path.read_text("utf-8") for path in SOURCE.rglob("*.py"))
    uses = set(re.findall(rf"\b{re.escape(name)}\b\.(\w+)\(", where)) if name.isidentifier() else set()
    return bool(uses) and uses <= {"match", "fullmatch"}


def text_of(node: ast.expr, names: dict[str, str | bytes]) -> str | bytes | None:
    if isinstance(node, ast.Constant) and isinstance(node.value, str | bytes):
        return node.value
    if isinstance(node, ast.Name):
        return names.get(node.id)
    if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add):
        left, right = text_of(node.left, names), text_of(node.right, names)
        return left + right if isinstance(left, type(right)) and left is not None else None
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr == "encode":
        inner = text_of(node.func.value, names)
        return inner.encode() if isinstance(inner, str) else None
    if isinstance(node, ast.JoinedStr):
        parts = []
        for item in node.values:
            found = item.value if isinstance(item, ast.Constant) else text_of(item.value, names)
            parts.append(found if isinstance(found, str) else "word")
        return "".join(parts)
    return None


def literal(pattern: str | bytes) -> list[str]:
    """Return the stretches of plain characters in a pattern: what an input needs to come past its beginning."""
    text = pattern.decode("latin-1") if isinstance(pattern, bytes) else pattern
    words = re.findall(r"[A-Za-z<\[({\"'/.=-]{2,}", re.sub(r"\\[a-zA-Z]|\(\?[^)]*\)?|\[[^\]]*\]", " ", text).replace("\\", ""))
    return list(dict.fromkeys([word for word in words if "?" not in word]))[:3]


def seconds(compiled: re.Pattern, text: str | bytes, alone: bool) -> float:
    start = time.perf_counter()
    signal.setitimer(signal.ITIMER_REAL, LONGEST)
    try:
        if alone:
            compiled.match(text)
        else:
            for _ in zip(range(3), compiled.finditer(text), strict=False):
                pass
    except TimeoutError:
        return LONGEST
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
    return time.perf_counter() - start


LONGEST = 2.0


def _ring(*_: object) -> None:
    raise TimeoutError


@pytest.fixture(autouse=True)
def _bounded() -> Iterator[None]:
    """Let no pattern run longer than the limit: the engine looks for signals now and then."""
    before = signal.signal(signal.SIGALRM, _ring)
    yield
    signal.signal(signal.SIGALRM, before)


@pytest.mark.parametrize(("where", "pattern", "flags", "alone"), list(patterns()), ids=lambda item: item if isinstance(item, str) and ".py:" in item else "")
def test_every_pattern_is_linear(where: str, pattern: str | bytes, flags: int, alone: bool) -> None:
    """Four times the input takes about four times the time, not sixteen: repeats of every unit, after leads of its own."""
    compiled = re.compile(pattern, flags)
    longest = next((most for start, most in BOUNDED.items() if isinstance(pattern, str) and pattern.startswith(start)), 8_000)
    for lead in ["", *literal(pattern)]:
        for unit in [*UNITS, *literal(pattern)]:
            for tail in ("\0", "!\n"):
                texts: list[str | bytes] = []
                for size in (min(300, longest), min(2_000, longest), longest):
                    text = lead + unit * (size // len(unit)) + tail
                    texts.append(text.encode("utf-8", "surrogatepass") if isinstance(pattern, bytes) else text)
                said = f"{where} {pattern!r} on {lead!r} + {unit!r} * n + {tail!r}"
                assert seconds(compiled, texts[0], alone) < 0.5, said
                first = seconds(compiled, texts[1], alone)
                if first < 0.002:
                    continue
                first = min(first, seconds(compiled, texts[1], alone))
                second = min(seconds(compiled, texts[2], alone) for _ in range(2))
                assert second < max(9 * first, 0.04), f"{said}: {first:.4f} s, {second:.4f} s"


def test_groups_are_atomic_where_nothing_is_given_back() -> None:
    """Python before 3.11.5 goes on where a possessive group's last, failed try had come to: no pattern has one."""
    for where, pattern, _, _ in patterns():
        text = pattern.decode("latin-1") if isinstance(pattern, bytes) else pattern
        plain = re.sub(r"\\.|\[(?:\\.|[^\]\\])*\]", "x", text, flags=re.DOTALL)
        assert not re.search(r"\)(?:[*+?]|\{[\d,]+\})\+", plain), where
