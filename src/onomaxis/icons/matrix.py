"""Affine transforms and SVG path data: reading, making absolute, transforming, writing.

Source of the syntax: SVG 1.1, chapters 7.6 (transform) and 8.3 (path data), appendix F.6 (elliptical arcs).
"""

from __future__ import annotations

import math
from typing import NamedTuple

from onomaxis import late

Point = tuple[float, float]
Segment = tuple[str, tuple[Point, ...]]

_NUMBER = late.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_TRANSFORM = late.compile(r"(?<![A-Za-z])([A-Za-z]++)\s*+\(([^()]*+)\)")
_ARITY = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7, "Z": 0}


class Matrix(NamedTuple):
    """The transform ``x' = a x + c y + e``, ``y' = b x + d y + f``."""

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 1.0
    e: float = 0.0
    f: float = 0.0

    def then(self, inner: Matrix) -> Matrix:
        """Return the transform that applies *inner* first, then this one."""
        return Matrix(
            self.a * inner.a + self.c * inner.b,
            self.b * inner.a + self.d * inner.b,
            self.a * inner.c + self.c * inner.d,
            self.b * inner.c + self.d * inner.d,
            self.a * inner.e + self.c * inner.f + self.e,
            self.b * inner.e + self.d * inner.f + self.f,
        )

    def point(self, x: float, y: float) -> Point:
        """Transform a point."""
        return self.a * x + self.c * y + self.e, self.b * x + self.d * y + self.f

    def uniform(self) -> float | None:
        """Return the scale when circles stay circles, else None."""
        first, second = math.hypot(self.a, self.b), math.hypot(self.c, self.d)
        across = self.a * self.c + self.b * self.d
        if abs(first - second) > 1e-4 * max(first, second, 1e-9) or abs(across) > 1e-4 * max(first * second, 1e-9):
            return None
        return first


def numbers(text: str) -> list[float]:
    """Return every number in *text*."""
    return [float(match) for match in _NUMBER.findall(text)]


def parse_transform(text: str) -> Matrix:
    """Read a ``transform`` attribute. Raises ValueError for what is none."""
    result = Matrix()
    for name, inner in _TRANSFORM.findall(text):
        values = numbers(inner)
        result = result.then(_one_transform(name, values))
    return result


def _one_transform(name: str, v: list[float]) -> Matrix:
    if name == "matrix" and len(v) == 6:
        return Matrix(*v)
    if name == "translate" and v:
        return Matrix(e=v[0], f=v[1] if len(v) > 1 else 0.0)
    if name == "scale" and v:
        return Matrix(a=v[0], d=v[1] if len(v) > 1 else v[0])
    if name == "rotate" and v:
        turn = math.radians(v[0])
        plain = Matrix(math.cos(turn), math.sin(turn), -math.sin(turn), math.cos(turn))
        if len(v) == 3:
            return Matrix(e=v[1], f=v[2]).then(plain).then(Matrix(e=-v[1], f=-v[2]))
        return plain
    if name == "skewX" and v:
        return Matrix(c=math.tan(math.radians(v[0])))
    if name == "skewY" and v:
        return Matrix(b=math.tan(math.radians(v[0])))
    raise ValueError(f"transform {name}() is not understood")


def parse_path(data: str) -> list[Segment]:
    """Read path data into absolute ``M``, ``L``, ``C``, ``Z`` segments. Raises ValueError for broken data."""
    return _Path(data).segments


class _Path:
    def __init__(self, data: str) -> None:
        self.data = data
        self.at = 0
        self.segments: list[Segment] = []
        self.here: Point = (0.0, 0.0)
        self.start: Point = (0.0, 0.0)
        self.control: tuple[str, Point] = ("", (0.0, 0.0))
        self.read()

    def skip(self) -> None:
        while self.at < len(self.data) and self.data[self.at] in " \t\r\n\f,":
            self.at += 1

    def number(self, flag: bool = False) -> float:
        self.skip()
        if flag:
            if self.data[self.at : self.at + 1] not in ("0", "1"):
                raise ValueError("an arc flag is neither 0 nor 1")
            self.at += 1
            return float(self.data[self.at - 1])
        match = _NUMBER.match(self.data, self.at)
        if match is None:
            raise ValueError("a number is missing in the path data")
        self.at = match.end()
        return float(match[0])

    def read(self) -> None:
        command = ""
        while True:
            self.skip()
            if self.at >= len(self.data):
                return
            if self.data[self.at].isalpha():
                command = self.data[self.at]
                self.at += 1
                if command.upper() not in _ARITY:
                    raise ValueError(f"path command {command} is not known")
            elif not command or command in "zZ":
                raise ValueError("path data without a command")
            upper = command.upper()
            arc = upper == "A"
            values = [self.number(arc and index in (3, 4)) for index in range(_ARITY[upper])]
            self.step(upper, values, command.islower())
            if upper == "M":
                command = "l" if command.islower() else "L"

    def step(self, command: str, v: list[float], relative: bool) -> None:
        x, y = self.here
        dx, dy = (x, y) if relative else (0.0, 0.0)
        control: tuple[str, Point] = ("", (0.0, 0.0))
        if command == "Z":
            self.segments.append(("Z", ()))
            self.here = self.start
        elif command == "M":
            self.here = self.start = (v[0] + dx, v[1] + dy)
            self.segments.append(("M", (self.here,)))
        elif command in "LHV":
            to = (v[0] + dx if command != "V" else x, (v[-1] + dy) if command != "H" else y)
            self.here = to
            self.segments.append(("L", (to,)))
        elif command in "CS":
            first = (v[0] + dx, v[1] + dy) if command == "C" else self.mirrored("C")
            rest = v[-4:]
            second, to = (rest[0] + dx, rest[1] + dy), (rest[2] + dx, rest[3] + dy)
            self.segments.append(("C", (first, second, to)))
            self.here, control = to, ("C", second)
        elif command in "QT":
            middle = (v[0] + dx, v[1] + dy) if command == "Q" else self.mirrored("Q")
            to = (v[-2] + dx, v[-1] + dy)
            self.segments.append(("C", _raised((x, y), middle, to)))
            self.here, control = to, ("Q", middle)
        else:
            to = (v[5] + dx, v[6] + dy)
            self.segments += _arc((x, y), v[0], v[1], v[2], bool(v[3]), bool(v[4]), to)
            self.here = to
        self.control = control

    def mirrored(self, kind: str) -> Point:
        if self.control[0] != kind:
            return self.here
        return 2 * self.here[0] - self.control[1][0], 2 * self.here[1] - self.control[1][1]


def _raised(start: Point, middle: Point, end: Point) -> tuple[Point, Point, Point]:
    """Raise a quadratic curve to a cubic one."""
    first = (start[0] + 2 / 3 * (middle[0] - start[0]), start[1] + 2 / 3 * (middle[1] - start[1]))
    second = (end[0] + 2 / 3 * (middle[0] - end[0]), end[1] + 2 / 3 * (middle[1] - end[1]))
    return first, second, end


def _arc(p: Point, rx: float, ry: float, turn: float, large: bool, sweep: bool, q: Point) -> list[Segment]:
    """Turn an elliptical arc into cubic curves (SVG 1.1, F.6.5 and F.6.6)."""
    if p == q:
        return []
    rx, ry = abs(rx), abs(ry)
    if rx < 1e-9 or ry < 1e-9:
        return [("L", (q,))]
    phi = math.radians(turn)
    cos, sin = math.cos(phi), math.sin(phi)
    hx, hy = (p[0] - q[0]) / 2, (p[1] - q[1]) / 2
    x1, y1 = cos * hx + sin * hy, -sin * hx + cos * hy
    grow = (x1 / rx) ** 2 + (y1 / ry) ** 2
    if grow > 1:
        rx, ry = rx * math.sqrt(grow), ry * math.sqrt(grow)
    top = max(0.0, rx**2 * ry**2 - rx**2 * y1**2 - ry**2 * x1**2)
    factor = math.sqrt(top / (rx**2 * y1**2 + ry**2 * x1**2)) * (-1 if large == sweep else 1)
    cx1, cy1 = factor * rx * y1 / ry, -factor * ry * x1 / rx
    cx, cy = cos * cx1 - sin * cy1 + (p[0] + q[0]) / 2, sin * cx1 + cos * cy1 + (p[1] + q[1]) / 2
    first = math.atan2((y1 - cy1) / ry, (x1 - cx1) / rx)
    delta = math.atan2((-y1 - cy1) / ry, (-x1 - cx1) / rx) - first
    if sweep and delta < 0:
        delta += 2 * math.pi
    if not sweep and delta > 0:
        delta -= 2 * math.pi
    place = Matrix(cos * rx, sin * rx, -sin * ry, cos * ry, cx, cy)
    count = max(1, math.ceil(abs(delta) / (math.pi / 2) - 1e-9))
    step = delta / count
    reach = 4 / 3 * math.tan(step / 4)
    found: list[Segment] = []
    for index in range(count):
        a, b = first + index * step, first + (index + 1) * step
        one = place.point(math.cos(a) - reach * math.sin(a), math.sin(a) + reach * math.cos(a))
        two = place.point(math.cos(b) + reach * math.sin(b), math.sin(b) - reach * math.cos(b))
        end = q if index == count - 1 else place.point(math.cos(b), math.sin(b))
        found.append(("C", (one, two, end)))
    return found


def transformed(segments: list[Segment], matrix: Matrix) -> list[Segment]:
    """Transform every point."""
    return [(command, tuple(matrix.point(*point) for point in points)) for command, points in segments]


def number(value: float, digits: int = 3) -> str:
    """Write a number shortly: no trailing zeros, no negative zero."""
    text = f"{value:.{digits}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def path_data(segments: list[Segment]) -> str:
    """Write segments as path data."""
    return "".join(command + " ".join(f"{number(x)},{number(y)}" for x, y in points) for command, points in segments)


def bounds(segments: list[Segment]) -> tuple[float, float, float, float] | None:
    """Return the box around a path; curves are followed in 48 steps."""
    points: list[Point] = []
    here: Point = (0.0, 0.0)
    for command, found in segments:
        if command == "C":
            points += [_on_curve((here, *found), step / 48) for step in range(1, 49)]
        else:
            points += found
        here = found[-1] if found else here
    if not points:
        return None
    xs, ys = [x for x, _ in points], [y for _, y in points]
    return min(xs), min(ys), max(xs), max(ys)


def _on_curve(curve: tuple[Point, ...], t: float) -> Point:
    u = 1 - t
    weights = (u**3, 3 * u * u * t, 3 * u * t * t, t**3)
    return (
        sum(weight * point[0] for weight, point in zip(weights, curve, strict=True)),
        sum(weight * point[1] for weight, point in zip(weights, curve, strict=True)),
    )
