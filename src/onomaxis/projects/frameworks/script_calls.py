"""What calls and operators of a configuration script give that are followed: on texts, lists, objects.

Source: ECMA-262, "String Objects", "Array Objects", "Object Objects".
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Protocol

from onomaxis.formats.escapes import replaced, trimmed
from onomaxis.projects.frameworks.script_data import (
    Absent,
    Closure,
    Data,
    Doubt,
    Host,
    Table,
    Text,
    computed,
    grown,
    joined,
    spoiled,
    sure,
    text_of,
    truth,
)

_LONGEST_NUMBER = 15


class Runner(Protocol):
    """Who runs a script, for the calls in it."""

    candidates: dict[str, dict[str, None]]

    def called(self, of: Data, args: list[Data]) -> Data:
        """Return what a function gives."""

    def same(self, left: Data, right: Data) -> bool | Doubt:
        """Tell whether two values are equal."""


def _whole(value: Data) -> int | Doubt:
    text = str(value) if isinstance(value, Text) else ""
    sign, digits = (-1, text[1:]) if text.startswith("-") else (1, text)
    if not digits.isdecimal() or len(digits) > _LONGEST_NUMBER:
        return value if isinstance(value, Doubt) else Doubt("it is not a whole number")
    return sign * int(digits)


def number(value: Data) -> Data:
    """Return a value as a number, by the literal that says it."""
    found = _whole(value)
    if isinstance(found, Doubt):
        return found
    assert isinstance(value, Text)
    return replace(value, number=True) if str(found) == str(value) else computed(found)


def counted(value: Data, by: int) -> Data:
    """Return a number counted up or down."""
    found = _whole(value)
    return found if isinstance(found, Doubt) else computed(found + by)


def combined(sign: str, left: Data, right: Data) -> Data:
    """Return what an operator makes of two values."""
    numbers = all(isinstance(item, Text) and item.number for item in (left, right))
    if sign == "+" and not numbers:
        return joined([left, right])
    if sign not in _NUMBERS or not numbers:
        return next((item for item in (left, right) if isinstance(item, Doubt)), Doubt(f"“{sign}” is not followed"))
    one, other = _whole(left), _whole(right)
    if isinstance(one, Doubt) or isinstance(other, Doubt):
        return one if isinstance(one, Doubt) else other  # type: ignore[return-value]
    if (sign == "%" and (other <= 0 or one < 0)) or (sign == "/" and (other == 0 or one % other)):
        return Doubt("what is left of a division is not followed")
    found = _NUMBERS[sign](one, other)
    return found if isinstance(found, bool) else computed(found)


_NUMBERS: Mapping[str, Callable[[int, int], int | bool]] = {
    "+": lambda left, right: left + right,
    "-": lambda left, right: left - right,
    "*": lambda left, right: left * right,
    "%": lambda left, right: left % right,
    "/": lambda left, right: left // right,
    "<": lambda left, right: left < right,
    ">": lambda left, right: left > right,
    "<=": lambda left, right: left <= right,
    ">=": lambda left, right: left >= right,
}


def made(name: str, args: list[Data]) -> Data:
    """Return what a call by a name of the language gives: ``String(a)``, ``Number(a)``, ``parseInt(a, 10)``."""
    if name == "String" and args:
        text = text_of(args[0])
        return replace(text, number=False) if isinstance(text, Text) else text
    if name in ("Number", "parseInt") and args:
        return number(args[0])
    if name == "Boolean" and args:
        return truth(args[0])
    return Doubt(f"{name}() is called when the build runs")


def method(run: Runner, of: Data, name: str, args: list[Data]) -> Data:
    """Return what a call on a value gives."""
    found: Data | None = None
    doubt = next((item for item in args if isinstance(item, Doubt)), None)
    if isinstance(of, Host):
        found = _of_host(of.name, name, args)
    elif isinstance(of, Text):
        if of.asked and name in ("startsWith", "endsWith", "includes") and args and isinstance(args[0], Text):
            run.candidates.setdefault(of.asked, {})[str(args[0])] = None
        found = doubt or _of_text(of, name, args)
    elif isinstance(of, list):
        found = _of_list(run, of, name, args)
    elif isinstance(of, Table) and name == "hasOwnProperty" and of.doubt is None and args:
        found = str(text_of(args[0])) in of.entries
    return found if found is not None else Doubt(f"{name}() is called when the build runs")


def _of_host(host: str, name: str, args: list[Data]) -> Data | None:
    table = args[0] if args else None
    if host == "Number" and name == "parseInt":
        return made("Number", args)
    if host == "Math" and name in ("max", "min", "floor", "round", "trunc") and args:
        numbers = [_whole(arg) for arg in args]
        doubt = next((item for item in numbers if isinstance(item, Doubt)), None)
        return doubt or computed(min(numbers) if name == "min" else max(numbers))  # type: ignore[type-var]
    if host == "console":
        return Absent()
    if host == "Object" and name in ("freeze", "seal") and table is not None:
        return table
    if host == "Object" and name == "assign" and isinstance(table, Table):
        for other in args[1:]:
            table.take(other)
        return table
    if host == "Object" and isinstance(table, Table):
        if table.doubt is not None:
            return table.doubt
        if name == "keys":
            return [computed(key) for key in table.entries]
        if name == "values":
            return list(table.entries.values())
        if name == "entries":
            return [[computed(key), value] for key, value in table.entries.items()]
    if host == "Object" and name == "fromEntries" and isinstance(table, list):
        pairs = [item for item in table if isinstance(item, list) and len(item) == 2 and isinstance(item[0], Text)]
        return Table({str(pair[0]): pair[1] for pair in pairs}) if len(pairs) == len(table) else None
    return None


# Calls on a text that give another text or an answer; arguments are texts.
_TEXTS: Mapping[str, Callable[..., object]] = {
    "toLowerCase": str.lower,
    "toLocaleLowerCase": str.lower,
    "toUpperCase": str.upper,
    "toLocaleUpperCase": str.upper,
    "replace": lambda text, old, new: text.replace(old, new, 1),
    "replaceAll": replaced,
    "startsWith": str.startswith,
    "endsWith": str.endswith,
    "includes": lambda text, part: part in text,
    "charAt": lambda text, at: text[int(at) : int(at) + 1],
    "concat": lambda text, *others: text + "".join(others),
    "padStart": lambda text, length, fill=" ": text.rjust(min(int(length), 200), fill),
}


def _of_text(of: Text, name: str, args: list[Data]) -> Data | None:
    text = str(of)
    if name in ("toString", "valueOf") and not args:
        return replace(of, number=False)
    if name == "trim":
        return replace(of, pieces=trimmed(of.pieces))
    words: list[str] = []
    for arg in args:
        said = text_of(arg)
        if isinstance(said, Doubt):
            return said
        words.append(str(said))
    if name == "split" and len(words) == 1 and words[0]:
        return [computed(part) for part in text.split(words[0])]
    if name in ("slice", "substring") and all(word.isdecimal() for word in words):
        return computed(text[slice(*(int(word) for word in words))] if len(words) == 2 else text[int(words[0]) :])
    call = _TEXTS.get(name)
    if call is None or ("$" in words[-1] if name.startswith("replace") and words else False):
        return None
    try:
        given = call(text, *words)
    except (TypeError, ValueError):
        return None
    return given if isinstance(given, bool) else of if given == text else computed(given)


def _of_list(run: Runner, of: list[Data], name: str, args: list[Data]) -> Data | None:
    first = args[0] if args else None
    known = sure(of)
    if isinstance(known, Doubt):
        return known
    if name == "join":
        return joined(of, str(text_of(first)) if first is not None else ",")
    if name in ("includes", "indexOf") and first is not None:
        answers = [run.same(item, first) for item in of]
        doubt = next((item for item in answers if isinstance(item, Doubt)), None)
        if doubt is not None:
            return doubt
        return any(answers) if name == "includes" else computed(answers.index(True) if True in answers else -1)
    if name == "push":
        of[:] = grown(of, args)
        return computed(len(of))
    if name == "concat":
        return grown(of, [part for arg in args for part in (arg if isinstance(arg, list) else [arg])])
    if name in ("reverse", "sort", "splice", "shift", "unshift", "pop", "fill"):
        spoiled(of, Doubt(f"{name}() is not followed"))
        return None
    if not isinstance(first, Closure | Host):
        return None
    if name in ("map", "flatMap", "forEach"):
        found = [run.called(first, [item, computed(at)]) for at, item in enumerate(list(of))]
        if name == "flatMap":
            return grown([], [part for item in found for part in (item if isinstance(item, list) else [item])])
        return found if name == "map" else Absent()
    if name in ("find", "filter", "some", "every", "findIndex"):
        answers = [truth(run.called(first, [item])) for item in of]
        doubt = next((item for item in answers if isinstance(item, Doubt)), None)
        if doubt is not None:
            return doubt
        chosen = [item for item, answer in zip(of, answers, strict=True) if answer]
        if name == "findIndex":
            return computed(answers.index(True) if True in answers else -1)
        if name == "find":
            return chosen[0] if chosen else Absent()
        return chosen if name == "filter" else any(answers) if name == "some" else all(answers)
    if name == "reduce" and len(args) == 2:
        total = args[1]
        for item in list(of):
            total = run.called(first, [total, item])
        return total
    return None
