"""SVG as vector drawables: what can be expressed looks the same when it is drawn again; the rest says why not."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest

from conftest import files, judge
from onomaxis.icons.css import Inexpressible
from onomaxis.icons.layers import silhouette
from onomaxis.icons.matrix import Matrix, parse_path, parse_transform, path_data, transformed
from onomaxis.icons.pixels import placed, to_picture
from onomaxis.icons.scaled import render_svg
from onomaxis.icons.vectorize import Vectorizer, differing
from onomaxis.icons.vectors import VectorReader

pytestmark = pytest.mark.pictures

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 100 100">{}</svg>'
STOPS = '<stop offset="0" stop-color="#c33"/><stop offset="60%" style="stop-color:gold;stop-opacity:.7"/><stop offset="1" stop-color="rgb(20,60,200)"/>'
GOOD = {
    "shapes": '<rect x="5" y="5" width="40" height="30" rx="8" fill="tomato"/><circle cx="70" cy="25" r="18" fill="#28f"/>'
    '<ellipse cx="25" cy="70" rx="20" ry="12"/><polygon points="60,60 90,60 75,90" fill="gold"/>'
    '<polyline points="50,50 55,95 58,60" fill="none" stroke="navy" stroke-width="3"/>'
    '<line x1="2" y1="98" x2="98" y2="2" stroke="#0a0" stroke-width="2"/>',
    "path commands": '<path d="m10 10h30v20l-10 10-20-10zM60 10c10 0 20 10 20 20s-10 20-20 20q-15 0-15-15t15-25z" fill="#803"/>'
    '<path d="M10 60C20 50 40 50 50 60S80 70 90 60V90H10Z" fill="teal"/>',
    "arcs": '<path d="M20 20A30 20 30 1 1 70 60a15 15 0 01-30-10z" fill="#164"/><path d="M70 80a10 10 0 1020 0 10 10 0 10-20 0z"/>',
    "fill rules": '<path fill-rule="evenodd" d="M10 10h80v80H10zM30 30h40v40H30z" fill="#555"/><path d="M20 20h20v20H20zM25 25v10h10V25z" fill="red"/>',
    "transforms": '<g transform="translate(50 50) rotate(30) scale(.5)"><rect x="-50" y="-50" width="100" height="100" fill="#0aa"/>'
    '<g transform="skewX(20)"><circle r="30" fill="white"/></g></g>'
    '<rect width="10" height="10" transform="matrix(1 .5 -.5 2 30 10)" fill="purple"/>',
    "strokes": '<path d="M10 80L30 20L50 80L70 20L90 80" fill="none" stroke="#222" stroke-width="7" stroke-linejoin="round" '
    'stroke-linecap="round"/><path d="M10 95h30l-15-12" fill="none" stroke="red" stroke-width="4" '
    'stroke-linejoin="bevel" stroke-linecap="square"/>',
    "stroke scaled": '<g transform="rotate(45 50 50) scale(2)" stroke="#06c" stroke-width="4" fill="#fc0"><circle cx="25" cy="25" r="12"/></g>',
    "opacity": '<rect width="60" height="60" fill="red" opacity=".5"/><rect x="30" y="30" width="60" height="60" fill="rgba(0,0,255,.4)"/>'
    '<circle cx="50" cy="50" r="10" fill-opacity="30%"/>',
    "linear gradient": f'<defs><linearGradient id="a" x1="0" y1="0" x2="1" y2="1">{STOPS}</linearGradient></defs>'
    '<rect x="10" y="20" width="80" height="40" fill="url(#a)"/>',
    "user space and spread": f'<linearGradient id="a" gradientUnits="userSpaceOnUse" x1="20" x2="40" spreadMethod="reflect" '
    f'gradientTransform="rotate(20)">{STOPS}</linearGradient><circle cx="50" cy="50" r="45" fill="url(#a)"/>',
    "radial gradient": f'<radialGradient id="b">{STOPS}</radialGradient><radialGradient id="a" xlink:href="#b" r=".6"/>'
    '<rect x="20" y="20" width="60" height="60" fill="url(#a)" transform="rotate(10 50 50)"/>',
    "gradient by a curve's box": f'<linearGradient id="a">{STOPS}</linearGradient><path d="M10 50C30 -20 70 120 90 50V90H10z" fill="url(#a)"/>',
    "use and symbol": '<defs><g id="p"><rect width="20" height="20" fill="#a40"/></g><symbol id="s"><circle cx="10" cy="10" r="9"/></symbol></defs>'
    '<use href="#p" x="10" y="10"/><use xlink:href="#p" transform="translate(60 60) rotate(45)"/><use href="#s" x="60" y="10" fill="green"/>',
    "clip paths": '<clipPath id="c"><circle cx="50" cy="50" r="40"/></clipPath><clipPath id="d"><rect x="30" width="70" height="100"/></clipPath>'
    '<g clip-path="url(#c)"><rect width="100" height="100" fill="#284"/><rect width="100" height="50" fill="#8c4" clip-path="url(#d)"/></g>',
    "style sheet": "<style>.a{fill:#936;stroke:none} #b{fill:orange} rect{stroke:black;stroke-width:2}</style>"
    '<rect class="a" x="5" y="5" width="40" height="40"/><rect id="b" x="50" y="50" width="40" height="40" style="stroke-width:6"/>',
}
BAD = {
    "text": "<text>x</text>",
    "image": '<image href="data:image/png;base64,AA=="/>',
    "mask": '<g mask="url(#m)"><rect width="9" height="9"/></g>',
    "filter": '<rect width="9" height="9" filter="url(#f)"/>',
    "pattern": '<pattern id="p"/><rect width="9" height="9" fill="url(#p)"/>',
    "dashes": '<path d="M0 0h9" stroke="red" stroke-dasharray="2"/>',
    "opacity of a group": '<g opacity=".5"><rect width="9" height="9"/><rect width="5" height="5"/></g>',
    "unequal scale": '<path transform="scale(1 3)" d="M0 0h9" stroke="red"/>',
    "focal point": f'<radialGradient id="a" fx=".2">{STOPS}</radialGradient><rect width="9" height="9" fill="url(#a)"/>',
    "stretched radial": f'<radialGradient id="a">{STOPS}</radialGradient><rect width="9" height="5" fill="url(#a)"/>',
    "blend mode": '<rect width="9" height="9" style="mix-blend-mode:multiply"/>',
    "nothing is painted": '<rect width="9" height="9" fill="none"/>',
    "colour": '<rect width="9" height="9" fill="hsl(1 2% 3%)"/>',
    "32,767": f'<path d="M0 0{"L12.345 67.891" * 4000}"/>',
    "selector": '<style>g > rect{fill:red}</style><rect width="9" height="9"/>',
    "even-odd": '<clipPath id="c"><path clip-rule="evenodd" d="M0 0h9v9z"/></clipPath><rect width="9" height="9" clip-path="url(#c)"/>',
    "path command": '<path d="M0 0 X 9"/>',
    "length": '<rect width="50%" height="9"/>',
}


@pytest.mark.parametrize("art", list(GOOD))
def test_what_can_be_expressed_looks_the_same(art: str, tmp_path: Path) -> None:
    """Under 0.5 % of the pixels differ by more than 16 levels; the silhouette has the same alpha; aapt2 takes it."""
    svg = HEAD.format(GOOD[art])
    for scale, shift in ((1.0, (0.0, 0.0)), (0.5, (0.25, -0.1))):
        data = Vectorizer(svg).drawable(scale, shift)
        again = to_picture(render_svg(VectorReader(data, lambda name: name).svg(), 240, 240))
        wanted = placed(to_picture(render_svg(svg, round(240 * scale), round(240 * scale))), 240, scale, shift)
        assert differing(again, wanted) < 0.005
    white = Vectorizer(svg, white=True).drawable(1.0, (0.0, 0.0))
    again = to_picture(render_svg(VectorReader(white, lambda name: name).svg(), 240, 240))
    assert differing(again, silhouette(to_picture(render_svg(svg, 240, 240)))) < 0.005
    files(tmp_path / "res/drawable", {"art.xml": data})
    done = subprocess.run([judge("aapt2"), "compile", "--dir", tmp_path / "res", "-o", tmp_path / "o.zip"], capture_output=True)
    assert done.returncode == 0, done.stderr


@pytest.mark.parametrize("reason", list(BAD))
def test_what_cannot_be_expressed_says_why(reason: str) -> None:
    """The reason names the feature, so that a person can take it out of the art."""
    with pytest.raises(Inexpressible) as caught:
        Vectorizer(HEAD.format(BAD[reason])).drawable(1.0, (0.0, 0.0))
    assert any(word in str(caught.value) for word in reason.split()), str(caught.value)


@pytest.mark.parametrize("data", ["M0 0 10 10", "m.5.5.5.5", "M1-2-3 4z", "M0 0h1e1v-2E-1", "M0,0a1 1 0 011 1", "M0 0q1 2 3 4t5 6s1 1 2 2"])
def test_path_data_reads_back(data: str) -> None:
    """Reading what was written gives the same segments; transforming and back too."""
    segments = parse_path(data)
    again = parse_path(path_data(segments))
    assert [command for command, _ in again] == [command for command, _ in segments]
    turn = Matrix(0, 1, -1, 0, 5, 7)
    back = transformed(transformed(segments, turn), Matrix(0, -1, 1, 0, -7, 5))
    for (_, one), (_, other) in zip(segments, back, strict=True):
        assert all(abs(a[0] - b[0]) < 1e-9 and abs(a[1] - b[1]) < 1e-9 for a, b in zip(one, other, strict=True))
    assert parse_transform("rotate(90 5 5)").point(5, 0) == pytest.approx((10, 5))
