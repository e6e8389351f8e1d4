"""Nothing takes for ever: every pattern of the program meets inputs made to slow it down, at two sizes."""

from __future__ import annotations

import ast
import re
import signal
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

import onomaxis
from conftest import least

pytestmark = pytest.mark.faults

SOURCE = Path(onomaxis.__file__).parent
CALLS = {"compile", "match", "search", "finditer", "fullmatch", "findall", "sub", "subn", "split"}
UNITS = [
    *(" ", "\n", "\t", " \n", "\r\n", " a", "a ", ", ", "import ", "\udc80"),
    *r"""a A 1 _ / * /* */ // # \ \\ \a " ' "" "a ( ) [ ] { } < > <a <!-- = a= =a a. .a , a, : :: a: ; - $ ${ @ & % + ? | ` 0x a/ /a""".split(),
]
# Patterns that never meet more than so many characters: their callers see to it.
BOUNDED = {"(?P<flavor>.+?)": 120, r"\w*\Z": 200}
LONGEST = 2.0
AGAIN = 12


@cache
def source(part: str) -> dict[Path, str]:
    """Return the files of a folder of the program, or one file beside the folders."""
    found = SOURCE / part
    return {path: path.read_text("utf-8") for path in ([found] if found.is_file() else sorted(found.rglob("*.py")))}


@cache
def methods() -> dict[str, set[str]]:
    """Return what every name of the program is asked for: ``name.method(``."""
    found: dict[str, set[str]] = {}
    for text in source(".").values():
        for name, method in re.findall(r"\b(\w+)\.(\w+)\(", text):
            found.setdefault(name, set()).add(method)
    return found


def patterns(part: str) -> Iterator[tuple[str, str | bytes, int, bool]]:
    """Yield every pattern in a part of the source: where it stands, its text, its flags, whether it is tried at one place alone.

    What is filled into a pattern is a word here.
    """
    for path, module in source(part).items():
        tree = ast.parse(module)
        names: dict[str, str | bytes] = {}
        for node in tree.body:
            if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
                text = text_of(node.value, names)
                if text is not None:
                    names[node.targets[0].id] = text
        seen = set()
        for node in ast.walk(tree):
            if not (isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in CALLS):
                continue
            if getattr(node.func.value, "id", "") not in ("re", "late"):
                continue
            text = text_of(node.args[0], names)
            flags = 0
            for word in ast.walk(ast.Module([ast.Expr(item) for item in (*node.args[1:], *(k.value for k in node.keywords if k.arg == "flags"))], [])):
                if isinstance(word, ast.Attribute) and getattr(word.value, "id", "") == "re":
                    flag = getattr(re, word.attr)
                    flags |= flag if isinstance(flag, re.RegexFlag) else 0
            if text is not None and (text, flags) not in seen:
                seen.add((text, flags))
                yield (f"{path.relative_to(SOURCE).as_posix()}:{node.lineno}", text, flags, at_one_place(node, module))


def at_one_place(node: ast.Call, module: str) -> bool:
    """Tell whether a pattern is only ever matched at a given place, never sought."""
    method = node.func.attr
    if method in ("match", "fullmatch"):
        return True
    if method != "compile":
        return False
    lines = module.splitlines()
    line = lines[node.lineno - 1 - next((i for i in range(3) if " = " in lines[node.lineno - 1 - i]), 0)]
    if re.search(r"(?:re|late)\.compile\(.*\)\.(?:full)?match\(", line):
        return True
    name = line.partition(" = ")[0].strip()
    if not name.isidentifier():
        return False
    uses = set(re.findall(rf"\b{re.escape(name)}\b\.(\w+)\(", module)) if name.startswith("_") else methods().get(name, set())
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


def plain(pattern: str | bytes) -> str:
    return pattern.decode("latin-1") if isinstance(pattern, bytes) else pattern


def literal(pattern: str | bytes) -> list[str]:
    """Return the stretches of plain characters in a pattern: what an input needs to come past its beginning."""
    words = re.findall(r"[A-Za-z<\[({\"'/.=-]{2,}", re.sub(r"\\[a-zA-Z]|\(\?[^)]*\)?|\[[^\]]*\]", " ", plain(pattern)).replace("\\", ""))
    return list(dict.fromkeys([word for word in words if "?" not in word]))[:3]


def seconds(compiled: re.Pattern, text: str | bytes, alone: bool, enough: float = 0, tries: int = 1) -> float:
    """Return the processor time of looking for a pattern, the least of some tries; no longer than the limit."""

    def look() -> None:
        if alone:
            compiled.match(text)
        else:
            for _ in zip(range(3), compiled.finditer(text), strict=False):
                pass

    signal.setitimer(signal.ITIMER_VIRTUAL, LONGEST)
    try:
        return least(look, enough, tries)
    except TimeoutError:
        return LONGEST
    finally:
        signal.setitimer(signal.ITIMER_VIRTUAL, 0)


def _ring(*_: object) -> None:
    raise TimeoutError


@pytest.fixture(autouse=True)
def _bounded() -> Iterator[None]:
    """Let no pattern run longer than the limit: the engine looks for signals now and then."""
    before = signal.signal(signal.SIGVTALRM, _ring)
    yield
    signal.signal(signal.SIGVTALRM, before)


def linear(pattern: str | bytes, flags: int, alone: bool) -> str:
    """Return on which input a pattern takes more than its share as the input grows, or nothing."""
    compiled = re.compile(pattern, flags)
    longest = next((most for start, most in BOUNDED.items() if isinstance(pattern, str) and pattern.startswith(start)), 8_000)
    for lead in ["", *literal(pattern)]:
        for unit in [*UNITS, *literal(pattern)]:
            for tail in ("\0", "!\n"):
                texts: list[str | bytes] = []
                for size in (min(300, longest), min(2_000, longest), longest):
                    text = lead + unit * (size // len(unit)) + tail
                    texts.append(text.encode("utf-8", "surrogatepass") if isinstance(pattern, bytes) else text)
                said = f"{lead!r} + {unit!r} * n + {tail!r}"
                if seconds(compiled, texts[0], alone, 0.5, tries=2) > 0.5:
                    return said
                first = seconds(compiled, texts[1], alone, 0.002, tries=3)
                if first > 0.002:
                    second = seconds(compiled, texts[2], alone, 9 * first, tries=3)
                    # A machine that others slow down takes longer now and then: a pattern that is not linear always does.
                    for _ in range(AGAIN):
                        if second <= max(9 * first, 0.04):
                            break
                        first = min(first, seconds(compiled, texts[1], alone))
                        second = min(second, seconds(compiled, texts[2], alone))
                    else:
                        return f"{said}: {first:.4f} s, {second:.4f} s"
    return ""


@pytest.mark.parametrize("part", sorted(path.name for path in SOURCE.iterdir() if path.suffix in ("", ".py")))
def test_every_pattern_is_linear(part: str) -> None:
    """Four times the input takes about four times the time, not sixteen: repeats of every unit, after leads of its own.

    Python before 3.11.5 goes on where a possessive group's last, failed try had come to: no pattern has one.
    """
    for where, pattern, flags, alone in patterns(part):
        assert not linear(pattern, flags, alone), (where, pattern)
        bare = re.sub(r"\\.|\[(?:\\.|[^\]\\])*\]", "x", plain(pattern), flags=re.DOTALL)
        assert not re.search(r"\)(?:[*+?]|\{[\d,]+\})\+", bare), where


@pytest.mark.parametrize("pattern", [r"(a+)+!", r"\s*=\s*$", r"(?:a|aa)+;"])
def test_a_pattern_that_is_not_linear_is_found(pattern: str) -> None:
    """The judge of patterns judges."""
    assert linear(pattern, 0, False)
